"""Zip files from anywhere: limits and paths are looked at before anything is unpacked."""

from __future__ import annotations

import io
import lzma
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import PurePosixPath

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.formats.reading import LIMITS

_SYMLINK = 0o120000
_KIND = 0o170000


def plain_name(name: str) -> str:
    """The name without a slash in front, as some programs write it; nothing is ever unpacked to disk."""
    return name.lstrip("/")


class SafeZip:
    """An archive whose every name is a plain path inside it, and which unpacks to a bounded size.

    Raises UnreadableArtError (or its kind TooLargeError) for any other.
    """

    def __init__(self, data: bytes) -> None:
        try:
            self._zip = zipfile.ZipFile(io.BytesIO(data))
            entries = self._zip.infolist()
        except (zipfile.BadZipFile, NotImplementedError, ValueError, OSError):
            raise UnreadableArtError("This archive is damaged.", "Save it again.") from None
        if len(entries) > LIMITS.files:
            raise TooLargeError(f"This archive holds more than {LIMITS.files} files.", "Pack fewer of them.")
        if sum(e.file_size for e in entries) > LIMITS.unpacked:
            raise TooLargeError(
                f"This archive unpacks to more than {LIMITS.unpacked // 10**6} MB.", "Make its pictures smaller."
            )
        self._entries: dict[str, zipfile.ZipInfo] = {}
        for entry in entries:
            self._keep(entry)

    def _keep(self, entry: zipfile.ZipInfo) -> None:
        name = plain_name(entry.filename)
        path = PurePosixPath(name)
        if ".." in path.parts or "\\" in name or "\0" in name or ":" in name.split("/")[0]:
            raise UnreadableArtError("This archive has a path that leads out of it.", "It is not safe to open.")
        if (entry.external_attr >> 16) & _KIND == _SYMLINK:
            raise UnreadableArtError("This archive holds a link.", "Pack the files themselves.")
        if entry.flag_bits & 1:
            raise UnreadableArtError("This archive is locked with a password.", "Pack it without one.")
        if entry.is_dir():
            return
        if name in self._entries:
            raise UnreadableArtError(f"This archive holds “{name[:60]}” twice.", "Save it again.")
        self._entries[name] = entry

    def __contains__(self, name: str) -> bool:
        return plain_name(name) in self._entries

    def __iter__(self) -> Iterator[str]:
        return iter(self._entries)

    def read(self, name: str) -> bytes:
        """The bytes of a file; raises UnreadableArtError where it is missing, damaged or larger than it says."""
        entry = self._entries.get(plain_name(name))
        if entry is None:
            raise UnreadableArtError(f"This archive lacks “{name[:60]}”.", "Save it again.")
        try:
            with self._zip.open(entry) as stream:
                data = stream.read(entry.file_size + 1)
        except (zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, OSError, NotImplementedError, ValueError):
            raise UnreadableArtError(f"“{name[:60]}” in this archive is damaged.", "Save it again.") from None
        if len(data) != entry.file_size:
            raise UnreadableArtError(f"“{name[:60]}” in this archive is not what it says.", "Save it again.")
        return data
