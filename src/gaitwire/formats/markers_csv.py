"""Markers of a walk in a table: a row for each moment, columns such as time, hip_x, hip_y, knee_x, ..."""

from __future__ import annotations

import csv
import io
from typing import NamedTuple

import numpy as np

from gaitwire.core.bounds import FARTHEST
from gaitwire.core.errors import InvalidInputError, TooLargeError
from gaitwire.core.walk.recorded import MARKERS

MOST_BYTES = 20_000_000
_COLUMNS = [f"{name}_{axis}" for name in MARKERS for axis in "xy"]
_NAMES = ("time", *_COLUMNS)


class Markers(NamedTuple):
    """Places (F,), complex with y up, by marker; and rows a second."""

    places: dict[str, np.ndarray]
    rate: float


def read_markers(data: bytes) -> Markers:
    """The markers in a CSV file; raises InvalidInputError that names the column or the row.

    `time` is in seconds; columns that are not asked for may hold anything. Whether y grows up or down
    is seen from where the hip is.
    """
    if len(data) > MOST_BYTES:
        raise TooLargeError(f"This table is larger than {MOST_BYTES // 10**6} MB.", "Cut it to a few strides.")
    try:
        rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig"), newline="")))
    except (UnicodeDecodeError, csv.Error):
        raise InvalidInputError("This is no readable CSV table.", "Save it as CSV in UTF-8.") from None
    head = [cell.strip().lower() for cell in rows[0]] if rows else []
    missing = [name for name in _NAMES if name not in head]
    if missing:
        raise InvalidInputError(
            f"The column “{missing[0]}” is missing.", f"Columns are time and {', '.join(_COLUMNS[:4])} and so on."
        )
    table = _numbers(
        [row for row in rows[1:] if any(cell.strip() for cell in row)], [head.index(name) for name in _NAMES]
    )
    columns = dict(zip(_NAMES, table.T, strict=True))
    steps = np.diff(columns["time"])
    if len(steps) < 2 or not (steps > 0).all() or np.ptp(steps) > 0.1 * steps.mean():
        raise InvalidInputError("Its times do not go on evenly.", "Every row is one moment later, in seconds.")
    up = 1.0 if columns["hip_y"].mean() > columns["ankle_y"].mean() else -1.0
    places = {name: columns[f"{name}_x"] + 1j * up * columns[f"{name}_y"] for name in MARKERS}
    return Markers(places, float(1.0 / steps.mean()))


def _numbers(rows: list[list[str]], columns: list[int]) -> np.ndarray:
    """Cells as numbers (rows, columns)."""
    found = np.empty((len(rows), len(columns)))
    for n, row in enumerate(rows):
        try:
            found[n] = [float(row[c]) for c in columns]
        except (ValueError, IndexError):
            raise InvalidInputError(f"Row {n + 2} is not all numbers.", "Fill its gaps, or leave it out.") from None
    if np.abs(found).max(initial=0.0) > FARTHEST:
        raise InvalidInputError("This table has numbers beyond all measure.", "Export it again.")
    if not np.isfinite(found).all():
        raise InvalidInputError(f"Row {int(np.argmin(np.isfinite(found).all(axis=1))) + 2} is not all numbers.")
    return found
