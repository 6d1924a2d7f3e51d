"""PNG and WebP files as layers: one, a folder of them, or a zip of them.

Files are sorted by name, numbers by their value; the first lies at the back. Folders become groups.
Pictures of one size are taken to be layers of one page, each in its place; others are set side by side.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from pathlib import PurePosixPath
from typing import NamedTuple

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.placing import placed
from gaitwire.formats.layer_pictures import PixelBudget, trimmed
from gaitwire.formats.naming import distinct
from gaitwire.formats.pictures import Checked, load_picture
from gaitwire.formats.reading import LIMITS, Notes, ReadFolder, Reading, ReadPart

SUFFIXES = (".png", ".webp")

_GAP = 20.0
"""Pixels between pictures that are set side by side."""


def is_picture_name(name: str) -> bool:
    """Whether a file of that name is to be read: a PNG or WebP, and nothing hidden."""
    path = PurePosixPath(name)
    return path.suffix.lower() in SUFFIXES and not any(p.startswith((".", "__")) for p in path.parts)


def _natural(name: str) -> list[tuple[int, int, str]]:
    pieces = re.split(r"(\d+)", name.lower())
    return [(1, int(p), "") if p.isdigit() else (0, 0, p) for p in pieces if p]


def in_order(paths: Iterable[str]) -> list[str]:
    """Paths sorted by name, numbers in them by their value."""
    return sorted(paths, key=_natural)


def layer_name(path: str) -> str:
    """What a layer is called: its file's name without a leading number and with blanks.

    >>> layer_name("girl/03_near-hand.png")
    'near hand'
    """
    stem = PurePosixPath(path).stem
    plain = re.sub(r"^\d+[\s_.-]+", "", stem)
    return re.sub(r"[\s_.-]+", " ", plain).strip() or stem


def read_pictures(files: Mapping[str, bytes], name: str = "puppet") -> Reading:
    """Read pictures by path.

    Raises UnreadableArtError (or its kind TooLargeError) when none of them shows anything.
    """
    notes, budget = Notes(), PixelBudget()
    found: list[_Layer] = []
    for path in in_order(filter(is_picture_name, files)):
        loaded = load_picture(files[path], notes)
        if loaded is None:
            continue
        size = loaded[0][2:4]
        if len(found) >= LIMITS.parts or not budget.take(*size):
            raise TooLargeError("These are too many pictures, or too large ones.", "Bring in fewer, or smaller ones.")
        found.append(_Layer(PurePosixPath(path.lstrip("/")), size, trimmed(loaded, 0.0, 0.0)))
    if not found:
        raise UnreadableArtError("There is no PNG or WebP picture here.", " ".join(notes) or "Choose another file.")
    return _arranged(found, name, notes)


class _Layer(NamedTuple):
    path: PurePosixPath
    size: tuple[int, int]
    shown: tuple[Art, Checked] | None  # trimmed, in its own place on its own page; None for an empty one


def _arranged(found: list[_Layer], name: str, notes: Notes) -> Reading:
    apart = len({layer.size for layer in found}) > 1
    if apart:
        notes.add("The pictures are of different sizes, so they were set side by side.")
    elif len(found) > 1:
        notes.add("Sorted by file name, the first at the back.")
    names: set[str] = set()
    folders: list[ReadFolder] = []
    known: dict[str, int] = {}
    parts: list[ReadPart] = []
    pictures: dict[str, tuple[str, bytes]] = {}
    x = 0.0
    root = _shared_root([layer.path for layer in found])
    for layer in found:
        if layer.shown is None:
            notes.add("An empty picture was left out.")
            continue
        art, kept = layer.shown
        pictures[kept[0]] = (kept[1], kept[4])
        folder = _folder(layer.path.relative_to(root).parent, folders, known)
        moved = placed(art, (1.0, 0.0, 0.0, 1.0, x, 0.0)) if x else art
        parts.append(ReadPart(distinct(layer_name(str(layer.path)), names), moved, folder))
        x += layer.size[0] + _GAP if apart else 0.0
    if not parts:
        raise UnreadableArtError("These pictures show nothing.", "They are all transparent.")
    width = x - _GAP if apart else float(found[0].size[0])
    height = float(max(layer.size[1] for layer in found))
    return Reading(name, max(width, 1.0), height, tuple(parts), tuple(folders), pictures, tuple(notes), not apart)


def _shared_root(paths: list[PurePosixPath]) -> PurePosixPath:
    """The folder that everything lies in."""
    parents = [p.parent.parts for p in paths]
    shared = []
    for level in zip(*parents, strict=False):
        if len(set(level)) > 1:
            break
        shared.append(level[0])
    return PurePosixPath(*shared)


def _folder(path: PurePosixPath, folders: list[ReadFolder], known: dict[str, int]) -> int | None:
    if not path.parts:
        return None
    key = str(path)
    if key not in known:
        parent = _folder(path.parent, folders, known)
        folders.append(ReadFolder(layer_name(path.name), parent))
        known[key] = len(folders) - 1
    return known[key]
