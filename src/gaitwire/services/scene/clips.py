"""Copying and pasting of poses and beads, between bones, puppets and scenes; and the shelf of saved poses."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import NamedTuple

import numpy as np
from pydantic import ValidationError

from gaitwire.core.addresses import Address, Bead, Node
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.ids import new_id
from gaitwire.core.owners import owned
from gaitwire.core.puppet.counterpart import Owner, OwnerMark, counterpart, mark_of
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import CAMERA_ID
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.clip import Clip, ClipRow, SavedPose, Way, gain_there, mixed, paste_keys, value_there
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.mark import Pose
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.key_changes import store_keys
from gaitwire.services.scene.poses import put_block
from gaitwire.services.scene.posing import as_led, end_rounds_at, held_time, put_values, with_tips
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.store.connection import Store
from gaitwire.store.records import fetch


class Pasted(NamedTuple):
    """The nodes that were keyed, and the names of what had no counterpart."""

    nodes: list[Node]
    unmatched: list[str]


def read_clip(text: str) -> Clip:
    """A clip as a page kept it; raises InvalidInputError."""
    try:
        return Clip.model_validate_json(text)
    except ValidationError:
        raise InvalidInputError("There is nothing to paste.", "Copy a pose or some beads first.") from None


def clip_of_pose(floor: SceneState, nodes: Collection[Node], frame: float) -> Clip:
    """The nodes as they stand on a frame: every property that has keys, and each bone's turn."""
    found = []
    keyed = {(c.instance_id, c.owner_id, c.property) for c in floor.scene.channels}
    values: dict[Address, float] = {}
    for instance_id in dict.fromkeys(instance for instance, _ in nodes):
        values |= as_led(floor, floor.stands_at(instance_id, frame), frame)
    marks = _marks(floor, _with_parts(floor, nodes, {address[:2] for address in keyed}))
    for address, value in values.items():
        mark = marks.get(address[:2])
        if (
            mark
            and address[2] in PROPERTIES[mark.kind]
            and (address in keyed or (address[2] == "turn" and mark.kind == "bone"))
        ):
            ease = "hold" if PROPERTIES[mark.kind][address[2]].stepped else "quad-in-out"
            key = Key(id=new_id(), channel_id="", time=0.0, value=value, ease=ease)
            found.append(ClipRow(owner=mark, property=address[2], keys=(key,)))
    if not found:
        raise InvalidInputError("There is nothing to copy.", "Choose bones of a puppet.")
    return Clip(puppet_id=_puppet_of(floor, nodes), rows=tuple(found))


def clip_of_beads(floor: SceneState, beads: Sequence[Bead]) -> Clip:
    """The keys that beads are made of, from the first of them on."""
    start = min((b.time for b in beads), default=0.0)
    keys = floor.scene.keys_by_channel()
    chosen = floor.chosen_keys(beads)
    nodes = {(b.instance_id, b.owner_id) for b in beads}
    marks = _marks(floor, nodes)
    rows = []
    for channel in floor.scene.channels:
        mark = marks.get((channel.instance_id, channel.owner_id))
        picked = [k for k in keys.get(channel.id, []) if k.id in chosen.get(channel.id, ())]
        if mark and picked:
            moved = tuple(k.model_copy(update={"time": k.time - start}) for k in picked)
            rows.append(ClipRow(owner=mark, property=channel.property, keys=moved))
    return Clip(puppet_id=_puppet_of(floor, nodes), pose=False, rows=tuple(rows))


def whole_of(floor: SceneState, instance_id: str) -> list[Node]:
    """All of a puppet that a pose is made of: its bones and pins, not its seat."""
    puppet = floor.puppet_of(instance_id)
    ids = [b.id for b in puppet.bones] + [p.id for p in puppet.pins if p.kind == "lead"]
    return [(instance_id, owner_id) for owner_id in ids]


def _with_parts(floor: SceneState, nodes: Collection[Node], keyed: Collection[Node]) -> list[Node]:
    """Nodes with the parts and pins that hang from their bones, where those have keys."""
    found = list(nodes)
    cast = floor.workspace.cast(floor.scene)
    for instance in floor.scene.instances:
        puppet = cast.get(instance.puppet_id)
        if puppet is None:
            continue
        for part in puppet.parts:
            if (instance.id, part.bone_id) in nodes:
                own = (part.id, *(p.id for p in puppet.pins_of(part.id)))
                found += [(instance.id, owner) for owner in own if (instance.id, owner) in keyed]
    return list(dict.fromkeys(found))


def _puppet_of(floor: SceneState, nodes: Collection[Node]) -> str:
    instance = next(iter(nodes))[0]
    return floor.instance(instance).puppet_id


def _marks(floor: SceneState, nodes: Collection[Node]) -> dict[Node, OwnerMark]:
    cast = floor.workspace.cast(floor.scene)
    puppets = {i.id: cast.get(i.puppet_id) for i in floor.scene.instances}
    found = {}
    for instance_id, owner_id in nodes:
        puppet = puppets.get(instance_id)
        if puppet is not None:
            owner = None if owner_id == instance_id else owned(puppet, owner_id)
            if owner is not None or owner_id == instance_id:
                found[instance_id, owner_id] = mark_of(puppet, owner, instance_id)
    return found


@gesture()
def paste_clip(
    draft: Draft, clip: Clip, instance_id: str, frame: float, chosen: Collection[Node] = (), way: Way = "",
    share: float = 1.0, blocking: bool = False,
) -> Pasted:  # fmt: skip
    """Put a clip into a puppet of the scene from a frame on: on chosen bones alone, if some are.

    As many chosen bones as the clip has, none of them among those it came from, take it in order.
    A share below or above 1 goes only so far from how things stand, or beyond. In the view without
    in-betweens (`blocking`) a pasted pose is keyed whole, what it does not hold as it stands there.
    """
    draft.labelled("paste" if not way else "paste mirrored")
    return _put_clip(draft, clip, instance_id, frame, chosen, way, share, blocking)


def _put_clip(
    draft: Draft, clip: Clip, instance_id: str, frame: float, chosen: Collection[Node], way: Way, share: float,
    blocking: bool = False,
) -> Pasted:  # fmt: skip
    puppet = draft.puppet_of(instance_id)
    targets = {m: counterpart(m, puppet, instance_id, bool(way)) for m in clip.owners}
    wanted = [owner for instance, owner in chosen if instance == instance_id]
    if wanted and not any(t and t.id in wanted for t in targets.values()):
        if len(wanted) != len(targets):
            raise InvalidInputError(
                "None of what is chosen is in what was copied.", "Choose as many bones as were copied, or none."
            )
        found = ((mark, owned(puppet, owner)) for mark, owner in zip(targets, wanted, strict=True))
        targets = {m: Owner(o.id, getattr(o, "angle", 0.0)) for m, o in found if o is not None}
    elif wanted:
        targets = {m: t if t and t.id in wanted else None for m, t in targets.items()}
    rows = [(row, t) for row in clip.rows if (t := targets.get(row.owner)) is not None]
    if not rows:
        raise InvalidInputError("Nothing on this puppet answers to what was copied.", "Give its bones names or roles.")
    if clip.pose:
        stands = held_time(draft, instance_id, frame) if blocking else frame
        values = _posed(draft, rows, instance_id, stands, way, share)
        values = with_tips(draft, instance_id, stands, values)
        if blocking:
            put_block(draft, frame, values)
        else:
            end_rounds_at(draft, frame, values)
            put_values(draft, frame, values)
    else:
        _paste_rows(draft, rows, instance_id, frame, way, share)
    nodes = list(dict.fromkeys((instance_id, t.id) for _, t in rows))
    unmatched = [] if wanted else [m.name for m, t in targets.items() if t is None]
    return Pasted(nodes, unmatched)


def _posed(
    floor: SceneState, rows: Sequence[tuple[ClipRow, Owner]], instance_id: str, frame: float, way: Way, share: float
) -> dict[Address, float]:
    now = floor.stands_at(instance_id, frame)
    values: dict[Address, float] = {}
    for row, target in rows:
        address = (instance_id, target.id, row.property)
        prop = PROPERTIES[row.owner.kind].get(row.property)
        if address not in now or prop is None:
            continue
        wanted = value_there(row.property, row.keys[0].value, row.owner.angle, target.angle, way, row.owner.kind)
        stands = now[address]
        if prop.stepped:
            values[address] = wanted if share >= 0.5 else stands
        else:
            values[address] = mixed(prop.rest, stands, wanted, share)
    return values


def _paste_rows(
    draft: Draft, rows: Sequence[tuple[ClipRow, Owner]], instance_id: str, frame: float, way: Way, share: float
) -> None:
    scene = draft.scene
    draft.refuse_locked((instance_id, t.id) for _, t in rows)
    known = {(c.instance_id, c.owner_id, c.property): c for c in scene.channels}
    keys = scene.keys_by_channel()
    times = sorted({frame + k.time for row, _ in rows for k in row.keys})
    now = draft.values_at(np.array(times))
    end_rounds_at(draft, times[0], [(instance_id, t.id, row.property) for row, t in rows])
    for row, target in rows:
        address = (instance_id, target.id, row.property)
        prop = PROPERTIES[draft.owner_kind(instance_id, target.id)].get(row.property)
        if prop is None:
            continue
        draft.means(address[:2], frame, times[-1])
        channel = known.get(address) or draft.new_channel(address)
        if address not in known:
            draft.put([channel])
        values = {}
        for key in row.keys:
            wanted = value_there(row.property, key.value, row.owner.angle, target.angle, way, row.owner.kind)
            stands = float(now[address][times.index(frame + key.time)]) if address in now else wanted
            value = wanted if prop.stepped else mixed(prop.rest, stands, wanted, share)
            values[key.id] = prop.held(value)
        change = paste_keys(
            keys.get(channel.id, []), channel.id, row.keys, frame, scene.loop_length, new_id, values,
            gain_there(row.property, way, row.owner.kind, share),
        )  # fmt: skip
        store_keys(draft, change)


@gesture("mirror a pose")
def mirror_pose(draft: Draft, nodes: Collection[Node], frame: float, way: Way, blocking: bool = False) -> None:
    """Turn the pose on a frame over: near and far trade places, or it is reflected left to right."""
    instance_id = next(iter(nodes))[0]
    clip = clip_of_pose(draft, nodes, held_time(draft, instance_id, frame) if blocking else frame)
    _put_clip(draft, clip, instance_id, frame, (), way or "sides", 1.0, blocking)


def save_pose(floor: SceneState, nodes: Collection[Node], frame: float, name: str = "") -> str:
    """Put the nodes' pose on the pose shelf; its id there."""
    clip = clip_of_pose(floor, nodes, frame)
    puppet = floor.workspace.puppet(clip.puppet_id)
    if puppet.id == CAMERA_ID:
        raise InvalidInputError("Poses are kept with puppets; a camera has none.", "Copy its beads instead.")
    taken = [p.name for p in saved_poses(floor.workspace.store, clip.puppet_id)]
    made = SavedPose(
        id=new_id(), puppet_id=clip.puppet_id, clip=clip.model_dump_json(),
        name=unlike(clean_name(name or f"{puppet.name} {len(taken) + 1}"), taken),
    )  # fmt: skip
    with floor.workspace.edit("save a pose", [floor.scene_id, clip.puppet_id]) as edit:
        edit.put("saved_poses", [made])
    return made.id


@gesture()
def apply_saved_pose(
    draft: Draft, pose_id: str, instance_id: str, frame: float, chosen: Collection[Node], share: float, way: Way = "",
    blocking: bool = False,
) -> Pasted:  # fmt: skip
    """Key a share of a saved pose on a frame."""
    saved = saved_pose(draft.workspace.store, pose_id)
    draft.labelled(f"pose: {saved.name}")
    return _put_clip(draft, read_clip(saved.clip), instance_id, frame, chosen, way, share, blocking)


def put_starting_pose(draft: Draft, puppet: Puppet, instance_id: str) -> None:
    """Key the pose that a puppet starts with on the first frame, in the gesture that brings it in."""
    saved = next((p for p in saved_poses(draft.workspace.store, puppet.id) if p.starting), None)
    if saved is None:
        return
    for row in read_clip(saved.clip).rows:
        owner = counterpart(row.owner, puppet, instance_id)
        if owner is not None:
            channel = Channel(
                id=new_id(), scene_id=draft.scene_id, instance_id=instance_id, owner_kind=row.owner.kind,
                owner_id=owner.id, property=row.property,
            )  # fmt: skip
            draft.put([channel])
            draft.put([row.keys[0].model_copy(update={"id": new_id(), "channel_id": channel.id})])
    draft.put(
        [Pose(id=new_id(), scene_id=draft.scene_id, instance_id=instance_id, time=0.0, name=saved.name)],
    )


def start_with_pose(floor: SceneState, pose_id: str, starts: bool) -> None:
    """Let a puppet stand in a saved pose from its first frame on wherever it is brought in; one pose does."""
    saved = saved_pose(floor.workspace.store, pose_id)
    with floor.workspace.edit("starting pose", [floor.scene_id, saved.puppet_id]) as edit:
        known = saved_poses(floor.workspace.store, saved.puppet_id)
        changed = [p for p in known if p.starting or p.id == pose_id]
        edit.put("saved_poses", [p.model_copy(update={"starting": starts and p.id == pose_id}) for p in changed])


def rename_saved_pose(floor: SceneState, pose_id: str, name: str) -> None:
    """Give a saved pose another name."""
    saved = saved_pose(floor.workspace.store, pose_id)
    with floor.workspace.edit("name a pose", [floor.scene_id, saved.puppet_id]) as edit:
        edit.put("saved_poses", [saved.model_copy(update={"name": clean_name(name)})])


def remove_saved_pose(floor: SceneState, pose_id: str) -> None:
    """Take a pose off the pose shelf."""
    saved = saved_pose(floor.workspace.store, pose_id)
    with floor.workspace.edit("take a pose off its shelf", [floor.scene_id, saved.puppet_id]) as edit:
        edit.remove("saved_poses", [saved.id])


def saved_poses(store: Store, puppet_id: str) -> list[SavedPose]:
    """A puppet's saved poses, by name."""
    return fetch(store, "saved_poses", "puppet_id = ? ORDER BY name, id", (puppet_id,), SavedPose)


def saved_pose(store: Store, pose_id: str) -> SavedPose:
    """A saved pose; raises NotFoundError."""
    found = fetch(store, "saved_poses", "id = ?", (pose_id,), SavedPose)
    if not found:
        raise NotFoundError("This pose is not on the shelf any more.", "Choose another.")
    return found[0]
