"""Fonts, styles and scripts, as files that are read once."""

from __future__ import annotations

from pathlib import Path
from stat import S_ISREG
from typing import Any

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.responses import FileResponse, Response
from starlette.staticfiles import NotModifiedResponse, StaticFiles
from starlette.types import Scope


class PageFiles(StaticFiles):
    """Files that carry a stamp in their address may be kept; others are asked for again.

    They are read once: a page asks for some sixty, and reading each through threads costs it half a second.
    """

    def __init__(self, **settings: Any) -> None:
        super().__init__(**settings)
        self._read: dict[tuple[str, int], bytes] = {}

    async def get_response(self, path: str, scope: Scope) -> Response:
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
        stamped = b"v=" in scope.get("query_string", b"")
        headers["Cache-Control"] = "max-age=31536000, immutable" if stamped else "no-cache"
        if self.is_not_modified(headers, Headers(scope=scope)):
            return NotModifiedResponse(headers)
        return Response(self._read[known], headers=dict(headers))
