"""The head's height over a walk: when it is highest and lowest, against passings and contacts."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.evaluate.island import Island
from gaitwire.core.notes.note import Note, Stage

_LOW = 0.1
"""Share of a puppet's height within which a foot counts as on the ground."""


def head(stage: Stage) -> Iterator[Note]:
    """For every puppet with a head and two feet that pass each other: the head's highest and lowest frame."""
    for island in stage.islands:
        puppet, instance = island.source.puppet, island.source.instance.id
        top = next((b for b in puppet.bones if b.role == "head"), None)
        feet = _feet(stage, island)
        if top is None or feet is None:
            continue
        apart = feet[0].real - feet[1].real
        passings, contacts = _crossings(apart, stage.compiled.scene.loop)
        # Feet that step on the ground, not up a ladder or through the air.
        deep = np.maximum(feet[0].imag, feet[1].imag)
        height = stage.point(instance, top.id, 0j).imag
        room = _LOW * float((deep - height).max())
        contacts = [c for c in contacts if deep[c] > deep.max() - room]
        passings = [p for p in passings if deep[p] > deep.max() - room]
        if not passings or not contacts:
            continue
        high, low = int(height.argmin()), int(height.argmax())
        said = (
            f"The head is highest on {_against(high, passings, 'passing')},"
            f" lowest on {_against(low, contacts, 'contact')}; {height[low] - height[high]:.0f} px between them."
        )
        yield Note(
            "head", instance, top.id, top.name, high, high, low, float(height[low] - height[high]), "px", said,
            fault=False,
        )  # fmt: skip


def _feet(stage: Stage, island: Island) -> tuple[np.ndarray, np.ndarray] | None:
    """The near and the far ankle's way, if there is one of each."""
    found = []
    for side in ("near", "far"):
        bones = [b for b in island.source.puppet.bones if b.role == "foot" and b.side == side]
        if len(bones) != 1:
            return None
        found.append(stage.point(island.source.instance.id, bones[0].id, 0j))
    return found[0], found[1]


def _crossings(apart: np.ndarray, loop: bool) -> tuple[list[int], list[int]]:
    """Frames on which the feet pass each other, and on which they are furthest apart between that."""
    after = np.roll(apart, -1)
    passes = np.flatnonzero((apart * after < 0) | (apart == 0))
    passes = passes if loop else passes[passes < len(apart) - 1]
    if len(passes) < 2:
        return [], []
    ends = [*passes[1:], passes[0] + len(apart)] if loop else passes[1:]
    contacts = []
    for start, stop in zip(passes, ends, strict=False):
        between = np.arange(start, stop) % len(apart)
        contacts.append(int(between[np.abs(apart[between]).argmax()]))
    return [int(p) for p in passes], contacts


def _against(frame: int, others: list[int], what: str) -> str:
    nearest = min(others, key=lambda o: abs(o - frame))
    by = frame - nearest
    return f"{frame}, on the {what}" if by == 0 else f"{frame}, {abs(by)} {'after' if by > 0 else 'before'} the {what}"
