"""Elements to art nodes: transforms, use and symbol, clips, masks, opacity, pictures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal
from xml.etree.ElementTree import Element

from gaitwire.core.errors import TooLargeError
from gaitwire.core.geometry.path import path_box
from gaitwire.core.puppet.art import ArtNode, ClipPath, FillRule, Group, Matrix, Picture, Shape, Stroke, compose
from gaitwire.core.puppet.boxes import node_box
from gaitwire.formats.pictures import check_picture, data_of
from gaitwire.formats.reading import LIMITS, Notes
from gaitwire.formats.svg import values
from gaitwire.formats.svg.document import href, local_name
from gaitwire.formats.svg.outline import (
    SHAPES,
    Command,
    Page,
    PointBudget,
    is_similarity,
    outline,
    rectangle,
    scale_of,
    to_data,
)  # fmt: skip
from gaitwire.formats.svg.paint import Paints, in_space
from gaitwire.formats.svg.style import Cascade, CssStyle
from gaitwire.formats.svg.viewport import fit

_SILENT = {
    "", "defs", "title", "desc", "metadata", "style", "linearGradient", "radialGradient", "clipPath", "mask", "filter",
    "pattern",
    "marker", "symbol", "view", "stop", "namedview", "cursor", "color-profile", "font", "glyph",
}  # fmt: skip
_REMARKS = {
    "text": "Text was left out: turn it into outlines first.",
    "foreignObject": "A web page inside the drawing was left out.",
    "animate": "Animation inside the SVG was left out.",
    "animateTransform": "Animation inside the SVG was left out.",
    "animateMotion": "Animation inside the SVG was left out.",
    "set": "Animation inside the SVG was left out.",
}


@dataclass(frozen=True)
class Context:
    """What an element inherits: its matrix to the page, its parent's style, its viewport's size."""

    matrix: Matrix
    style: CssStyle
    page: Page
    uses: tuple[str, ...] = ()


class Builder:
    """Builds art nodes of one document."""

    def __init__(self, root: Element, ids: dict[str, Element], notes: Notes) -> None:
        self.ids = ids
        self.notes = notes
        self.cascade = Cascade(root, notes)
        self.paints = Paints(ids, self.cascade, notes)
        self.pictures: dict[str, tuple[str, bytes]] = {}
        self.budget = PointBudget()
        self._made = 0
        self._kinds: dict[str, Callable[[Element, Context], ArtNode | None]] = {
            "g": self._group, "a": self._group, "switch": self._switch,
            "svg": self._inner_svg, "use": self._use, "image": self._image,
            **dict.fromkeys(SHAPES, self._shape),
        }  # fmt: skip

    def style(self, element: Element, context: Context) -> dict[str, str]:
        return self.cascade.style(element, context.style)

    def enter(self, element: Element, context: Context) -> Context:
        """The context of the element's children."""
        matrix = compose(context.matrix, values.components(values.transform(element.get("transform"))))
        return Context(matrix, self.style(element, context), context.page, context.uses)

    def node(self, element: Element, context: Context) -> ArtNode | None:
        """The element as art, or None when it draws nothing."""
        name = local_name(element)
        make = self._kinds.get(name)
        if make is None:
            if name in _REMARKS:
                self.notes.add(_REMARKS[name])
            elif name not in _SILENT:
                self.notes.add(f"An element of the kind “{name}” was left out.")
            return None
        self._made += 1
        if self._made > LIMITS.nodes:
            raise TooLargeError(f"Repeated by “use”, this SVG has more than {LIMITS.nodes} shapes.", "Simplify it.")
        inner = self.enter(element, context)
        if inner.style.get("display") == "none":
            return None
        made = make(element, inner)
        return None if made is None else self.with_effects(made, element, inner)

    def children(self, element: Element, context: Context) -> tuple[ArtNode, ...]:
        return tuple(n for child in element if (n := self.node(child, context)) is not None)

    def with_effects(self, node: ArtNode, element: Element, inner: Context) -> ArtNode:
        """The node under the element's own opacity, clip and mask."""
        style = inner.style
        for name, remark in (
            ("filter", "A filter effect was not kept."),
            ("mix-blend-mode", "A blend mode was not kept."),
        ):
            if style.get(name, "none") not in ("none", "normal"):
                self.notes.add(remark)
        clips = [*self._clip(style.get("clip-path"), node, inner), *self._mask(style.get("mask"), node, inner)]
        opacity = values.share(style.get("opacity"))
        if not clips and opacity == 1.0:
            return node
        if not clips and isinstance(node, (Shape, Picture)):
            return node.model_copy(update={"opacity": node.opacity * opacity})
        children = node.children if isinstance(node, Group) and not node.clips and node.opacity == 1 else (node,)
        return Group(children=children, clips=tuple(clips), opacity=opacity)

    def _group(self, element: Element, inner: Context) -> ArtNode | None:
        children = self.children(element, inner)
        return Group(children=children) if children else None

    def _switch(self, element: Element, inner: Context) -> ArtNode | None:
        for child in element:
            if local_name(child) not in ("", "foreignObject") and not child.get("requiredExtensions"):
                return self.node(child, inner)
        return None

    def _inner_svg(self, element: Element, inner: Context) -> ArtNode | None:
        return self._framed(element, inner, element.get("width"), element.get("height"))

    def _framed(self, element: Element, inner: Context, width: str | None, height: str | None) -> ArtNode | None:
        """An inner svg or symbol: its own coordinates, cut at its edge."""
        w, h = values.length(width, inner.page[0], inner.page[0]), values.length(height, inner.page[1], inner.page[1])
        if w <= 0 or h <= 0:
            return None
        is_svg = local_name(element) == "svg"
        x = values.length(element.get("x"), inner.page[0]) if is_svg else 0.0
        y = values.length(element.get("y"), inner.page[1]) if is_svg else 0.0
        matrix, page = fit(element.get("viewBox"), element.get("preserveAspectRatio"), x, y, w, h)
        children = self.children(element, Context(compose(inner.matrix, matrix), inner.style, page, inner.uses))
        if not children:
            return None
        if inner.style.get("overflow") in ("visible", "auto"):
            return Group(children=children)
        edge = ClipPath(paths=((to_data(rectangle(x, y, w, h), inner.matrix), "nonzero"),))
        return Group(children=children, clips=(edge,))

    def _use(self, element: Element, inner: Context) -> ArtNode | None:
        target_id = href(element)[1:]
        target = self.ids.get(target_id)
        if target is None:
            self.notes.add("A copy (“use”) of something that is not in the file was left out.")
            return None
        if target_id in inner.uses:
            self.notes.add("A copy (“use”) of itself was left out.")
            return None
        x, y = values.length(element.get("x"), inner.page[0]), values.length(element.get("y"), inner.page[1])
        moved = Context(compose(inner.matrix, (1, 0, 0, 1, x, y)), inner.style, inner.page, (*inner.uses, target_id))
        if local_name(target) == "symbol":
            symbol = self.enter(target, moved)
            return self._framed(target, symbol, element.get("width"), element.get("height"))
        return self.node(target, moved)

    def _shape(self, element: Element, inner: Context) -> ArtNode | None:
        style = inner.style
        if style.get("visibility") in ("hidden", "collapse"):
            return None
        if any(style.get(f"marker-{place}", "none") != "none" for place in ("start", "mid", "end")):
            self.notes.add("Markers (arrow heads) were left out.")
        commands = outline(element, inner.page, self.notes)
        if not commands:
            return None
        self.budget.spend(commands)
        return self._painted(commands, inner)

    def _painted(self, commands: list[Command], inner: Context) -> ArtNode | None:
        style, matrix = inner.style, inner.matrix
        box = path_box(to_data(commands, (1, 0, 0, 1, 0, 0)))
        fill = self.paints.paint(
            style.get("fill", "black"), values.share(style.get("fill-opacity")), style, box, inner.page
        )
        stroke = self.paints.stroke(style, box, inner.page)
        if fill is None and stroke is None:
            return None
        own: Matrix | None = None
        if stroke is not None and style.get("vector-effect") == "non-scaling-stroke":
            self.notes.add("A stroke that keeps its width when scaled will scale.")
            stroke = _scaled(stroke, 1 / max(scale_of(matrix), 1e-9))
        if stroke is not None and not is_similarity(matrix):
            own = matrix
        elif stroke is not None:
            stroke = _scaled(stroke.model_copy(update={"paint": in_space(stroke.paint, matrix)}), scale_of(matrix))
        if own is None:
            fill = in_space(fill, matrix)
        return Shape(
            d=to_data(commands, (1, 0, 0, 1, 0, 0) if own else matrix),
            fill=fill,
            rule=_rule(style.get("fill-rule")),
            stroke=stroke,
            stroke_first=_stroke_first(style.get("paint-order")),
            matrix=own,
        )

    def _image(self, element: Element, inner: Context) -> ArtNode | None:
        raw = data_of(href(element))
        picture = check_picture(raw, self.notes) if raw is not None else None
        if picture is None or inner.style.get("visibility") in ("hidden", "collapse"):
            return None
        digest, media_type, width, height, data = picture
        x, y = values.length(element.get("x"), inner.page[0]), values.length(element.get("y"), inner.page[1])
        w = values.length(element.get("width"), inner.page[0], width)
        h = values.length(element.get("height"), inner.page[1], height)
        if w <= 0 or h <= 0:
            return None
        self.pictures[digest] = (media_type, data)
        matrix, _ = fit(f"0 0 {width} {height}", element.get("preserveAspectRatio"), x, y, w, h)
        made = Picture(hash=digest, width=width, height=height, matrix=compose(inner.matrix, matrix))
        if "slice" not in (element.get("preserveAspectRatio") or ""):
            return made
        edge = ClipPath(paths=((to_data(rectangle(x, y, w, h), inner.matrix), "nonzero"),))
        return Group(children=(made,), clips=(edge,))

    def _clip(self, reference: str | None, node: ArtNode, inner: Context) -> list[ClipPath]:
        if not reference or reference == "none":
            return []
        element = self.ids.get(values.url_target(reference) or "")
        if element is None or local_name(element) != "clipPath":
            self.notes.add("A clip that is no clip path of the file was not kept.")
            return []
        space = self._effect_space(element.get("clipPathUnits"), node, inner)
        context = self.enter(element, Context(space, {}, inner.page, inner.uses))
        paths = tuple(self._clip_paths(element, context))
        nested = self._clip(self.style(element, context).get("clip-path"), node, inner)
        return [ClipPath(paths=paths), *nested]

    def _effect_space(self, units: str | None, node: ArtNode, inner: Context) -> Matrix:
        if units != "objectBoundingBox":
            return inner.matrix
        # The box is measured on the page; right for all transforms that keep rectangles upright.
        box = node_box(node, strokes=False)
        return inner.matrix if box is None else (box.width, 0, 0, box.height, box.x0, box.y0)

    def _clip_paths(self, element: Element, context: Context) -> list[tuple[str, FillRule]]:
        found: list[tuple[str, FillRule]] = []
        for child in element:
            name = local_name(child)
            inner = self.enter(child, context)
            if inner.style.get("display") == "none":
                continue
            if name == "use" and (target := self.ids.get(href(child)[1:])) is not None and local_name(target) in SHAPES:
                x, y = values.length(child.get("x"), inner.page[0]), values.length(child.get("y"), inner.page[1])
                inner = self.enter(target, Context(compose(inner.matrix, (1, 0, 0, 1, x, y)), inner.style, inner.page))
                child, name = target, local_name(target)
            if name in SHAPES:
                commands = outline(child, inner.page, self.notes)
                self.budget.spend(commands)
                found.append((to_data(commands, inner.matrix), _rule(inner.style.get("clip-rule"))))
            if inner.style.get("clip-path", "none") != "none":
                self.notes.add("A clip inside a clip was not kept.")
        return found

    def _mask(self, reference: str | None, node: ArtNode, inner: Context) -> list[ClipPath]:
        """A mask of plain white shapes is a clip; any other is not kept, and a note says so."""
        if not reference or reference == "none":
            return []
        element = self.ids.get(values.url_target(reference) or "")
        if element is None or local_name(element) != "mask":
            return []
        space = self._effect_space(element.get("maskContentUnits"), node, inner)
        drawn = self.children(element, Context(space, self.cascade.style(element, {}), inner.page, inner.uses))
        white = [n for n in drawn if isinstance(n, Shape) and _is_white(n)]
        if len(white) != len(drawn) or not drawn:
            self.notes.add("A soft or many-layered mask was not kept.")
            return []
        return [ClipPath(paths=tuple((s.d, s.rule) for s in white))]


def _is_white(shape: Shape) -> bool:
    fill = shape.fill
    plain = fill is not None and fill.kind == "solid" and fill.color == "#ffffff" and fill.opacity == 1.0
    return plain and shape.stroke is None and shape.opacity == 1.0


def _scaled(stroke: Stroke, by: float) -> Stroke:
    return stroke.model_copy(
        update={
            "width": stroke.width * by,
            "dash": tuple(d * by for d in stroke.dash),
            "dash_offset": stroke.dash_offset * by,
        }
    )


def _rule(text: str | None) -> Literal["nonzero", "evenodd"]:
    return "evenodd" if text == "evenodd" else "nonzero"


def _stroke_first(order: str | None) -> bool:
    words = (order or "normal").split()
    return "stroke" in words and ("fill" not in words or words.index("stroke") < words.index("fill"))
