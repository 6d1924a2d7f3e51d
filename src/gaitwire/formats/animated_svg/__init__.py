"""Animated SVG out: bones stay nested groups, keys stay keys wherever SVG's clock can play them."""

from gaitwire.formats.animated_svg.writer import write_animated_svg

__all__ = ["write_animated_svg"]
