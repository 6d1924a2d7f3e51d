"""What is torn where a loop meets its start, as one list: for the card, for the notes, and for closing it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.notes.seam import STEP, torn
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES, Channel, Property, repeat_of
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.offset import window
from gaitwire.core.timing.seam import fitting, fitting_loop, repeated_seam, seam_of
from gaitwire.core.tolerances import TIME

SEAM_JUMP, SEAM_SPEED = 0.05, 0.05
"""In shown units, and per frame: what a seam may jump by unseen."""


class SeamRow(NamedTuple):
    """A channel's seam in the units it is shown in, speed per frame."""

    channel: Channel
    prop: Property
    jump: float
    speed: float
    fits: float | None = None
    """Of a channel that repeats and does not meet the loop that it lies in: the length that would; 0 for none."""
    loop: int | None = None
    """And how long the scene would be that it meets as it is."""

    @property
    def said(self) -> str:
        """How far it jumps, in words."""
        unit = self.prop.unit
        jump = f"jumps {abs(self.jump):.1f}{unit}, " if abs(self.jump) > SEAM_JUMP else ""
        said = f"{jump}speed by {abs(self.speed):.1f}{unit} a frame"
        if self.fits is None:
            return said
        if not self.fits:
            return f"{said}; it never comes back"
        other = f", or a loop of {self.loop} f" if self.loop else ""
        return f"{said}; it would meet the loop at {self.fits:g} f a round{other}"


def stretch_of(scene: Scene, channel: Channel, keys: Sequence[Key]) -> tuple[float, float, float | None] | None:
    """From where to where a channel is played over and over, and the length of the loop that joins its ends.

    Of what does not repeat it is the scene's own, whether that loops or not.
    """
    again = repeat_of(channel, keys)
    if again is None:
        return 0.0, float(scene.frames), scene.loop_length
    if again[0].kind != "cycle":
        return None  # there and back, and onward, it goes on from where it is
    return again[0].start, again[0].end, None


def open_seams(compiled: CompiledScene, ends: bool = False) -> list[SeamRow]:
    """Channels that jump in value or speed where their loop, or the scene's, meets its start; the worst first.

    At the scene's own end only what is seen there counts: by the places of bones and pins. A shot's end meets
    nothing: it counts only if asked for (`ends`).
    """
    scene = compiled.scene
    rows = [row for channel in scene.channels for row in _of_channel(scene, channel, scene.keys_by_channel())]
    found = [row for row in rows if abs(row.jump) > SEAM_JUMP or abs(row.speed) > SEAM_SPEED]
    if scene.loop_length is None:
        return _sorted(r for r in found if ends or r.channel.repeat)
    if found:
        moved = torn_nodes(compiled)
        found = [r for r in found if _is_seen(scene, r, moved)]
    return _sorted(found)


def _sorted(rows: Iterable[SeamRow]) -> list[SeamRow]:
    return sorted(rows, key=lambda row: (-abs(row.jump), -abs(row.speed)))


def _of_channel(scene: Scene, channel: Channel, keys: dict[str, list[Key]]) -> list[SeamRow]:
    row, prop = keys.get(channel.id, []), PROPERTIES[channel.owner_kind][channel.property]
    if len(row) < 2 or prop.stepped:
        return []
    found, again, loop = [], repeat_of(channel, row), scene.loop_length
    laid = _laid(scene, channel) if loop is not None and prop.rest == 0.0 else 0.0
    if stretch := stretch_of(scene, channel, row):
        jump, speed = seam_of(row, *stretch)
        over = laid if stretch[2] is not None else 0.0
        found.append(SeamRow(channel, prop, (jump - over) * prop.display, speed * prop.display))
    if again is None or loop is None:
        return found
    length = again[0].end - again[0].start
    travels = again[0].kind == "onward" and abs(length - loop) < TIME  # each round of the loop sets out anew
    fits = fitting(again[0], loop)
    if not travels and abs(fits - length) > TIME:
        jump, speed = repeated_seam(row, again, loop)
        found.append(
            SeamRow(
                channel, prop, (jump - laid) * prop.display, speed * prop.display, fits, fitting_loop(again[0], loop)
            )
        )
    return found


def _laid(scene: Scene, channel: Channel) -> float:
    """How much more offsets lay on a channel just before a loop's end than on its start."""
    address = (channel.instance_id, channel.owner_id, channel.property)
    times = np.array([scene.frames - 2 * STEP, 0.0])
    own = [o for o in scene.offsets if (o.instance_id, o.owner_id, o.property) == address]
    return float(sum(o.amount * -np.diff(window(o, times, scene.loop_length))[0] for o in own))


def torn_nodes(compiled: CompiledScene) -> dict[str, set[str]]:
    """By puppet of a scene: what jumps at the end of its loop, and all that such things hang from."""
    seen = torn(compiled).seen()
    found: dict[str, set[str]] = {}
    start = 0
    for puppet in compiled.compiled_puppets:
        parent, keys = puppet.skeleton.parent, puppet.nodes.owners
        own = found.setdefault(puppet.source.instance.id, set())
        for n in range(len(keys)):
            at = n if seen[start + n] else -1
            while at >= 0 and keys[at][1] not in own:
                own.add(keys[at][1])
                at = int(parent[at])
        start += len(keys)
    return found


_PLACED = ("bone", "pin", "seat")
_INDIRECT = ("limb", "pad", "gauge", "walk")
"""What moves bones by way of others."""


def _is_seen(scene: Scene, row: SeamRow, moved: dict[str, set[str]]) -> bool:
    channel = row.channel
    if row.fits is None and channel.repeat:
        return True  # the seam of a stretch within the scene is passed again and again
    torn_here = moved.get(channel.instance_id, set())
    if channel.owner_kind in _PLACED and row.prop.name != "opacity":
        return channel.owner_id in torn_here
    return bool(torn_here) if channel.owner_kind in _INDIRECT else True
