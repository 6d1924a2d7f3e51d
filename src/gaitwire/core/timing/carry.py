"""Keys carried to other times by a rule."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.key import Key
from gaitwire.core.tolerances import TIME


def carry_keys(keys: Sequence[Key], start: float, stop: float, moved: Callable[[FloatArray], FloatArray]) -> KeyChange:
    """Keys between two frames, both included, each to where a rule that keeps their order takes it.

    A key elsewhere gives way to one that lands on it.
    """
    inside = [k for k in keys if start - TIME <= k.time <= stop + TIME]
    if not inside:
        return KeyChange()
    times = moved(np.array([k.time for k in inside]))
    put = [k.model_copy(update={"time": float(t)}) for k, t in zip(inside, times, strict=True)]
    taken, ids = {round(k.time / TIME) for k in put}, {k.id for k in put}
    gone = tuple(k.id for k in keys if k.id not in ids and round(k.time / TIME) in taken)
    return KeyChange(tuple(k for k, old in zip(put, inside, strict=True) if k.time != old.time), gone)
