"""Rounds of a repeating channel written out as keys, so that repeating can end."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gaitwire.core.timing.cutting import add_point
from gaitwire.core.timing.edit import KeyChange, MakeId, key_at
from gaitwire.core.timing.key import WHOLE, Key
from gaitwire.core.timing.loop import Repeat, repeated
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.tolerances import TIME


def within(repeat: Repeat, lead_in: bool, time: float) -> float:
    """The time in its stretch at which a repeating channel shows what it does at a time."""
    at, _ = repeated(repeat, np.array([time]), lead_in)
    return float(at[0])


def unrolled(keys: Sequence[Key], again: tuple[Repeat, bool], until: float, make_id: MakeId) -> KeyChange:
    """Keys that play a repeating channel's rounds from the end of its stretch up to a time, which is left out.

    A cycle whose ends meet is copied, easings and all; any other is written frame by frame.
    """
    repeat, _ = again
    first = [k for k in keys if repeat.start - TIME <= k.time < repeat.end - TIME]
    length = repeat.end - repeat.start
    frames = np.array([repeat.start, repeat.end - 1e-6])
    table = compile_keys([list(keys)], None, {})
    ends = sample(table, frames)[0]
    beyond = [k.id for k in keys if k.time > repeat.end + TIME]
    whole = bool(first) and abs(first[0].time - repeat.start) < TIME and abs(ends[0] - ends[1]) < 1e-4
    if repeat.kind == "cycle" and whole:
        rounds = int(np.ceil((until - repeat.end) / length)) + 1
        copies = [
            k.model_copy(update={"id": make_id(), "time": k.time + n * length, "stay": False})
            for n in range(1, rounds + 1)
            for k in first
        ]
        there = [k.id for k in keys if abs(k.time - repeat.end) < TIME]
        return KeyChange(tuple(k for k in copies if k.time < until - TIME), (*there, *beyond))
    times = np.arange(np.ceil(repeat.end + TIME), until - TIME)
    playing = compile_keys([list(keys)], None, {0: again})
    values = sample(playing, times)[0] if len(times) else times
    flat = {**WHOLE, "ease": "linear", "stay": False}
    written = [
        keys[0].model_copy(update={**flat, "id": make_id(), "time": float(t), "value": float(v)})
        for t, v in zip(times, values, strict=True)
    ]
    return KeyChange(tuple(written), tuple(beyond))


def unrolled_to(keys: Sequence[Key], again: tuple[Repeat, bool], until: float, make_id: MakeId) -> KeyChange:
    """The same with a key on the frame before that time, which cuts the course there as it is."""
    repeat, _ = again
    change = unrolled(keys, again, until + 2 * (repeat.end - repeat.start), make_id)
    gone = set(change.removed)
    row = sorted((*(k for k in keys if k.id not in gone), *change.put), key=lambda k: k.time)
    cut = add_point(row, until - 1.0, None, make_id) if key_at(row, until - 1.0) is None else KeyChange()
    put = {k.id: k for k in (*change.put, *cut.put)}
    return KeyChange(tuple(k for k in put.values() if k.time < until - TIME), change.removed)
