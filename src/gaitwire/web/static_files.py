"""Fonts, styles and scripts, as files that are read once."""

from __future__ import annotations

import hashlib
import re
from functools import cache
from pathlib import Path
from stat import S_ISREG
from typing import Any

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.responses import FileResponse, Response
from starlette.staticfiles import NotModifiedResponse, StaticFiles
from starlette.types import Scope

STATIC = Path(__file__).parent / "static"
_STAMPED = re.compile("v[0-9a-f]{10}")


@cache
def stamp() -> str:
    """A folder's name that changes with any of the files, for addresses that browsers may keep for long.

    It is one for all: scripts and styles name each other by where they lie, so what they name has it too.
    """
    every = hashlib.sha1()
    for path in sorted(p for p in STATIC.rglob("*") if p.is_file()):
        every.update(f"{path.relative_to(STATIC)}\0".encode())
        every.update(path.read_bytes())
    return f"v{every.hexdigest()[:10]}"


class PageFiles(StaticFiles):
    """Files that are asked for under the stamp of this program may be kept; others are asked for again.

    They are read once: a page asks for some ninety, and reading each through threads costs it half a second.
    """

    def __init__(self, **settings: Any) -> None:
        super().__init__(directory=STATIC, **settings)
        self._read: dict[tuple[str, int], bytes] = {}

    async def get_response(self, path: str, scope: Scope) -> Response:
        folder, _, rest = path.partition("/")
        if _STAMPED.fullmatch(folder):  # a page from before the program was renewed asks under an older one
            path = rest
        try:
            place, stat = self.lookup_path(path)
        except (ValueError, OSError):  # names that no file can have
            raise HTTPException(404) from None
        if stat is None or not S_ISREG(stat.st_mode):
            return await super().get_response(path, scope)
        known = (place, stat.st_mtime_ns)
        if known not in self._read:
            self._read[known] = Path(place).read_bytes()
        headers = FileResponse(place, stat_result=stat).headers
        headers["Cache-Control"] = "max-age=31536000, immutable" if folder == stamp() else "no-cache"
        if self.is_not_modified(headers, Headers(scope=scope)):
            return NotModifiedResponse(headers)
        return Response(self._read[known], headers=dict(headers))
