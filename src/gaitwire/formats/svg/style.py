"""The cascade: presentation attributes, style sheets, style attributes, and what is inherited."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from xml.etree.ElementTree import Element

import cssselect2
import tinycss2

from gaitwire.formats.reading import Notes
from gaitwire.formats.svg.document import local_name

INHERITED = {
    "clip-rule", "color", "fill", "fill-opacity", "fill-rule", "paint-order", "stroke",
    "stroke-dasharray",
    "stroke-dashoffset", "stroke-linecap", "stroke-linejoin", "stroke-miterlimit", "stroke-opacity", "stroke-width",
    "visibility", "marker-start", "marker-mid", "marker-end", "font-size",
}  # fmt: skip
OWN = {
    "opacity", "display", "clip-path", "mask", "filter", "mix-blend-mode", "stop-color", "stop-opacity",
    "vector-effect",
    "overflow", "isolation",
}  # fmt: skip
_KNOWN = INHERITED | OWN

CssStyle = Mapping[str, str]

_Declaration = tuple[str, str, bool]


def _declarations(tokens: Any) -> list[_Declaration]:
    parsed = tinycss2.parse_blocks_contents(tokens, skip_comments=True, skip_whitespace=True)
    return [
        (d.lower_name, tinycss2.serialize(d.value).strip(), bool(d.important))
        for d in parsed
        if d.type == "declaration" and d.lower_name in _KNOWN
    ]


class Cascade:
    """The document's style sheets, matched against its elements."""

    def __init__(self, root: Element, notes: Notes) -> None:
        self._matcher = cssselect2.Matcher()
        self._matched: dict[int, list[_Declaration]] = {}
        any_rule = False
        for element in root.iter():
            if local_name(element) == "style":
                any_rule |= self._add_sheet(element.text or "", notes)
        if any_rule:
            wrapper = cssselect2.ElementWrapper.from_xml_root(root)
            for wrapped in wrapper.iter_subtree():
                self._matched[id(wrapped.etree_element)] = self._match(wrapped)

    def _add_sheet(self, text: str, notes: Notes) -> bool:
        added = False
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            if rule.type == "at-rule":
                notes.add(f"The style rule @{rule.at_keyword} was not kept.")
            if rule.type != "qualified-rule":
                continue
            declarations = _declarations(rule.content)
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                notes.add(f"The style rule “{tinycss2.serialize(rule.prelude).strip()[:40]}” was not understood.")
                continue
            for selector in selectors:
                if selector.pseudo_element is None:
                    self._matcher.add_selector(selector, declarations)
                    added = True
        return added

    def _match(self, wrapped: Any) -> list[_Declaration]:
        return [
            d for *_, declarations in sorted(self._matcher.match(wrapped), key=lambda m: m[:2]) for d in declarations
        ]

    def style(self, element: Element, inherited: CssStyle) -> dict[str, str]:
        """The element's properties, given its parent's."""
        style = {k: v for k, v in inherited.items() if k in INHERITED}
        own: list[_Declaration] = [(k, v.strip(), False) for k, v in element.attrib.items() if k in _KNOWN]
        own += self._matched.get(id(element), [])
        if "style" in element.attrib:
            own += _declarations(element.attrib["style"])
        for name, value, _ in sorted(own, key=lambda d: d[2]):  # A stable sort: important ones come last.
            if value == "inherit":
                if name in inherited:
                    style[name] = inherited[name]
            elif value:
                style[name] = value
        return style
