"""GIF and PNG frames from drawn pixels."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

import numpy as np
from PIL import Image

from gaitwire.formats.raster.paper import Pixels

_RUNS = 3
"""zlib's Z_RLE: for flat art it makes files an eighth smaller than the quicker levels do, in the same time."""


def encode_png(pixels: Pixels) -> bytes:
    """One frame as PNG with alpha."""
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG", compress_level=1, compress_type=_RUNS)
    return out.getvalue()


def frame_name(name: str, frame: int, count: int) -> str:
    """File name of a frame: the scene's name and a number wide enough for all."""
    safe = "".join(ch if ch.isalnum() or ch in "-_ " else "_" for ch in name).strip().replace(" ", "_") or "scene"
    return f"{safe}_{frame:0{max(4, len(str(count)))}d}.png"


def zip_frames(name: str, first: int, pictures: Sequence[bytes]) -> bytes:
    """PNG frames as a zip; they are stored as they are, being compressed already."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for index, data in enumerate(pictures):
            archive.writestr(zipfile.ZipInfo(frame_name(name, first + index, first + len(pictures))), data)
    return out.getvalue()


def delays(count: int, rate: Fraction) -> list[int]:
    """Hundredths of a second of each GIF frame, rounded so that no error adds up; at least 2 each."""
    edges = [round(100 * i / float(rate)) for i in range(count + 1)]
    return [max(2, b - a) for a, b in pairwise(edges)]


def _palette(frames: Sequence[Image.Image]) -> Image.Image:
    """One palette for the whole film, from a few frames side by side: no flicker between frames."""
    chosen = [frames[i] for i in np.unique(np.linspace(0, len(frames) - 1, min(6, len(frames))).astype(int))]
    strip = Image.new("RGB", (sum(f.width for f in chosen), chosen[0].height))
    x = 0
    for frame in chosen:
        strip.paste(frame.convert("RGB"), (x, 0))
        x += frame.width
    return strip.quantize(255, method=Image.Quantize.MEDIANCUT)


def write_gif(pictures: Sequence[bytes], rate: Fraction, loops: int, transparent: bool) -> bytes:
    """A GIF from PNG frames. `loops` 0 plays without end. Alpha becomes all or nothing at one half."""
    frames = [Image.open(io.BytesIO(p)).convert("RGBA") for p in pictures]
    palette = _palette(frames)
    out_frames = []
    for frame in frames:
        mapped = frame.convert("RGB").quantize(palette=palette, dither=Image.Dither.NONE)
        if transparent:
            clear = np.asarray(frame.getchannel("A")) < 128
            indices = np.asarray(mapped).copy()
            indices[clear] = 255
            shown = Image.fromarray(indices, "P")
            shown.putpalette(mapped.getpalette() or [])
            mapped = shown
        out_frames.append(mapped)
    options: dict[str, object] = {"disposal": 2, "transparency": 255} if transparent else {"disposal": 1}
    if loops != 1:
        options["loop"] = 0 if loops == 0 else loops - 1
    out = io.BytesIO()
    durations = [d * 10 for d in delays(len(frames), rate)]
    out_frames[0].save(
        out, "GIF", save_all=True, append_images=out_frames[1:], duration=durations, optimize=False, **options
    )
    return out.getvalue()
