"""The registry of exports: each draws single frames in workers, or writes the scene whole."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from gaitwire.core.errors import JobError
from gaitwire.formats.animated_svg import write_animated_svg
from gaitwire.formats.exporting import Production
from gaitwire.formats.film import encode_png, write_gif, zip_frames
from gaitwire.formats.raster import Raster
from gaitwire.formats.raster.paper import Pixels


@dataclass(frozen=True)
class Export:
    """One kind of file. Framewise exports encode every frame and put the pieces together at the end."""

    name: str
    label: str
    suffix: str
    media_type: str
    about: str
    write: Callable[[Production], bytes] | None = None
    encode: Callable[[Pixels], bytes] | None = None
    assemble: Callable[[Production, Sequence[bytes]], bytes] | None = None


def _gif(production: Production, pictures: Sequence[bytes]) -> bytes:
    return write_gif(pictures, production.rate, production.settings.loops, not production.settings.background)


def _zip(production: Production, pictures: Sequence[bytes]) -> bytes:
    first = production.settings.first + production.compiled.scene.first_number
    return zip_frames(production.name, first, pictures)


EXPORTS: dict[str, Export] = {
    export.name: export
    for export in (
        Export("svg", "Animated SVG", ".svg", "image/svg+xml", "one file that plays in any browser, sharp at any size",
               write=write_animated_svg),
        Export("gif", "GIF", ".gif", "image/gif", "256 colours, plays everywhere",
               encode=encode_png, assemble=_gif),
        Export("png", "PNG sequence", ".zip", "application/zip", "every frame with its alpha, for other programs",
               encode=encode_png, assemble=_zip),
    )
}  # fmt: skip


def draw_frames(
    production: Production, export: Export, indices: Sequence[int], done: Callable[[int, bytes], None]
) -> None:
    """Draw and encode some frames; `done` takes each index with its bytes."""
    if export.encode is None:
        raise JobError(f"{export.label} is not drawn frame by frame.")
    scale = production.settings.scale
    pictures = production.pictures
    raster = Raster(
        production.arts,
        production.size,
        lambda digest: pictures[digest][1],
        (scale, 0, 0, scale, 0, 0),
        production.background,
        production.compiled.meshes,
    )
    for index in indices:
        done(index, export.encode(raster.draw(production.frames, index)))
