"""Which element of a drawing becomes which part: layers, folders and loose shapes.

A group is a folder, and opened up, when it holds a named group, or nothing but groups; unless it
is faded, clipped or masked as one, which would change the picture. Any other group is one part.
Loose shapes beside groups are parts too: each by itself on the page, in runs inside a folder.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from xml.etree.ElementTree import Element

from gaitwire.formats.svg.document import local_name

_UNNAMED = re.compile(
    r"((g|group|layer|path|rect|circle|ellipse|polygon|polyline|line|use|image|svg|shape|object|text)?"
    r"[-_ ]*\d+([-_ ]\d+)*)?",
    re.IGNORECASE,
)
_GROUPS = ("g", "a")
_IGNORED = ("defs", "title", "desc", "metadata", "style", "namedview", "")


@dataclass(frozen=True)
class SvgLayer:
    """Elements that together make one part; `chain` holds the folders above, outermost first."""

    name: str
    elements: tuple[Element, ...]
    chain: tuple[Element, ...]


def given_name(element: Element) -> str:
    """A label, title, data-name or meaningful id; '' when the name was made by a machine."""
    label = _label(element) or element.get("data-name") or _title(element)
    if label and label.strip():
        return _clean(label)
    name = re.sub(r"_x([0-9A-Fa-f]{2,4})_", lambda m: chr(int(m[1], 16)), element.get("id") or "")
    return "" if _UNNAMED.fullmatch(name) else _clean(name)


def _label(element: Element) -> str:
    """A label in whatever namespace the drawing program keeps its own attributes."""
    return next((v for k, v in element.attrib.items() if k.rpartition("}")[2] == "label"), "")


def _title(element: Element) -> str:
    return next((child.text or "" for child in element if local_name(child) == "title"), "")


def _clean(name: str) -> str:
    text = re.sub(r"[\s_]+", " ", "".join(ch for ch in name if ch.isprintable() or ch.isspace())).strip()
    return text[:80].strip()


def _drawn(element: Element) -> list[Element]:
    return [child for child in element if local_name(child) not in _IGNORED]


def _acts_as_one(element: Element) -> bool:
    style = element.get("style") or ""
    return any(
        element.get(a) or re.search(rf"(^|;)\s*{a}\s*:", style) for a in ("opacity", "clip-path", "mask", "filter")
    )


def _is_folder(element: Element) -> bool:
    children = _drawn(element)
    groups = [child for child in children if local_name(child) in _GROUPS]
    if not groups or _acts_as_one(element):
        return False
    return (len(groups) == len(children) and len(groups) > 1) or any(given_name(g) for g in groups)


def _runs(element: Element) -> Iterator[list[Element]]:
    """Children in order: groups alone, loose shapes side by side together."""
    run: list[Element] = []
    for child in _drawn(element):
        if local_name(child) in _GROUPS:
            if run:
                yield run
                run = []
            yield [child]
        else:
            run.append(child)
    if run:
        yield run


def find_layers(parent: Element, chain: tuple[Element, ...] = (), fallback: str = "shape") -> Iterator[SvgLayer]:
    """All layers below an element, back to front."""
    at_root = not chain
    for run in _runs(parent):
        first = run[0]
        if local_name(first) in _GROUPS:
            name = given_name(first)
            if _is_folder(first):
                yield from find_layers(first, (*chain, first), name or fallback)
            else:
                yield SvgLayer(name or fallback, (first,), chain)
        elif at_root:
            for shape in run:
                yield SvgLayer(given_name(shape) or local_name(shape), (shape,), chain)
        else:
            single = given_name(first) if len(run) == 1 else ""
            yield SvgLayer(single or fallback, tuple(run), chain)
