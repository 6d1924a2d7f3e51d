"""What a scene's length does to what lies in it: keys that double its start, beads that sleep, walks that end early."""

from __future__ import annotations

from gaitwire.core.scene import Scene
from gaitwire.core.timing.edit import key_at
from gaitwire.core.timing.pinning import MOVED
from gaitwire.core.tolerances import TIME


def doubled_keys(scene: Scene, frames: int) -> list[str]:
    """Ids of the keys on the end of a loop of so many frames that say what its start says, which shows there anyway."""
    found = []
    for row in scene.keys_by_channel(asleep=True).values() if scene.loop else ():
        first, last = key_at(row, 0.0), key_at(row, float(frames))
        if first is not None and last is not None and abs(first.value - last.value) <= MOVED:
            found.append(last.id)
    return found


def sleeping(scene: Scene) -> int:
    """How many beads lie beyond the end."""
    owners = {c.id: (c.instance_id, c.owner_id) for c in scene.channels}
    return len({(*owners[k.channel_id], k.time) for k in scene.keys if k.time >= scene.frames})


def cut_through(before: Scene, after: Scene) -> bool:
    """Whether a shot that was made shorter ends in the middle of movements, on whose way there is no bead."""
    if after.loop or after.frames >= before.frames:
        return False
    last = after.frames - 1.0
    rows = after.keys_by_channel(asleep=True).values()
    return any(row[0].time < last < row[-1].time and key_at(row, last) is None for row in rows)


def ended_walks(before: Scene, after: Scene) -> list[str]:
    """Ids of the walks that went on to the end of a scene which is longer now."""
    if after.frames <= before.frames:
        return []
    return [g.id for g in after.gaits if abs(g.stop - (before.frames - 1)) < 1 + TIME]


def told_length(before: Scene, after: Scene) -> str:
    """What another length did elsewhere than where the hand is."""
    said = []
    if gone := len(before.keys) - len(after.keys):
        what = "One key" if gone == 1 else f"{gone} keys"
        said.append(f"{what} on the end went: a loop's end shows its start.")
    if (asleep := sleeping(after)) > 0 and asleep != sleeping(before):
        beads = "One bead lies" if asleep == 1 else f"{asleep} beads lie"
        how = "asleep until it is longer" if after.loop else "and shows once it is longer"
        said.append(f"{beads} beyond the end, {how}.")
    return " ".join(said)
