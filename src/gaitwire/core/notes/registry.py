"""The registry of what is measured in a scene."""

from __future__ import annotations

from gaitwire.core.notes.ground import hovering, penetration
from gaitwire.core.notes.head import head
from gaitwire.core.notes.jumps import jumps
from gaitwire.core.notes.note import Measured, Note, NoteScene
from gaitwire.core.notes.order import order
from gaitwire.core.notes.pops import pops
from gaitwire.core.notes.seam import seam
from gaitwire.core.notes.sides import sides
from gaitwire.core.notes.slip import short, slip

MEASURES: dict[str, Measured] = {
    m.name: m
    for m in (
        Measured("slip", "slipping", "planted hands and feet that move on their spots", slip),
        Measured("short", "out of reach", "planted hands and feet that do not reach their spots", short),
        Measured("penetration", "through the floor", "heels and balls of feet under the ground", penetration),
        Measured("hovering", "above the floor", "feet that are planted a little above the floor", hovering),
        Measured("jump", "jumps", "what jumps where a phrase or a walk begins or ends", jumps),
        Measured("pop", "snapping", "limbs that change their speed at once near straight", pops),
        Measured("seam", "seam", "what jumps where a loop's end meets its start", seam),
        Measured("sides", "near against far", "the two sides of a walk, half a stride apart", sides),
        Measured("order", "order", "where a fix, pad or gauge changes the drawing order, and it may pop", order),
        Measured("head", "head", "when the head is highest and lowest in a walk", head),
    )
}


def notes_of(stage: NoteScene) -> list[Note]:
    """All notes of a scene, in the registry's order, each kind in order of time."""
    return [n for m in MEASURES.values() for n in sorted(m.measure(stage), key=lambda n: (n.first, n.name))]
