"""Hops planned: keys of a whole puppet and of what hangs from it, to be edited by hand afterwards."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.ids import new_id
from gaitwire.core.motion.hop import Hop, HopKey, Timing, arc_of, beats_of, lag, timing_of
from gaitwire.core.puppet.limb_chains import limb_bones
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.core.timing.course import fewest_keys
from gaitwire.core.timing.edit import key_at
from gaitwire.core.timing.key import Key
from gaitwire.services.scene.found_poses import poses_of, put_mark
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.kept_poses import FOREVER
from gaitwire.services.scene.led import swinging_in
from gaitwire.services.scene.posing import layers_of
from gaitwire.services.scene.walk_keys import cleared
from gaitwire.services.session.revising import revised

_HANGS = ("hair", "cloth", "rope", "tail", "ear")
"""Roles of bones that hang; bones without a role do too, if they hang from another."""
_ALLOWED = 0.5
"""Degrees by which keys may miss a swing."""
_LEAST = 0.4
"""Degrees: what swings by less is not keyed."""
_LATER = 2.5
"""Frames by which the swing of each piece takes longer than that of the one it hangs from."""
_PERIOD = 10.0
_RINGS_OUT = 26.0
"""Frames after a hop in which what hangs comes to rest."""


class HopField(NamedTuple):
    """One setting of a hop as the card shows it."""

    name: str
    label: str
    unit: str
    hint: str
    factor: float = 1.0


HOP_FIELDS = (
    HopField("crouch", "crouch", "f", "Frames from standing until it leaves the ground"),
    HopField("air", "in the air", "f", "Frames; with the height they say how strong gravity is"),
    HopField("land", "landing", "f", "Frames from touch-down to the deepest squash"),
    HopField("settle", "settles in", "f", "Frames until it stands still"),
    HopField("height", "height", "px", "From where it leaves the ground to the highest point"),
    HopField("distance", "distance", "px", "To the right; below nothing to the left"),
    HopField("drop", "comes down by", "px", "How much lower it lands than it set out"),
    HopField("squash", "squash", "%", "What it loses of its height in the landing", 100.0),
    HopField("stretch", "stretch", "%", "By how much it is drawn out where it is fastest", 100.0),
    HopField("keep", "keeps area", "%", "Of its area while it is squashed and drawn out", 100.0),
    HopField("heft", "heft", "%", "A heavy one takes longer on the ground, and squashes deeper", 100.0),
    HopField("drag", "drag", "%", "How much what hangs from it stays behind", 100.0),
)


class Hopped(NamedTuple):
    """What was planned: when it leaves the ground, touches down and stands, keys, gravity in pixels a frame squared."""

    off: float
    down: float
    end: float
    keys: int
    gravity: float


LONGER = {"longer": "make the scene as long"}
STOPS = {**LONGER, "stop": "let it stop there"}
_BACK = {"back": "it comes back to where it was"}
AFTER = {"along": "all of it moves along", **_BACK}
ROUND = {"travels": "the loop travels: each round begins where the last one ended", **_BACK}
"""What is asked where a hop is longer than its scene, and where something comes after it: on a loop its next round."""

_NAMES = {
    "deepest": "crouch", "off": "take-off", "top": "top", "down": "touch-down", "squashed": "squash", "end": "stands",
}  # fmt: skip
"""How the moments of a hop are called as poses."""

_GOES_BACK = "sine-in-out"
"""How it goes back to where a loop begins."""

_ROOM = 0.92
"""Share of the room above a puppet that a hop takes at most, so that its head stays in the picture."""


def usual_hop(floor: SceneState, instance_id: str) -> Hop:
    """A hop that suits a puppet's size, and the stage: two thirds of its height up, its height across."""
    instance = floor.instance(instance_id)
    puppet = floor.workspace.puppet(instance.puppet_id)
    tops = [floor.workspace.art(p.art_hash).bounds.y0 for p in puppet.parts if not p.hidden]
    tall = max(puppet.base_y - min(tops, default=0.0), 10.0) * instance.scale
    ahead = -1 if instance.turned else 1
    room = max(instance.y - tall, 0.0) * _ROOM
    return Hop(height=round(min(max(min(tall * 0.66, room), tall * 0.12), 1e4)), distance=round(ahead * tall))


@gesture("plan a hop")
def plan_hop(draft: Draft, instance_id: str, frame: float, hop: Hop) -> Hopped:
    """Write the keys of a hop from a frame on, from where the puppet stands there; its keys meanwhile give way.

    Its moments are marked as poses. Asks what becomes of its place after it, where that is keyed, and whether
    the scene is to be longer, where that ends before it stands still.
    """
    when, instance = timing_of(hop), draft.instance(instance_id)
    draft.refuse_locked([(instance_id, instance_id)])
    frames = _frames_for(draft, frame, hop)
    later = _later(draft, instance_id, frame + when.end)
    more = later or any(p.time > frame + when.end for p in poses_of(draft, instance_id))
    after = ""
    if hop.distance or hop.drop:
        if draft.scene.loop:
            after = draft.answered("The loop comes round to where it began.", ROUND)
        elif more:
            after = draft.answered("There is more after this hop.", AFTER)
    puppet = draft.workspace.puppet(instance.puppet_id)
    stands = draft.values_at(np.array([frame]))
    count = 0
    if frames != draft.scene.frames:
        draft.put([revised(draft.scene, {"frames": frames})])
    rows: dict[str, list[HopKey]] = {}
    for beat in beats_of(hop):
        rows.setdefault(beat.prop, []).append(beat)
    far = {"shift_x": hop.distance, "shift_y": hop.drop}
    round_ = after if draft.scene.loop and not (after == "back" and later) else ""
    if round_ == "back":  # once it stands
        for prop in (p for p in far if far[p]):
            rows[prop].append(HopKey(prop, when.end, rows[prop][-1].value, _GOES_BACK))
    for prop, beats in rows.items():
        address = (instance_id, instance_id, prop)
        base = 0.0
        if prop in ("shift_x", "shift_y"):  # by its keys: a walk beneath goes on
            base = layers_of(draft).key_value(address, float(stands[address][0]), frame)
        count += _put_beats(draft, address, frame, base, beats, frames, round_ if far.get(prop) else "")
    swings = swinging_in(draft, instance_id)
    for depth, bone in (row for row in _hanging(puppet) if row[1].id not in swings):
        count += _put_swing(draft, instance_id, bone, depth, frame, hop, instance.turned, frames)
    if after != "back":  # what comes after is as far on, a walk beneath too
        draft.means((instance_id, instance_id), frame, FOREVER)
    if after in ("along", "travels"):
        _move_along(draft, instance_id, later, frame + when.end, hop)
    _name_moments(draft, instance_id, frame, when, frames)
    return Hopped(frame + when.off, frame + when.down, frame + when.end, count, arc_of(hop).gravity)


def _frames_for(draft: Draft, frame: float, hop: Hop) -> int:
    """How long the scene is to be; where it ends before the hop does, that is asked."""
    when, scene = timing_of(hop), draft.scene
    needed = int(np.ceil(frame + when.end)) + 1
    if needed <= scene.frames:
        return scene.frames
    lands = frame + when.down <= scene.frames - 1
    ends, misses = scene.frames - 1, needed - 1 if lands else int(frame + when.down)
    first = scene.first_number
    word = draft.answered(
        f"The scene ends on {ends + first}, before the hop"
        f" {'stands still' if lands else 'touches down'} on {misses + first}.",
        STOPS if lands else LONGER,
    )
    return needed if word == "longer" else scene.frames


def _later(floor: SceneState, instance_id: str, end: float) -> list[Key]:
    """Keys of where a puppet stands that come after a frame."""
    ways = {c.id for c in floor.scene.channels if c.owner_id == instance_id and c.property in ("shift_x", "shift_y")}
    return [k for k in floor.scene.keys if k.channel_id in ways and end < k.time < floor.scene.frames]


def _move_along(draft: Draft, instance_id: str, later: list[Key], end: float, hop: Hop) -> None:
    """Let what comes after a hop be as far on as that has come, and its footprints with it."""
    by = {c.id: hop.distance if c.property == "shift_x" else hop.drop for c in draft.scene.channels}
    draft.put([k.model_copy(update={"value": k.value + by[k.channel_id]}) for k in later])
    own = [p for p in draft.scene.plants if p.instance_id == instance_id and not p.carrier_id]
    moved = [p for p in own if p.start >= end]
    draft.put([p.model_copy(update={"x": p.x + hop.distance, "y": p.y + hop.drop}) for p in moved])


def _name_moments(draft: Draft, instance_id: str, frame: float, when: Timing, frames: int) -> None:
    """Mark the moments of a hop; a pose that is marked there already keeps its name."""
    named = {round(p.time): p.name for p in poses_of(draft, instance_id)}
    for moment, name in _NAMES.items():
        time = round(frame + getattr(when, moment))
        if time < frames:
            put_mark(draft, instance_id, float(time), name=named.get(time) or name)


def _put_beats(
    draft: Draft, address: Address, frame: float, base: float, beats: list[HopKey], last: int, after: str
) -> int:
    """Keys of one property; in a loop it `travels`, so that each round begins where the last one ended, or goes
    `back` until the next one."""
    frames = np.array([frame, frame + beats[-1].time])
    channel = cleared(draft, address, frames, before=True)
    if after == "travels":
        onward = {"repeat": "onward", "repeat_from": 0.0, "repeat_to": float(last)}
        draft.put([revised(channel, onward)])
    keys = [
        Key(id=new_id(), channel_id=channel.id, time=frame + b.time, value=round(base + b.value, 6), ease=b.ease)
        for b in beats
        if frame + b.time < last or not draft.scene.loop
    ]
    start = draft.scene.keys_by_channel().get(channel.id, [])
    if after == "back" and frame > 1 and key_at(start, 0.0) is None:
        began = layers_of(draft).key_value(address, float(draft.values_at(np.zeros(1))[address][0]), 0.0)
        ease = "hold" if not start or start[0].time >= frame else "linear"
        keys.append(Key(id=new_id(), channel_id=channel.id, time=0.0, value=began, ease=ease))
    draft.put(keys)
    return len(keys)


def _put_swing(
    draft: Draft, instance_id: str, bone: Bone, depth: int, frame: float, hop: Hop, turned: bool, last: int
) -> int:
    """Keys of one piece that hangs on; as a turned puppet swings, mirrored."""
    end = min(timing_of(hop).end + _RINGS_OUT, last - 1 - frame)
    frames = np.arange(0.0, np.floor(end) + 1)
    aim = 180.0 - bone.angle if turned else bone.angle
    swing = lag(hop, frames, aim, _PERIOD + _LATER * depth) * (-1 if turned else 1)
    swing *= np.clip((frames[-1] - frames) / 6.0, 0.0, 1.0)  # at rest where it ends
    if len(frames) < 3 or np.abs(swing).max() < _LEAST:
        return 0
    address = (instance_id, bone.id, "turn")
    stood = layers_of(draft).key_value(address, float(draft.values_at(np.array([frame]))[address][0]), frame)
    channel = cleared(draft, address, frame + frames, before=True)
    keys, _ = fewest_keys(channel.id, frame + frames, swing + stood, _ALLOWED, new_id)
    draft.put(keys)
    return len(keys)


def _hanging(puppet: Puppet) -> list[tuple[int, Bone]]:
    """Bones that hang on and swing, each with how many such it hangs from."""
    in_limbs = limb_bones(puppet)
    depths: dict[str, int] = {}
    found = []
    for row in walk(puppet.bones):
        bone = row.bone
        loose = bone.parent_id is not None and bone.length > 0 and bone.id not in in_limbs
        if loose and (bone.role in _HANGS or not bone.role):
            depths[bone.id] = depths.get(bone.parent_id or "", -1) + 1
            found.append((depths[bone.id], bone))
    return found
