"""Ids of documents and of their rows."""

import uuid


def new_id() -> str:
    """An id never used before and never used again."""
    return str(uuid.uuid4())
