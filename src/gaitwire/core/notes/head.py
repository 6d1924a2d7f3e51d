"""The head's height over a walk: when it is highest and lowest, against passings and contacts."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from gaitwire.core.notes.note import Note, NoteScene
from gaitwire.core.notes.steps import steps_of


def head(stage: NoteScene) -> Iterator[Note]:
    """For every puppet with a head that walks: the head's highest and lowest frame of the walk."""
    for compiled_puppet in stage.compiled_puppets:
        puppet, instance = compiled_puppet.source.puppet, compiled_puppet.source.instance.id
        top = next((b for b in puppet.bones if b.role == "head"), None)
        steps = steps_of(stage, compiled_puppet) if top is not None else None
        if top is None or steps is None:
            continue
        whole = stage.compiled.scene.loop or len(steps.contacts) < 2  # else the steps that are all there
        first, last = (steps.first, steps.last) if whole else (steps.contacts[0], steps.contacts[-1])
        first, last = math.ceil(first), int(last) + 1
        height = stage.point(instance, top.id, 0j).imag[first:last]
        high, low = first + int(height.argmin()), first + int(height.argmax())
        way = float(height.max() - height.min())
        said = (
            f"The head is highest on {_against(high, steps.passings, 'passing')},"
            f" lowest on {_against(low, steps.contacts, 'contact')}; {way:.0f} px between them."
        )
        yield Note("head", instance, top.id, top.name, high, high, low, way, "px", said, fault=False)


def _against(frame: int, others: Sequence[float], what: str) -> str:
    nearest = min(others, key=lambda o: abs(o - frame))
    by = round(frame - nearest)
    return f"{frame}, on the {what}" if by == 0 else f"{frame}, {abs(by)} {'after' if by > 0 else 'before'} the {what}"
