"""Fills and strokes: colours, and gradients brought into the shape's own space."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from xml.etree.ElementTree import Element

from gaitwire.core.geometry.bounds import Box
from gaitwire.core.puppet.art import Gradient, Matrix, Paint, Solid, Stop, Stroke, compose
from gaitwire.formats.reading import Notes
from gaitwire.formats.svg import values
from gaitwire.formats.svg.document import href, local_name
from gaitwire.formats.svg.outline import Page
from gaitwire.formats.svg.style import Cascade, CssStyle

_CAPS = {"butt": "butt", "round": "round", "square": "square"}
_JOINS = {"miter": "miter", "round": "round", "bevel": "bevel", "miter-clip": "miter", "arcs": "miter"}


class Paints:
    """Reads paints of one document: gradients by id, the page that percentages refer to."""

    def __init__(self, ids: Mapping[str, Element], cascade: Cascade, notes: Notes) -> None:
        self._ids = ids
        self._cascade = cascade
        self._notes = notes

    def paint(self, text: str, opacity: float, style: CssStyle, box: Box | None, page: Page) -> Paint | None:
        """What `fill` or `stroke` says; None for none. `box` is the shape's own, before its matrix."""
        text = text.strip()
        if text in ("none", "transparent"):
            return None
        target = values.url_target(text)
        if target is not None:
            element = self._ids.get(target)
            fallback = text[text.index(")") + 1 :].strip()
            if element is not None and local_name(element) in ("linearGradient", "radialGradient"):
                return self._gradient(element, opacity, box, page)
            if element is not None:
                self._notes.add(f"A fill of the kind “{local_name(element)}” was not kept.")
            if not fallback or fallback == "none":
                return None
            text = fallback
        found = values.color(text, style.get("color", "black"))
        if found is None:
            self._notes.add(f"The colour “{text[:30]}” was not understood.")
            return None
        return Solid(color=found[0], opacity=found[1] * opacity)

    def _chain(self, element: Element) -> list[Element]:
        """The gradient and those it refers to, nearest first."""
        chain = [element]
        while len(chain) < 16:
            target = self._ids.get(href(chain[-1])[1:])
            if target is None or target in chain:
                break
            chain.append(target)
        return chain

    def _stops(self, chain: list[Element]) -> tuple[Stop, ...]:
        for element in chain:
            found: list[Stop] = []
            for child in element:
                if local_name(child) == "stop":
                    style = self._cascade.style(child, {})
                    color = values.color(style.get("stop-color", "black"), style.get("color", "black")) or (
                        "#000000",
                        1.0,
                    )
                    offset = max(values.share(child.get("offset"), 0.0), found[-1].offset if found else 0.0)
                    found.append(Stop(offset, color[0], color[1] * values.share(style.get("stop-opacity"))))
            if found:
                return tuple(found)
        return ()

    def _gradient(self, element: Element, opacity: float, box: Box | None, page: Page) -> Paint | None:
        chain = self._chain(element)

        def attribute(name: str) -> str | None:
            return next((e.get(name) for e in chain if e.get(name) is not None), None)

        stops = self._stops(chain)
        if not stops:
            return None
        if len(stops) == 1:
            return Solid(color=stops[0].color, opacity=stops[0].opacity * opacity)
        user_space = attribute("gradientUnits") == "userSpaceOnUse"
        matrix: Matrix = values.components(values.transform(attribute("gradientTransform")))
        if not user_space:
            if box is None or box.width <= 0 or box.height <= 0:
                return None  # As SVG has it: nothing is painted where the box is flat.
            matrix = compose((box.width, 0, 0, box.height, box.x0, box.y0), matrix)
        size = page if user_space else (1.0, 1.0)
        spread = attribute("spreadMethod")
        linear = local_name(element) == "linearGradient"
        coords = self._line(attribute, size) if linear else self._circles(attribute, size)
        return Gradient(
            kind="linear" if linear else "radial",
            coords=coords,
            matrix=matrix,
            spread=spread if spread in ("reflect", "repeat") else "pad",
            stops=stops,
            opacity=opacity,
        )

    @staticmethod
    def _line(attribute: Callable[[str], str | None], size: Page) -> tuple[float, ...]:
        w, h = size
        return (
            values.length(attribute("x1"), w), values.length(attribute("y1"), h),
            values.length(attribute("x2"), w, w), values.length(attribute("y2"), h),
        )  # fmt: skip

    @staticmethod
    def _circles(attribute: Callable[[str], str | None], size: Page) -> tuple[float, ...]:
        w, h = size
        diagonal = ((w * w + h * h) / 2) ** 0.5
        cx, cy = values.length(attribute("cx"), w, w / 2), values.length(attribute("cy"), h, h / 2)
        r = values.length(attribute("r"), diagonal, diagonal / 2)
        fx, fy = values.length(attribute("fx"), w, cx), values.length(attribute("fy"), h, cy)
        return cx, cy, r, fx, fy, values.length(attribute("fr"), diagonal)

    def stroke(self, style: CssStyle, box: Box | None, page: Page) -> Stroke | None:
        """The stroke a style asks for, lengths in the shape's own space; None for none."""
        opacity = values.share(style.get("stroke-opacity"))
        paint = self.paint(style.get("stroke", "none"), opacity, style, box, page)
        diagonal = ((page[0] ** 2 + page[1] ** 2) / 2) ** 0.5
        width = values.length(style.get("stroke-width"), diagonal, 1.0)
        if paint is None or width <= 0:
            return None
        dash_text = style.get("stroke-dasharray", "none")
        dash = (
            ()
            if dash_text == "none"
            else tuple(values.length(t, diagonal) for t in dash_text.replace(",", " ").split())
        )
        if len(dash) % 2:
            dash = dash * 2
        if any(d < 0 for d in dash) or sum(dash) <= 0:
            dash = ()
        return Stroke.model_validate(
            {
                "paint": paint,
                "width": width,
                "cap": _CAPS.get(style.get("stroke-linecap", "butt"), "butt"),
                "join": _JOINS.get(style.get("stroke-linejoin", "miter"), "miter"),
                "miter": max(1.0, values.length(style.get("stroke-miterlimit"), 1.0, 4.0)),
                "dash": dash,
                "dash_offset": values.length(style.get("stroke-dashoffset"), diagonal),
            }
        )


def in_space(paint: Paint | None, matrix: Matrix) -> Paint | None:
    """The paint after its shape's points were moved by the matrix."""
    if isinstance(paint, Gradient):
        return paint.model_copy(update={"matrix": compose(matrix, paint.matrix)})
    return paint
