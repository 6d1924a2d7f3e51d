"""Dated copies of the store beside it: made by themselves, listed, put back in its place."""

from __future__ import annotations

import os
import shutil
import sqlite3
import time
from collections.abc import Iterable
from contextlib import closing
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from gaitwire.core.errors import NotFoundError
from gaitwire.store.connection import Store
from gaitwire.store.faults import BrokenStoreError, StoreError, cannot_use
from gaitwire.store.opening import FILE_NAME, connect, faults_in
from gaitwire.store.schema import newest, version_of

FOLDER = "copies"
KEPT = 10
"""Copies made by themselves; older ones go."""

APART = 3600.0
"""Seconds that lie between two of those at least."""

_STAMP = "%Y-%m-%d_%H-%M-%S"
_BEFORE = "before-update"
_REPLACED = "replaced"


@dataclass(frozen=True)
class Copy:
    """One copy. `why` is '' for those made by themselves."""

    path: Path
    made_at: datetime
    why: str

    @property
    def name(self) -> str:
        return self.path.stem

    @property
    def size(self) -> int:
        """Bytes."""
        return self.path.stat().st_size

    @property
    def said(self) -> str:
        """Why it was made, in words."""
        return {_BEFORE: "before an update", _REPLACED: "before another was restored", "asked": "on request"}.get(
            self.why, "by itself"
        )


def list_copies(folder: Path) -> list[Copy]:
    """All copies beside the store in a folder, the newest first."""
    found = []
    for path in (folder / FOLDER).glob("*.sqlite3"):
        stamp, _, why = path.stem.partition("~")
        try:
            found.append(Copy(path, datetime.strptime(stamp, _STAMP), why.partition(".")[0]))
        except ValueError:
            continue  # somebody else's file
    return sorted(found, key=lambda c: (c.made_at, c.name), reverse=True)


def find_copy(folder: Path, name: str) -> Copy:
    """The copy of that name, or the newest for "last"; raises NotFoundError with the names there are."""
    copies = list_copies(folder)
    for copy in copies:
        if name in (copy.name, copy.path.name) or name == "last":
            return copy
    known = ", ".join(c.name for c in copies) or "none"
    raise NotFoundError(f"There is no copy called “{name[:60]}”.", f"There is: {known}.")


def copy_of_file(path: Path) -> Copy:
    """A file that is named outright, as a copy."""
    return Copy(path, datetime.fromtimestamp(path.stat().st_mtime), "")


def _new_copy(folder: Path, why: str) -> Copy:
    home = folder / FOLDER
    try:
        home.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise cannot_use(home, error) from error
    now = datetime.now().replace(microsecond=0)
    stem = now.strftime(_STAMP) + (f"~{why}" if why else "")
    path, n = home / f"{stem}.sqlite3", 2
    while path.exists():
        path, n = home / f"{stem}{'' if why else '~'}.{n}.sqlite3", n + 1
    return Copy(path, now, why.partition(".")[0])


def make_copy(store: Store, why: str = "") -> Copy:
    """Copy the store now; of those made by themselves, and of those made for a reason, the last ten stay."""
    folder = store.path.parent
    made = _new_copy(folder, why)
    store.backup(made.path)
    _thin(c for c in list_copies(folder) if bool(c.why) == bool(why))
    return made


def copy_before_update(store: Store, version: int) -> None:
    """What a store does before it brings an older file up to date."""
    make_copy(store, f"{_BEFORE}.{version}")


def _thin(copies: Iterable[Copy]) -> None:
    for old in list(copies)[KEPT:]:
        old.path.unlink(missing_ok=True)


def copy_if_due(store: Store) -> Copy | None:
    """Copy the store if it has changed since the last copy, and that was made an hour ago or earlier."""
    last = next((c for c in list_copies(store.path.parent) if not c.why), None)
    if last is not None:
        touched = store.rows("SELECT max(touched_at) AS at FROM documents")[0]["at"] or 0.0
        made = last.made_at.timestamp()
        if touched < made or time.time() - made < APART:
            return None
    elif not store.rows("SELECT 1 FROM documents WHERE kind <> 'shelf' LIMIT 1"):
        return None
    return make_copy(store)


@dataclass(frozen=True)
class Contents:
    """What lies in a copy."""

    puppets: tuple[str, ...]
    scenes: tuple[str, ...]
    touched_at: float
    version: int


def look_into(copy: Copy) -> Contents:
    """Names of what a copy holds; raises BrokenStoreError for one that is damaged."""
    with closing(connect(copy.path, "mode=ro&immutable=1")) as db:
        _require_whole(db, copy.path)
        try:
            names = {t: tuple(r[0] for r in db.execute(f"SELECT name FROM {t} ORDER BY name")) for t in _NAMED}  # noqa: S608
            touched = db.execute("SELECT max(touched_at) FROM documents").fetchone()[0]
        except sqlite3.DatabaseError as error:
            raise BrokenStoreError(f"{copy.name} is no copy of a store.", f"{error}.") from error
        return Contents(names["puppets"], names["scenes"], touched or 0.0, version_of(db))


_NAMED = ("puppets", "scenes")


def _require_whole(db: sqlite3.Connection, path: Path) -> None:
    faults = faults_in(db)
    if faults:
        raise BrokenStoreError(f"{path.name} is damaged itself ({faults[0]}).", "Choose another copy.")
    if version_of(db) > newest():
        raise StoreError(f"{path.name} was written by a newer version.", "Use that version to open it.")


def restore_into(store: Store, copy: Copy) -> Copy:
    """Put a copy's contents in the place of an open store's; a copy of what stood there before comes back.

    All documents get revisions that none of them had before, so that nothing that is known of them is
    taken for how they stand now. Raises BrokenStoreError for a damaged copy, StoreError where it cannot be done.
    """
    kept = make_copy(store, _REPLACED)
    with closing(connect(copy.path, "mode=ro&immutable=1")) as source:
        _require_whole(source, copy.path)
        store.take_over(source)
    return kept


def restore_file(folder: Path, copy: Copy) -> Path | None:
    """Put a copy in the place of a store that is not open, and may be damaged; where that one lies now, if any."""
    with closing(connect(copy.path, "mode=ro&immutable=1")) as source:
        _require_whole(source, copy.path)
    target = folder / FILE_NAME
    try:
        part = target.with_suffix(".part")
        shutil.copy(copy.path, part)
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        aside = None
        if target.exists():
            aside = folder / f"aside-{datetime.now().strftime(_STAMP)}"
            aside.mkdir()
            for name in (f"{FILE_NAME}-wal", f"{FILE_NAME}-shm", FILE_NAME):
                if (folder / name).exists():
                    (folder / name).rename(aside / name)
        part.rename(target)
    except OSError as error:
        raise cannot_use(folder, error) from error
    return aside
