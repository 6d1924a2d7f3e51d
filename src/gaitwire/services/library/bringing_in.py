"""Whatever file is dropped on the Shelf: a puppet archive, or art of any kind."""

from __future__ import annotations

from gaitwire.formats.archive import Opened, is_archive, read_archive
from gaitwire.formats.art_readers import ZIP_MAGIC, read_art
from gaitwire.formats.reading import Reading
from gaitwire.formats.safe_zip import SafeZip
from gaitwire.services.library.archives import store_opened
from gaitwire.services.library.art_in import Imported, free_title, store_reading
from gaitwire.services.session.workers import run_limited
from gaitwire.services.session.workspace import Workspace


def read_any(data: bytes, name: str) -> Reading | Opened:
    """A file as art or as an archived puppet; raises UnreadableArtError or TooLargeError."""
    if data.startswith(ZIP_MAGIC) and is_archive(archive := SafeZip(data)):
        return read_archive(archive)
    return read_art(data, name)


def bring_in(workspace: Workspace, data: bytes, filename: str, name: str = "") -> Imported:
    """A puppet from a file; nothing is stored unless all of it can be."""
    found = run_limited(read_any, data, free_title(workspace, name or filename))
    return store_opened(workspace, found, filename) if isinstance(found, Opened) else store_reading(workspace, found)
