"""How the program and its store are: for /health, for a report, and for `gaitwire doctor`."""

from __future__ import annotations

import hashlib
import platform
import shutil
import sqlite3
import sys
import time
from contextlib import closing
from dataclasses import dataclass, field
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Any

from gaitwire import __version__
from gaitwire.core.errors import GaitWireError
from gaitwire.services.session import workers
from gaitwire.services.session.journal import FILE_NAME as LOG_NAME
from gaitwire.services.session.locking import held_by
from gaitwire.store import Store
from gaitwire.store.backups import list_copies
from gaitwire.store.opening import faults_in
from gaitwire.store.schema import newest, version_of
from gaitwire.store.upkeep import file_size, history_size

LIBRARIES = ("numpy", "scipy", "shapely", "skia-python", "pillow", "av", "fastapi", "uvicorn", "pydantic")

_STARTED = time.monotonic()


def memory_in_use() -> int:
    """Bytes of memory that this process takes; 0 where the system does not say."""
    try:
        return workers.pages_in_use()[1] * workers.PAGE
    except OSError:
        return 0


def health_of(store: Store) -> dict[str, Any]:
    """A running program's health, in a few words and numbers."""
    return {
        "version": __version__,
        "python": platform.python_version(),
        "system": platform.platform(),
        "sqlite": sqlite3.sqlite_version,
        "store": "read only" if store.read_only else "ok",
        "file_bytes": file_size(store),
        "file_version": newest(),
        "memory_bytes": memory_in_use(),
        "seconds_up": round(time.monotonic() - _STARTED, 1),
    }


@dataclass
class Examination:
    """What `gaitwire doctor` found: rows to show, and what is wrong."""

    rows: dict[str, Any] = field(default_factory=dict)
    faults: list[str] = field(default_factory=list)


def examine(folder: Path) -> Examination:
    """Look everything over; nothing is changed."""
    found = Examination()
    found.rows |= {"version": __version__, "python": sys.version.split()[0], "system": platform.platform()}
    found.rows["sqlite"] = sqlite3.sqlite_version
    _examine_libraries(found)
    _examine_workers(found)
    _examine_store(folder, found)
    return found


def _examine_libraries(found: Examination) -> None:
    for name in LIBRARIES:
        try:
            found.rows[name] = version(name)
        except PackageNotFoundError:
            found.faults.append(f"The library {name} is missing.")


def _examine_workers(found: Examination) -> None:
    began = time.monotonic()
    try:
        workers.run_limited(_answer, seconds=30)
        found.rows["a worker answers after"] = f"{time.monotonic() - began:.1f} s"
    except GaitWireError as error:
        found.faults.append(f"Workers do not start: {error}")


def _answer() -> int:
    return 1


def _examine_store(folder: Path, found: Examination) -> None:
    found.rows["folder"] = str(folder)
    if folder.exists():
        found.rows["free on its disk"] = f"{shutil.disk_usage(folder).free / 1e9:.1f} GB"
    found.rows["held by"] = held_by(folder) or "nobody"
    log = folder / LOG_NAME
    found.rows["log"] = f"{log} ({log.stat().st_size} bytes)" if log.exists() else "none"
    copies = list_copies(folder)
    found.rows["copies"] = f"{len(copies)}, the last {copies[0].name}" if copies else "none"
    try:
        store = Store(folder, reading=True)
    except GaitWireError as error:
        found.faults.append(str(error))
        return
    with closing(store):
        found.rows["file"] = f"{file_size(store) / 1e6:.1f} MB, version {version_of(store.connection)} of {newest()}"
        faults = faults_in(store.connection)
        found.rows["check"] = "; ".join(faults) or "sound"
        found.faults += [f"The store is damaged: {fault}" for fault in faults[:5]]
        if not faults:
            _count(store, found)


def _count(store: Store, found: Examination) -> None:
    kinds = store.rows("SELECT kind, count(*) AS n FROM documents WHERE kind <> 'shelf' GROUP BY kind ORDER BY kind")
    found.rows["documents"] = ", ".join(f"{row['n']} {row['kind']}" for row in kinds) or "none"
    size = history_size(store)
    found.rows["history"] = f"{size.steps} steps, {size.bytes / 1e6:.1f} MB"
    wrong = changed_blobs(store)
    found.rows["pictures and sounds"] = "as they came" if not wrong else f"{len(wrong)} damaged"
    if wrong:
        found.faults.append(
            f"{len(wrong)} pictures or sounds are not as they came: {', '.join(h[:8] for h in wrong[:5])}"
        )


def changed_blobs(store: Store) -> list[str]:
    """Hashes of blobs whose bytes do not have that hash any more."""
    with store.snapshot() as db:
        rows = db.execute("SELECT hash, data FROM blobs")
        return [row["hash"] for row in rows if hashlib.sha256(row["data"]).hexdigest() != row["hash"]]
