"""SVG bytes to an element tree: limits first, no entities, no network, nothing that runs."""

from __future__ import annotations

import re
from collections.abc import Iterator
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.formats.reading import LIMITS

SVG = "{http://www.w3.org/2000/svg}"
XLINK = "{http://www.w3.org/1999/xlink}"

_FETCHING = {"image", "use", "feImage", "linearGradient", "radialGradient", "pattern", "mpath", "textPath"}
_PLAIN = "Save it again as plain SVG, without scripts or links."

__all__ = ["SVG", "XLINK", "href", "local_name", "parse_document"]


def local_name(element: Element) -> str:
    """The tag without its namespace; '' for comments and what is not SVG."""
    tag = element.tag
    if not isinstance(tag, str):
        return ""
    if tag.startswith("{"):
        return tag[len(SVG) :] if tag.startswith(SVG) else ""
    return tag


def href(element: Element) -> str:
    """The reference an element makes, old or new spelling."""
    return (element.get("href") or element.get(f"{XLINK}href") or "").strip()


def parse_document(data: bytes) -> Element:
    """The root of a safe document.

    Raises TooLargeError beyond a limit, UnreadableArtError for what is not SVG, is broken, or
    carries scripts, event attributes, entities or references to other files.
    """
    if len(data) > LIMITS.bytes:
        raise TooLargeError(f"This file is larger than {LIMITS.bytes // 1_000_000} MB.", "Make its pictures smaller.")
    if not data.strip():
        raise UnreadableArtError("This file is empty.", "Choose another.")
    if re.search(rb"<\?xml-stylesheet", data[:4096]):
        raise UnreadableArtError("This SVG takes its styles from another file.", "Save it with the styles inside.")
    try:
        root: Element = fromstring(_written_out(data))
    except DefusedXmlException:
        raise UnreadableArtError(
            "This SVG declares entities, which are not read.", "Save it again as plain SVG."
        ) from None
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise UnreadableArtError("This is no readable SVG.", f"Its text breaks off or is damaged ({error}).") from None
    if local_name(root) != "svg":
        raise UnreadableArtError("This is not an SVG.", "Choose a layered SVG file.")
    _check(root)
    return root


_DECLARED = re.compile(rb"<!DOCTYPE[^\[>]*\[([^\]]*)\]\s*>")
_ABBREVIATION = re.compile(rb"""<!ENTITY\s+([A-Za-z_][\w.-]*)\s+("[^"<&%]*"|'[^'<&%]*')\s*>""")
_MOST_ABBREVIATIONS, _LONGEST_ABBREVIATION = 50, 300


def _written_out(data: bytes) -> bytes:
    """The text with plain abbreviations put where they are used; some drawing programs declare namespaces so.

    Whatever else is declared (abbreviations of abbreviations, or of other files) stays, and is refused.
    """
    declared = _DECLARED.search(data, 0, 16_384)
    if declared is None or _ABBREVIATION.sub(b"", declared[1]).strip():
        return data
    names = {name: text[1:-1] for name, text in _ABBREVIATION.findall(declared[1])}
    longest = max(map(len, names.values()), default=0)
    if len(names) > _MOST_ABBREVIATIONS or longest > _LONGEST_ABBREVIATION:
        return data
    text = data[: declared.start()] + data[declared.end() :]
    if len(text) + text.count(b"&") * longest > LIMITS.bytes:
        return data
    return re.sub(rb"&([A-Za-z_][\w.-]*);", lambda m: names.get(m[1], m[0]), text)


def _walk(root: Element) -> Iterator[tuple[Element, int]]:
    stack = [(root, 1)]
    while stack:
        element, depth = stack.pop()
        yield element, depth
        stack += [(child, depth + 1) for child in element]


def _check(root: Element) -> None:
    for count, (element, depth) in enumerate(_walk(root), 1):
        if count > LIMITS.nodes:
            raise TooLargeError(f"This SVG has more than {LIMITS.nodes} elements.", "Join or simplify its shapes.")
        if depth > LIMITS.depth:
            raise TooLargeError(f"Its groups lie more than {LIMITS.depth} deep.", "Ungroup some of them.")
        name = local_name(element)
        if name in ("script", "handler", "listener"):
            raise UnreadableArtError("This SVG carries a script.", _PLAIN)
        if any(a.rsplit("}")[-1].lower().startswith("on") for a in element.attrib):
            raise UnreadableArtError("This SVG carries actions for a web page.", _PLAIN)
        if name in _FETCHING:
            target = href(element)
            if target and not target.startswith(("#", "data:")):
                raise UnreadableArtError(
                    f"This SVG links to another file ({target[:60]}).", "Embed it, or remove the link."
                )
        _check_styles(element, name)


def _check_styles(element: Element, name: str) -> None:
    texts = [v for k, v in element.attrib.items() if k in ("style", "fill", "stroke", "clip-path", "mask", "filter")]
    if name == "style":
        texts.append(element.text or "")
    for text in texts:
        if "@import" in text or re.search(r"url\(\s*['\"]?\s*(?!#|['\"]|data:)[^)\s]", text):
            raise UnreadableArtError("This SVG takes styles from another file.", "Save it with the styles inside.")
