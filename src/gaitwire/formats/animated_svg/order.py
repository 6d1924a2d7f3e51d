"""Drawing order over the file's time: each part once, and those that change places once for each of them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Set

import numpy as np

from gaitwire.core.conventions import IntArray

OrderPlace = tuple[int, list[bool]]
"""A part, and the frames on which it is seen there."""


def places(order: IntArray, moving: Set[int]) -> Iterator[OrderPlace]:
    """Parts back to front for a drawing order (F, P) that may change from frame to frame.

    Parts that never move keep their order among themselves; between any two of them lie, on each
    frame, some of the `moving` ones: every row of those that occurs is written out, and seen on
    the frames on which it occurs.
    """
    count = len(order)
    fixed = [int(p) for p in order[0] if int(p) not in moving]
    gaps: list[dict[tuple[int, ...], list[bool]]] = [{} for _ in range(len(fixed) + 1)]
    for frame, row in enumerate(order.tolist()):
        for gap, run in enumerate(_rows(row, moving)):
            if run:
                gaps[gap].setdefault(run, [False] * count)[frame] = True
    for gap, rows in enumerate(gaps):
        for run, seen in rows.items():
            yield from ((part, seen) for part in run)
        if gap < len(fixed):
            yield fixed[gap], [True] * count


def _rows(row: list[int], moving: Set[int]) -> Iterator[tuple[int, ...]]:
    run: list[int] = []
    for part in row:
        if part in moving:
            run.append(part)
        else:
            yield tuple(run)
            run = []
    yield tuple(run)


def movers(order: IntArray) -> set[int]:
    """Parts to be moved so that all others keep their order: the fewest changes against the first frame."""
    found: set[int] = set()
    for row in np.unique(order, axis=0):
        first, other = ([p for p in one.tolist() if p not in found] for one in (order[0], row))
        found |= _out_of_line(first, other)
    return found


def _out_of_line(first: list[int], other: list[int]) -> set[int]:
    """What is left when the longest run that both have in the same order is taken away."""
    place = {part: n for n, part in enumerate(first)}
    runs: list[list[int]] = [[]]
    for part in other:
        runs.append([*_longest(run for run in runs if not run or place[run[-1]] < place[part]), part])
    return set(first) - set(_longest(runs))


def _longest(runs: Iterable[list[int]]) -> list[int]:
    return max(runs, key=len)
