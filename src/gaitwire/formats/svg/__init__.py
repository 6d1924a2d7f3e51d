"""Layered SVG in: from bytes to named parts in drawing order, with a list of what was not kept."""

from gaitwire.formats.svg.reader import read_svg

__all__ = ["read_svg"]
