"""What a scene can be sent off as: every kind of file with its sink.

A new one is a module with a sink and its line here; the page, the command line and the jobs ask this list.
"""

from __future__ import annotations

from gaitwire.core.errors import InvalidInputError
from gaitwire.formats.exporting import PlayedSettings, SvgSettings
from gaitwire.formats.sinks.animated import AnimatedSvg
from gaitwire.formats.sinks.gif import Gif
from gaitwire.formats.sinks.png_sequence import PngSequence, laid_out, picture_in
from gaitwire.formats.sinks.sink import Format, FrameSink, PictureSink, Sink, drawing, fill

SINKS: dict[str, Format] = {
    row.name: row
    for row in (
        Format("svg", "Animated SVG", ".svg", "image/svg+xml", "one file that plays in any browser, sharp at any size",
               AnimatedSvg, SvgSettings),
        Format("gif", "GIF", ".gif", "image/gif", "256 colours, plays everywhere", Gif, PlayedSettings),
        Format("png", "PNG sequence", ".zip", "application/zip", "every frame with its alpha, for other programs",
               PngSequence, preview="sequence", frame=picture_in, unpack=laid_out),
    )
}  # fmt: skip


def format_named(name: str) -> Format:
    """The kind of file of that name; raises InvalidInputError."""
    if name not in SINKS:
        raise InvalidInputError(f"There is no export “{name}”.", f"Known: {', '.join(SINKS)}.")
    return SINKS[name]


__all__ = ["SINKS", "Format", "FrameSink", "PictureSink", "Sink", "drawing", "fill", "format_named"]
