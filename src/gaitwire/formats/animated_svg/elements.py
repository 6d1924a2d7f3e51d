"""Art nodes and animations as SVG text."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from typing import Protocol
from xml.sax.saxutils import escape, quoteattr

from gaitwire.core.geometry.path import number
from gaitwire.core.puppet.art import ArtNode, Gradient, Group, Matrix, Paint, Picture, Shape, Stroke
from gaitwire.formats.animated_svg.course import PropertyCourse

Pictures = Mapping[str, tuple[str, bytes]]


def matrix_text(matrix: Matrix) -> str:
    """matrix(...) with enough decimals that large coordinates stay exact."""
    return "matrix(" + " ".join(f"{v:.6g}" if abs(v) < 1 else number(v) for v in matrix) + ")"


class Defs:
    """Definitions that shapes refer to, each written once."""

    def __init__(self) -> None:
        self._ids: dict[str, str] = {}
        self.texts: list[str] = []

    def add(self, kind: str, body: str) -> str:
        """The id under which a definition stands; `body` holds {id} once."""
        if body not in self._ids:
            self._ids[body] = f"{kind}{len(self._ids) + 1}"
            self.texts.append(body.replace("{id}", self._ids[body]))
        return self._ids[body]

    def gradient(self, g: Gradient) -> str:
        """A gradient's id."""
        names = ("x1", "y1", "x2", "y2") if g.kind == "linear" else ("cx", "cy", "r", "fx", "fy", "fr")
        coords = " ".join(f'{n}="{number(v)}"' for n, v in zip(names, g.coords, strict=True))
        stops = "".join(
            f'<stop offset="{number(s.offset)}" stop-color="{s.color}"'
            + (f' stop-opacity="{number(s.opacity)}"' if s.opacity < 1 else "") + "/>"
            for s in g.stops
        )  # fmt: skip
        spread = f' spreadMethod="{g.spread}"' if g.spread != "pad" else ""
        tag = f"{g.kind}Gradient"
        return self.add(
            "paint",
            f'<{tag} id="{{id}}" gradientUnits="userSpaceOnUse" {coords}'
            f' gradientTransform="{matrix_text(g.matrix)}"{spread}>{stops}</{tag}>',
        )


class Course2D(Protocol):
    """Gives the next path of a drawing that bends: its data at first, and the animation of it."""

    def path(self, d: str) -> tuple[str, str]: ...


class Still:
    """Paths that stay as they are."""

    def path(self, d: str) -> tuple[str, str]:
        return d, ""


class ArtWriter:
    """Writes art nodes, collecting their definitions."""

    def __init__(self, pictures: Pictures) -> None:
        self.defs = Defs()
        self._pictures = pictures
        self._paths: Course2D = Still()

    def nodes(self, nodes: tuple[ArtNode, ...], paths: Course2D | None = None) -> str:
        """The nodes; `paths` animates their path data, each in turn."""
        self._paths = paths or Still()
        return self._each(nodes)

    def _each(self, nodes: tuple[ArtNode, ...]) -> str:
        return "".join(self._node(node) for node in nodes)

    def _node(self, node: ArtNode) -> str:
        if isinstance(node, Shape):
            return self._shape(node)
        return self._picture(node) if isinstance(node, Picture) else self._group(node)

    def _path(self, d: str, attributes: str) -> str:
        first, animated = self._paths.path(d)
        return f'<path d="{first}"{attributes}>{animated}</path>' if animated else f'<path d="{first}"{attributes}/>'

    def _paint(self, name: str, paint: Paint | None) -> str:
        if paint is None:
            return f' {name}="none"'
        value = f"url(#{self.defs.gradient(paint)})" if isinstance(paint, Gradient) else paint.color
        faded = f' {name}-opacity="{number(paint.opacity)}"' if paint.opacity < 1 else ""
        return f' {name}="{value}"{faded}'

    def _stroke(self, stroke: Stroke | None) -> str:
        if stroke is None:
            return ""
        out = self._paint("stroke", stroke.paint) + f' stroke-width="{number(stroke.width)}"'
        out += f' stroke-linecap="{stroke.cap}"' if stroke.cap != "butt" else ""
        out += f' stroke-linejoin="{stroke.join}"' if stroke.join != "miter" else ""
        out += f' stroke-miterlimit="{number(stroke.miter)}"' if stroke.miter != 4 else ""
        if stroke.dash:
            lengths = " ".join(map(number, stroke.dash))
            out += f' stroke-dasharray="{lengths}" stroke-dashoffset="{number(stroke.dash_offset)}"'
        return out

    def _shape(self, shape: Shape) -> str:
        rule = ' fill-rule="evenodd"' if shape.rule == "evenodd" else ""
        order = ' paint-order="stroke"' if shape.stroke_first else ""
        place = f' transform="{matrix_text(shape.matrix)}"' if shape.matrix else ""
        fade = f' opacity="{number(shape.opacity)}"' if shape.opacity < 1 else ""
        paints = f"{self._paint('fill', shape.fill)}{rule}{self._stroke(shape.stroke)}"
        return self._path(shape.d, f"{paints}{order}{place}{fade}")

    def _picture(self, picture: Picture) -> str:
        media_type, data = self._pictures[picture.hash]
        url = f"data:{media_type};base64,{base64.b64encode(data).decode()}"
        fade = f' opacity="{number(picture.opacity)}"' if picture.opacity < 1 else ""
        return (
            f'<image width="{picture.width}" height="{picture.height}" transform="{matrix_text(picture.matrix)}"'
            f' href="{url}"{fade} preserveAspectRatio="none"/>'
        )

    def _group(self, group: Group) -> str:
        clips = [
            "".join(self._path(d, ' clip-rule="evenodd"' if rule == "evenodd" else "") for d, rule in clip.paths)
            for clip in group.clips
        ]
        text = self._each(group.children)
        for paths in clips:
            clip_id = self.defs.add("clip", f'<clipPath id="{{id}}">{paths}</clipPath>')
            text = f'<g clip-path="url(#{clip_id})">{text}</g>'
        fade = f' opacity="{number(group.opacity)}"' if group.opacity < 1 else ""
        return f"<g{fade}>{text}</g>" if fade or not group.clips else text


def animation(
    tag: str, attributes: str, course: PropertyCourse, form: str, timing: str, first: float, end: float
) -> str:
    """An animation element that plays a course; `form` takes a value, as in '{} 0'.

    `timing` holds dur, repeatCount and fill.
    """
    span = end - first
    times, values, splines = [course.pieces[0].t0], [course.pieces[0].v0], []
    linear = True
    for piece in course.pieces:
        if abs(values[-1] - piece.v0) > 1e-9:  # A jump: two values at one time.
            times.append(piece.t0)
            values.append(piece.v0)
            splines.append("0 0 1 1")
        if piece.step:
            times.append(piece.t1)
            values.append(piece.v0)
            splines.append("0 0 1 1")
        times.append(piece.t1)
        values.append(piece.v1)
        splines.append(" ".join(number(h) for h in piece.handles))
        linear &= piece.handles == (0.0, 0.0, 1.0, 1.0)
    shares = [min(1.0, max(0.0, (t - first) / span)) for t in times]
    shares[0], shares[-1] = 0.0, 1.0
    key_times = ";".join(f"{s:.6g}" for s in shares)
    texts = ";".join(form.format(number(v)) for v in values)
    mode = "" if linear else f' calcMode="spline" keySplines="{";".join(splines)}"'
    return f'<{tag} {attributes} values="{texts}" keyTimes="{key_times}"{mode} {timing}/>'


def label(name: str) -> str:
    """A name as an attribute that people and programs can read."""
    return f" data-name={quoteattr(name)}"


def title(name: str) -> str:
    return f"<title>{escape(name)}</title>"
