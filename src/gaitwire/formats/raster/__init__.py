"""Frames and art to pixels, with Skia."""

from gaitwire.formats.raster.paper import Raster, draw_art, picture_bytes

__all__ = ["Raster", "draw_art", "picture_bytes"]
