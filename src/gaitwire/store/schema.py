"""The tables as numbered migrations, and how a file is brought up to the last of them."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator
from functools import cache
from importlib.resources import files


@cache
def migrations() -> tuple[tuple[int, str], ...]:
    """Numbered migrations in order: (number, SQL)."""
    found = []
    for entry in files("gaitwire.store").joinpath("migrations").iterdir():
        match = re.fullmatch(r"(\d{4})_\w+\.sql", entry.name)
        if match:
            found.append((int(match[1]), entry.read_text("utf-8")))
    return tuple(sorted(found))


def newest() -> int:
    """The version that this program writes."""
    return migrations()[-1][0]


def version_of(connection: sqlite3.Connection) -> int:
    """The version of a file; 0 for one that is new."""
    return int(connection.execute("PRAGMA user_version").fetchone()[0])


def statements(script: str) -> Iterator[str]:
    """Single statements of a script: executescript would commit the transaction it stands in."""
    pending = ""
    for line in script.splitlines(keepends=True):
        pending += line
        if sqlite3.complete_statement(pending):
            yield pending
            pending = ""
