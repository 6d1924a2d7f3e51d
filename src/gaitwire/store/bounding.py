"""Rows that were stored before everything was bounded: put within bounds where that can be, else told."""

from __future__ import annotations

import json
import re
from collections import Counter
from typing import Any

from pydantic import ValidationError

from gaitwire.store.connection import Store
from gaitwire.store.records import TABLES, StoredRow, Table

_CONTROL = re.compile(r"[\x00-\x1f\x7f\ud800-\udfff]")


def mend_bounds(store: Store) -> list[str]:
    """Look over every row and every image in history; what was done about those out of bounds, in words.

    Numbers go to their nearest bound, names lose what cannot be written. A key whose time is out of
    bounds goes: at the bound another may lie. History ends where an image cannot be mended.
    """
    done: Counter[str] = Counter()
    with store.atomic() as db:
        for spec in TABLES.values():
            for row in [dict(r) for r in db.execute(f"SELECT * FROM {spec.name}")]:  # noqa: S608
                mended = _mended(spec, row)
                if mended == row:
                    continue
                if mended is None:
                    done[_hopeless(db, spec, row)] += 1
                    continue
                columns = [c for c in spec.columns if mended[c] != row[c]]
                marks = ", ".join(f"{c} = ?" for c in columns)
                db.execute(f"UPDATE {spec.name} SET {marks} WHERE id = ?", [*(mended[c] for c in columns), row["id"]])  # noqa: S608
                done[f"{spec.name}: {', '.join(columns)} put within bounds"] += 1
        if _mend_history(db):
            done["history was ended: it held what cannot be put back"] += 1
    return [f"{n} × {what}" for what, n in sorted(done.items())]


def _hopeless(db: Any, spec: Table, row: StoredRow) -> str:
    if spec.name == "keys":
        db.execute("DELETE FROM keys WHERE id = ?", (row["id"],))
        return "keys out of bounds taken away"
    return f"{spec.name}: rows that cannot be read and were left as they are"


def _mended(spec: Table, row: StoredRow) -> StoredRow | None:
    """The row within bounds; None where that cannot be."""
    found = dict(row)
    for _ in range(4):
        try:
            spec.model.model_validate(spec.from_row(found))
            return found
        except ValidationError as error:
            for fault in error.errors():
                if (
                    not fault["loc"]
                    or fault["loc"][0] not in spec.columns
                    or (spec.name == "keys" and "time" in fault["loc"])
                ):
                    return None
                found[str(fault["loc"][0])] = _within(fault, found[str(fault["loc"][0])])
        except (json.JSONDecodeError, TypeError):
            return None
    return None


def _within(fault: Any, value: Any) -> Any:
    """A value that does not have a fault any more, if it is one of bounds."""
    context = fault.get("ctx", {})
    if isinstance(value, str):
        plain = _CONTROL.sub("", value)[: context.get("max_length", 80)]
        return plain or "unnamed"
    for bound in ("ge", "le"):
        if bound in context:
            return context[bound]
    if "gt" in context:
        return context["gt"] + 0.01
    if "lt" in context:
        return context["lt"] - 0.01
    return 0.0


def _mend_history(db: Any) -> bool:
    """Put images within bounds; whether all of history had to be ended instead."""
    for step, name, row_id, *images in db.execute("SELECT * FROM step_rows").fetchall():
        spec = TABLES.get(name)
        if spec is None:
            continue
        rows = [None if image is None else json.loads(image) for image in images]
        mended = [row and _mended(spec, row) for row in rows]
        if any(row is not None and new is None for row, new in zip(rows, mended, strict=True)):
            db.execute("DELETE FROM steps")
            return True
        if mended != rows:
            texts = [row and json.dumps(row) for row in mended]
            where = "WHERE step_id = ? AND table_name = ? AND row_id = ?"
            db.execute(f"UPDATE step_rows SET before = ?, after = ? {where}", (*texts, step, name, row_id))  # noqa: S608
    return False
