"""Reading what forms post: lists of ids, fields by name, files; and answering with a file."""

from __future__ import annotations

import math
import os.path
from collections.abc import Callable, Mapping, Sequence
from pathlib import PurePosixPath
from typing import Annotated, Any

from fastapi import Form, Path, Query, UploadFile
from starlette.responses import Response

from gaitwire.core.bounds import LATEST
from gaitwire.core.errors import InvalidInputError, TooLargeError
from gaitwire.formats.reading import LIMITS

Ids = Annotated[str, Form(max_length=40_000)]
Coordinate = Annotated[float, Form(allow_inf_nan=False, ge=-1e5, le=1e5)]
Axis = Annotated[float | None, Form(allow_inf_nan=False, ge=-1e5, le=1e5)]
"""Where the upright line is that a gesture is mirrored in, if it is."""

At = Annotated[float, Query(allow_inf_nan=False, ge=-LATEST, le=LATEST)]
AtIf = Annotated[float | None, Query(allow_inf_nan=False, ge=-LATEST, le=LATEST)]
"""A frame in an address; the second may be missing."""

Nth = Annotated[int, Path(ge=0, le=1_000_000)]
Counted = Annotated[int, Form(ge=0, le=1_000_000)]
"""Which of several, counted from 0: in an address, in a form."""

StepsField = Annotated[int, Form(ge=-100_000, le=100_000)]
StepsIf = Annotated[int | None, Form(ge=-100_000, le=100_000)]

Field = Annotated[str, Form(max_length=40)]
TypedValue = Annotated[str, Form(max_length=400)]

Readers = Mapping[str, Callable[[str], Any]]
"""How the text of each field is read."""


def read_ids(text: str) -> list[str]:
    """Ids joined by commas."""
    return [part for part in text.split(",") if part]


def flag(text: str) -> bool:
    """A ticked box."""
    return text == "true"


def number(text: str) -> float:
    """A number as people type it; raises InvalidInputError."""
    try:
        found = float(text.strip().replace(",", "."))
    except ValueError:
        raise InvalidInputError(f"“{text[:20]}” is no number.", "Type a number.") from None
    if not math.isfinite(found) or abs(found) > 1e5:
        raise InvalidInputError(f"“{text[:20]}” is out of range.", "Type a smaller number.")
    return found


def percent(text: str) -> float:
    """A share, typed in percent."""
    return number(text) / 100


def number_or_none(text: str) -> float | None:
    """A number, or nothing."""
    return number(text) if text.strip() else None


def id_or_none(text: str) -> str | None:
    """An id, or nothing."""
    return text or None


def read_field(readers: Readers, field: str, text: str) -> dict[str, Any]:
    """One field's value; raises InvalidInputError for a field that cannot be set here."""
    if field not in readers:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    return {field: readers[field](text)}


def read_upload(file: UploadFile) -> bytes:
    """An uploaded file's bytes; raises TooLargeError before there are too many of them."""
    data = file.file.read(LIMITS.packed + 1)
    if len(data) > LIMITS.packed:
        raise TooLargeError(f"This file is larger than {LIMITS.packed // 10**6} MB.", "Make its pictures smaller.")
    return data


def read_uploads(files: Sequence[UploadFile]) -> dict[str, bytes]:
    """Several files' bytes by name; raises TooLargeError when they are too many or too large together."""
    if len(files) > LIMITS.files:
        raise TooLargeError(f"These are more than {LIMITS.files} files.", "Bring in fewer.")
    found: dict[str, bytes] = {}
    left = LIMITS.packed
    for file in files:
        data = read_upload(file)
        left -= len(data)
        if left < 0:
            raise TooLargeError(f"These files are larger than {LIMITS.packed // 10**6} MB.", "Make them smaller.")
        name = file.filename or "picture.png"
        if name in found:
            raise InvalidInputError(f"Two of these files are called “{name[:60]}”.", "Give them names of their own.")
        found[name] = data
    return found


def as_file(text: str, name: str) -> Response:
    """JSON as a file to be saved under a name; letters that not every system takes are left out of it."""
    plain = "".join(ch if ch.isascii() and (ch.isalnum() or ch in " .,-_%") else "_" for ch in name)
    return Response(
        text, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{plain}"'}
    )


def common_name(paths: Sequence[str]) -> str:
    """What several files are called together: their folder, or what their names begin with."""
    folders = {PurePosixPath(p).parts[0] for p in paths if len(PurePosixPath(p).parts) > 1}
    if len(folders) == 1:
        return folders.pop()
    letters = os.path.commonprefix([PurePosixPath(p).stem for p in paths])  # noqa: RUF071 - letters, not folders
    return letters.strip(" _-.0123456789") or "puppet"
