"""OpenRaster (.ora): layers with their offsets, groups, opacity and visibility.

Source: the OpenRaster specification 0.0.6, as much of its baseline as a puppet needs. The first
layer of a stack lies on top. A layer's offset counts from the picture's corner.
"""

from __future__ import annotations

from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.formats.layer_pictures import PixelBudget, trimmed
from gaitwire.formats.naming import distinct
from gaitwire.formats.pictures import load_picture
from gaitwire.formats.reading import LIMITS, Notes, ReadFolder, Reading, ReadPart
from gaitwire.formats.safe_zip import SafeZip

MIMETYPE = b"image/openraster"


def is_openraster(archive: SafeZip) -> bool:
    """Whether an archive says that it is OpenRaster."""
    return "stack.xml" in archive and ("mimetype" not in archive or archive.read("mimetype").strip() == MIMETYPE)


def _number(element: Element, name: str, default: float) -> float:
    try:
        value = float(element.get(name) or default)
    except ValueError:
        return default
    return value if abs(value) <= LIMITS.coordinate else default


class _Collector:
    """Gathers layers, topmost first, as the file lists them."""

    def __init__(self, archive: SafeZip, notes: Notes) -> None:
        self.archive, self.notes = archive, notes
        self.parts: list[ReadPart] = []
        self.folders: list[ReadFolder] = []
        self.pictures: dict[str, tuple[str, bytes]] = {}
        self._budget = PixelBudget()
        self._names: set[str] = set()
        self._folder_names: set[str] = set()

    def stack(self, element: Element, folder: int | None, opacity: float, hidden: bool, depth: int) -> None:
        if depth > LIMITS.depth:
            raise TooLargeError("The groups of this file lie too deep in each other.", "Take some of them apart.")
        for child in element:
            seen = (child.get("visibility") or "visible") == "visible"
            share = opacity * min(1.0, max(0.0, _number(child, "opacity", 1.0)))
            if (child.get("composite-op") or "svg:src-over") != "svg:src-over":
                self.notes.add("Blend modes are not kept: the layer is laid over plainly.")
            if child.tag == "stack":
                self._group(child, folder, share, hidden or not seen, depth)
            elif child.tag == "layer":
                self._layer(child, folder, share, hidden or not seen)
            else:
                self.notes.add(f"A {child.tag} layer was left out.")

    def _group(self, element: Element, folder: int | None, opacity: float, hidden: bool, depth: int) -> None:
        if _number(element, "x", 0) or _number(element, "y", 0):
            self.notes.add("A group's own offset was left out; its layers have theirs.")
        if opacity < 1:
            self.notes.add("A group's opacity went to each of its layers.")
        self.folders.append(ReadFolder(distinct(element.get("name") or "group", self._folder_names), folder))
        self.stack(element, len(self.folders) - 1, opacity, hidden, depth + 1)

    def _layer(self, element: Element, folder: int | None, opacity: float, hidden: bool) -> None:
        if len(self.parts) >= LIMITS.parts:
            raise TooLargeError(f"This file has more than {LIMITS.parts} layers.", "Merge those that move together.")
        source = element.get("src") or ""
        if source not in self.archive:
            self.notes.add("A layer whose picture is missing was left out.")
            return
        loaded = load_picture(self.archive.read(source), self.notes)
        if loaded is None:
            return
        if not self._budget.take(*loaded[0][2:4]):
            raise TooLargeError("The layers of this file have too many pixels together.", "Make the picture smaller.")
        found = trimmed(loaded, _number(element, "x", 0), _number(element, "y", 0), opacity)
        if found is None:
            self.notes.add("An empty layer was left out.")
            return
        art, kept = found
        self.pictures[kept[0]] = (kept[1], kept[4])
        name = distinct(element.get("name") or "layer", self._names)
        self.parts.append(ReadPart(name, art, folder, hidden))


def read_openraster(archive: SafeZip, name: str = "puppet") -> Reading:
    """Read an OpenRaster file.

    Raises UnreadableArtError (or its kind TooLargeError) for anything that is no safe one.
    """
    try:
        root: Element = fromstring(archive.read("stack.xml"), forbid_dtd=True)
    except DefusedXmlException:
        raise UnreadableArtError("This file's list of layers declares entities.", "Save it again.") from None
    except (ParseError, ValueError, LookupError, RecursionError):
        raise UnreadableArtError("This file's list of layers is damaged.", "Save it again.") from None
    width, height = _number(root, "w", 0), _number(root, "h", 0)
    stack = root.find("stack")
    if root.tag != "image" or stack is None or not (0 < width <= 1e5 and 0 < height <= 1e5):
        raise UnreadableArtError("This file's list of layers is damaged.", "Save it again.")
    notes = Notes()
    collector = _Collector(archive, notes)
    collector.stack(stack, None, 1.0, False, 0)
    if not collector.parts:
        raise UnreadableArtError("There is nothing to see in this file.", " ".join(notes) or "Draw into a layer.")
    parts = tuple(reversed(collector.parts))
    return Reading(name, width, height, parts, tuple(collector.folders), collector.pictures, tuple(notes))
