"""Blobs: art and pictures, stored once, by hash, and never changed."""

from __future__ import annotations

import hashlib
from typing import NamedTuple

from gaitwire.core.errors import NotFoundError
from gaitwire.store.connection import Store


class Blob(NamedTuple):
    """Bytes and what they are."""

    media_type: str
    data: bytes


def put_blob(store: Store, blob: Blob) -> str:
    """Store it if it is new; its hash (SHA-256, hexadecimal)."""
    digest = hashlib.sha256(blob.data).hexdigest()
    with store.atomic() as db:
        db.execute("INSERT OR IGNORE INTO blobs VALUES (?, ?, ?)", (digest, blob.media_type, blob.data))
    return digest


def get_blob(store: Store, digest: str) -> Blob:
    """The blob of that hash; raises NotFoundError."""
    rows = store.rows("SELECT media_type, data FROM blobs WHERE hash = ?", (digest,))
    if not rows:
        raise NotFoundError("This picture is not in the store.")
    return Blob(rows[0]["media_type"], bytes(rows[0]["data"]))
