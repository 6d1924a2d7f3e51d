"""Films as pictures, one for each frame of a scene: to draw from, not to be sent off again."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from fractions import Fraction
from pathlib import PurePosixPath
from typing import NamedTuple

import av
from av.container import InputContainer
from av.error import FFmpegError
from PIL import Image

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.formats.reading import LIMITS

SUFFIXES = (".mp4", ".m4v", ".mov", ".webm", ".mkv", ".avi", ".ogv", ".gif")

_OPTIONS = {
    "format_whitelist": "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,ogg,gif",
    "protocol_whitelist": "",
}
"""Nothing that names other files, as playlists do, and no way to open one."""

_LONGEST = 960
"""Pixels of a picture's longer side: enough to draw from."""

_QUALITY = 82


class Film(NamedTuple):
    """Pictures (JPEG) at a scene's rate, their size, and whether the film went on."""

    pictures: list[bytes]
    width: int
    height: int
    cut: bool


def is_film_name(name: str) -> bool:
    """Whether a file of that name is a film."""
    return PurePosixPath(name).suffix.lower() in SUFFIXES


def read_film(data: bytes, rate: Fraction, most: int) -> Film:
    """The picture that shows on each frame of a scene of that rate (frames a second), `most` of them at most.

    Raises UnreadableArtError for what is no film, TooLargeError for pictures beyond the limit.
    """
    shown: list[bytes] = []
    size = (0, 0)
    try:
        with av.open(io.BytesIO(data), "r", options=_OPTIONS) as film:
            for image, until in _timed(film):
                picture = b""
                while len(shown) < most and Fraction(len(shown)) < until * rate:
                    picture = picture or _jpeg(image)
                    shown.append(picture)
                    size = image.size
                if len(shown) == most:
                    return Film(shown, *size, cut=True)
    except (FFmpegError, ValueError) as error:
        raise UnreadableArtError("This film cannot be read.", "Choose an MP4, WebM, MOV, AVI or GIF file.") from error
    if not shown:
        raise UnreadableArtError("There is no picture in this film.", "Choose another.")
    return Film(shown, *size, cut=False)


def _timed(film: InputContainer) -> Iterator[tuple[Image.Image, Fraction]]:
    """Each picture with the second, counted from the first one, until which it shows."""
    if not film.streams.video:
        return
    stream = film.streams.video[0]
    if stream.codec_context is None:
        raise UnreadableArtError("This film is coded in a way that is not known here.", "Save it as MP4, WebM or GIF.")
    if stream.width * stream.height > LIMITS.pixels:
        raise TooLargeError(f"This film has more than {LIMITS.pixels // 10**6} million pixels.", "Shrink it.")
    stream.thread_type = "AUTO"
    lasts = 1 / (stream.average_rate or Fraction(25))
    began: Fraction | None = None
    waiting: Image.Image | None = None
    since = Fraction(0)
    for frame in film.decode(stream):
        at = Fraction(frame.pts * (frame.time_base or 1)) if frame.pts is not None else since + lasts
        began = at if began is None else began
        if waiting is not None and at - began > since:
            yield waiting, at - began
        since = at - began
        waiting = _upright(Image.fromarray(frame.to_ndarray(format="rgb24")), frame.rotation)
    if waiting is not None:
        yield waiting, since + lasts


def _upright(image: Image.Image, turned: int) -> Image.Image:
    """As it is to be seen, and small enough."""
    scale = _LONGEST / max(image.size)
    if scale < 1:
        image = image.resize((math.ceil(image.width * scale), math.ceil(image.height * scale)))
    return image.rotate(turned, expand=True) if turned % 360 else image


def _jpeg(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=_QUALITY)
    return out.getvalue()
