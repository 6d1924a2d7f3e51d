"""What a sink is: one file being made of a scene, opened, given what it takes in order, closed."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Generic, Literal

from gaitwire.core.evaluate.frames import Frames
from gaitwire.formats.exporting import Chosen_co, ExportSettings, Production
from gaitwire.formats.raster import Raster
from gaitwire.formats.raster.paper import Pixels

Draw = Callable[[int], Pixels]
"""The picture of a frame, by its place among those that are sent off."""


class Sink(ABC, Generic[Chosen_co]):
    """One file being made; whoever makes it has the production, and the place for the file."""

    def __init__(self, production: Production[Chosen_co], target: Path) -> None:
        self.production = production
        self.target = target

    @abstractmethod
    def close(self) -> None:
        """Nothing more comes: the file is whole after it."""

    def aside(self) -> str:
        """What is worth telling of the closed file beside its size; may take as long as the file itself."""
        return ""


class PictureSink(Sink[Chosen_co]):
    """A file of drawn pictures. `piece` may be done by several processes at once, the rest by one, in order."""

    @abstractmethod
    def open(self, draw: Draw) -> None:
        """Begin; a picture or two may be looked at before they come."""

    @abstractmethod
    def piece(self, pixels: Pixels) -> bytes:
        """What is kept of one picture."""

    @abstractmethod
    def add(self, piece: bytes) -> None:
        """The next picture's."""


class FrameSink(Sink[Chosen_co]):
    """A file that is written from how everything stands, not from pictures."""

    @abstractmethod
    def open(self) -> None:
        """Begin."""

    @abstractmethod
    def add(self, frames: Frames) -> None:
        """The frames, and after them the one at the end of the file's time, as the stage shows them."""


@dataclass(frozen=True)
class Format:
    """A kind of file, as it is listed: one entry of the registry."""

    name: str
    label: str
    suffix: str
    media_type: str
    about: str
    sink: type[Sink[Any]]
    settings: type[ExportSettings] = ExportSettings
    preview: Literal["playing", "sequence"] = "playing"
    """How the finished file is looked at: as it is, or picture by picture."""
    frame: Callable[[Path, int], bytes] | None = None
    """One picture (PNG) of a finished sequence; raises NotFoundError."""
    unpack: Callable[[Path, Path], None] | None = None
    """For a file that may as well be a folder: lays it out there."""

    @property
    def drawn(self) -> bool:
        """Whether it is made of pictures, one for each frame."""
        return issubclass(self.sink, PictureSink)


def drawing(production: Production[Any]) -> Draw:
    """How pictures of a production are drawn, by whoever does it."""
    scale, pictures = production.settings.scale, production.pictures
    raster = Raster(
        production.arts, production.size, lambda digest: pictures[digest][1], (scale, 0, 0, scale, 0, 0),
        production.background, production.compiled.meshes,
    )  # fmt: skip
    return lambda index: raster.draw(production.frames, index)


def fill(sink: Sink[Any]) -> Iterator[int]:
    """Make a whole file, one picture after the other; yields the place of each that is in it."""
    if isinstance(sink, PictureSink):
        draw = drawing(sink.production)
        sink.open(draw)
        for index in range(len(sink.production)):
            sink.add(sink.piece(draw(index)))
            yield index
    elif isinstance(sink, FrameSink):
        sink.open()
        sink.add(sink.production.course)
    sink.close()
