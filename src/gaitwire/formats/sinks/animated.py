"""Animated SVG as a sink: the scene's frames in, one file that keeps bones, keys and easings out."""

from __future__ import annotations

from dataclasses import replace

from gaitwire.core.evaluate.frames import Frames
from gaitwire.formats.animated_svg import write_animated_svg
from gaitwire.formats.exporting import SvgSettings
from gaitwire.formats.sinks.sink import FrameSink


class AnimatedSvg(FrameSink[SvgSettings]):
    """Everything in it is known only at the end, so nothing is written before."""

    def open(self) -> None:
        self._frames: Frames | None = None

    def add(self, frames: Frames) -> None:
        self._frames = frames

    def close(self) -> None:
        self.target.write_bytes(write_animated_svg(self.production, self._frames))

    def aside(self) -> str:
        settings = self.production.settings
        if settings.sampled:
            return ""
        written_out = replace(self.production, settings=settings.model_copy(update={"sampled": True}))
        size = len(write_animated_svg(written_out, self._frames))
        return f"every frame written out it would be {size / 1024:.1f} kB"
