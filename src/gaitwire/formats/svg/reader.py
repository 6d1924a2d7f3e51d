"""read_svg: bytes to a `Reading`."""

from __future__ import annotations

from collections.abc import Iterable
from xml.etree.ElementTree import Element

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.puppet.art import Art, ArtNode, Group
from gaitwire.core.puppet.boxes import node_box
from gaitwire.formats.naming import distinct
from gaitwire.formats.reading import LIMITS, Notes, ReadFolder, Reading, ReadPart
from gaitwire.formats.svg import values
from gaitwire.formats.svg.builder import Builder, Context
from gaitwire.formats.svg.document import parse_document
from gaitwire.formats.svg.layers import SvgLayer, find_layers, given_name
from gaitwire.formats.svg.viewport import fit


def _page(root: Element) -> tuple[float, float]:
    """Width and height in pixels: as stated, else the view box's."""
    box = values.numbers(root.get("viewBox") or "")
    vw, vh = (box[2], box[3]) if len(box) == 4 else (300.0, 150.0)
    width, height = root.get("width") or "", root.get("height") or ""
    w = values.length(width, vw, vw) if not width.endswith("%") else vw
    h = values.length(height, vh, vh) if not height.endswith("%") else vh
    if len(box) == 4 and width and not height:
        h = w * vh / vw if vw else h
    if len(box) == 4 and height and not width:
        w = h * vw / vh if vh else w
    if not (0 < w <= 1e5 and 0 < h <= 1e5):
        raise UnreadableArtError(
            "This SVG's page has no size, or a huge one.", "Give it a width and a height in pixels."
        )
    return w, h


class _Collector:
    """Gathers parts and folders while the layers are built."""

    def __init__(self, builder: Builder, page: Context) -> None:
        self.builder = builder
        self.page = page
        self.parts: list[ReadPart] = []
        self.folders: list[ReadFolder] = []
        self._places: dict[int, int] = {}
        self._part_names: set[str] = set()
        self._folder_names: set[str] = set()

    def _folder(self, chain: tuple[Element, ...]) -> int | None:
        parent: int | None = None
        for element in chain:
            if id(element) not in self._places:
                name = given_name(element) or (self.folders[parent].name if parent is not None else "group")
                self._places[id(element)] = len(self.folders)
                self.folders.append(ReadFolder(distinct(name, self._folder_names), parent))
            parent = self._places[id(element)]
        return parent

    def _context(self, chain: Iterable[Element]) -> tuple[Context, bool]:
        """The context inside the folders, and whether one of them is hidden."""
        context, hidden = self.page, False
        for element in chain:
            context = self.builder.enter(element, context)
            hidden |= context.style.get("display") == "none"
        return context, hidden

    def add(self, layer: SvgLayer) -> None:
        context, hidden = self._context(layer.chain)
        nodes = []
        for element in layer.elements:
            node = self.builder.node(element, context)
            if node is None and self.builder.style(element, context).get("display") == "none":
                node, hidden = self._hidden(element, context), True
            if node is not None:
                nodes.append(node)
        flat = tuple(_opened(nodes))
        box = union(b for n in flat if (b := node_box(n)) is not None)
        if box is None:
            return
        if len(self.parts) >= LIMITS.parts:
            raise TooLargeError(f"This SVG has more than {LIMITS.parts} layers.", "Group shapes that move together.")
        rounded = Box(*(round(v, 4) for v in box))
        name = distinct(layer.name, self._part_names)
        self.parts.append(ReadPart(name, Art(nodes=flat, box=rounded), self._folder(layer.chain), hidden))

    def _hidden(self, element: Element, context: Context) -> ArtNode | None:
        """A hidden layer is kept, hidden: it may be another mouth or hand."""
        children = self.builder.children(element, self.builder.enter(element, context))
        return Group(children=children) if children else None


def _opened(nodes: Iterable[ArtNode]) -> Iterable[ArtNode]:
    """Groups that do nothing are opened up."""
    for node in nodes:
        if isinstance(node, Group) and node.opacity == 1.0 and not node.clips:
            yield from _opened(node.children)
        else:
            yield node


def read_svg(data: bytes, name: str = "puppet") -> Reading:
    """Read a layered SVG.

    Raises UnreadableArtError (or its kind TooLargeError) for anything that is no safe, drawable SVG.
    """
    root = parse_document(data)
    notes = Notes()
    ids: dict[str, Element] = {}
    for element in root.iter():
        ids.setdefault(element.get("id") or "", element)
    ids.pop("", None)
    builder = Builder(root, ids, notes)
    width, height = _page(root)
    matrix, inner = fit(root.get("viewBox"), root.get("preserveAspectRatio"), 0, 0, width, height)
    page = Context(matrix, builder.style(root, Context(matrix, {}, inner)), inner)
    collector = _Collector(builder, page)
    try:
        for layer in find_layers(root):
            collector.add(layer)
    except RecursionError:
        raise TooLargeError("This SVG refers to itself too deeply.", "Save it again as plain SVG.") from None
    if not collector.parts:
        why = " ".join(notes)
        raise UnreadableArtError("There is nothing to draw in this SVG.", why or "Draw a shape in it.")
    return Reading(
        name=name,
        width=round(width, 4),
        height=round(height, 4),
        parts=tuple(collector.parts),
        folders=tuple(collector.folders),
        pictures=builder.pictures,
        notes=tuple(notes),
    )
