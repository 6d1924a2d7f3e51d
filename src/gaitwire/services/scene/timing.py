"""Work on timing: stays, creep, thinning, repeats, offsets over a span, markers."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any, NamedTuple

from pydantic import ValidationError

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.explaining import explained
from gaitwire.core.ids import new_id
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES, Channel, repeat_of
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.holding import hold_span, stay_keys, thin_keys
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.mark import Marker
from gaitwire.core.timing.offset import Offset
from gaitwire.core.timing.retime import scale_keys
from gaitwire.core.timing.seam import close_seam
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.creep import creeps_of
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.key_changes import change_channels, store_keys
from gaitwire.services.scene.seams import SEAM_JUMP, SeamRow, open_seams, stretch_of
from gaitwire.services.session.naming import clean_name
from gaitwire.services.session.revising import revised


class Thinning(NamedTuple):
    """What thinning out did."""

    keys: int
    error: float
    prop: str
    """The property that is off by most."""


_SHORT = 1e-3
"""Frames by which what is laid over a loop's last frames ends before its start, which it leaves alone."""


@gesture()
def put_stays(draft: Draft, nodes: Collection[Node], frame: float) -> int:
    """Make all channels of the nodes hold from their last key until a frame; how many now do.

    No other key is made or moved. Raises InvalidInputError where nothing could be held.
    """

    def work(scene: Scene, _: Channel, keys: list[Key]) -> KeyChange:
        return stay_keys(keys, frame, scene.loop_length, new_id)

    held = change_channels(draft, "stay", nodes, work)
    if not held:
        raise InvalidInputError(
            "Nothing could be held here.",
            "A stay goes between two keys: go to a frame after a key, with none on it.",
        )
    return held


@gesture()
def put_stays_over(draft: Draft, nodes: Collection[Node], start: float, stop: float) -> int:
    """Make all channels of the nodes hold over a span as they stand at its start; how many do."""
    if stop - start < TIME:
        raise InvalidInputError("This span has no length.", "Drag over some frames of the wires.")

    def work(scene: Scene, channel: Channel, keys: list[Key]) -> KeyChange:
        if PROPERTIES[channel.owner_kind][channel.property].stepped:
            return KeyChange()
        return hold_span(keys, channel.id, start, stop, scene.loop_length, new_id)

    held = change_channels(draft, "stay", nodes, work, (start, stop))
    if not held:
        raise InvalidInputError("Nothing that is chosen has keys to hold.", "Choose wires with beads on them.")
    return held


@gesture()
def hold_creeps(draft: Draft, nodes: Collection[Node] | None = None) -> int:
    """Put the stays in that keep creeping bones still until the scene's move length before their key."""
    wanted = [
        c for c in creeps_of(draft.scene) if nodes is None or (c.channel.instance_id, c.channel.owner_id) in set(nodes)
    ]
    by_channel: dict[str, list[float]] = {}
    for creep in wanted:
        by_channel.setdefault(creep.channel.id, []).append(creep.end)

    def work(scene: Scene, channel: Channel, keys: list[Key]) -> KeyChange:
        put: list[Key] = []
        loop = scene.loop_length
        for end in by_channel.get(channel.id, []):
            start = end - (scene.move_length or scene.creep)
            put += stay_keys(keys, wrap(start, loop) if loop else start, loop, new_id).put
        return KeyChange(tuple(put))

    return change_channels(draft, "hold what creeps", {c.node for c in wanted}, work)


@gesture()
def thin_wires(draft: Draft, nodes: Collection[Node], allowed: float) -> Thinning:
    """Take out keys without which channels stay within `allowed` of themselves; those of poses are kept."""
    if allowed < 0:
        raise InvalidInputError("The error allowed is no negative number.", "Type 0 to change nothing at all.")
    worst = Thinning(0, 0.0, "")
    counts = 0

    posed = {(p.instance_id, round(p.time / TIME)) for p in draft.scene.poses}

    def work(scene: Scene, channel: Channel, keys: list[Key]) -> KeyChange:
        nonlocal worst, counts
        prop = PROPERTIES[channel.owner_kind][channel.property]
        spare = {k.id for k in keys if (channel.instance_id, round(k.time / TIME)) not in posed}
        found = thin_keys(
            keys, spare, prop.rest, 0.0 if prop.stepped else allowed / prop.display, scene.frames,
            scene.loop_length,
        )  # fmt: skip
        counts += len(found.removed)
        if found.removed and found.error * prop.display >= worst.error:
            worst = Thinning(0, found.error * prop.display, f"{prop.unit} of {prop.label}")
        return KeyChange(removed=found.removed)

    change_channels(draft, "thin out", nodes, work)
    return worst._replace(keys=counts)


@gesture()
def repeat_channels(
    draft: Draft, nodes: Collection[Node], kind: str, start: float | None = None, stop: float | None = None
) -> int:
    """Make all channels of the nodes repeat between two frames (None: their first and last keys).

    `kind` is cycle, there and back, onward, or empty for not at all.
    """
    if start is not None and stop is not None and stop - start < TIME:
        raise InvalidInputError("A stretch that repeats ends after it starts.", "Type a later frame.")
    channels = draft.channels_of(nodes)
    if not channels:
        raise InvalidInputError("Nothing that is chosen has keys to repeat.", "Choose wires with beads on them.")
    values = {"repeat": kind, "repeat_from": start if kind else None, "repeat_to": stop if kind else None}
    draft.labelled(f"repeat: {kind or 'no more'}")
    draft.refuse_locked(nodes)
    draft.put([revised(c, values) for c in channels])
    return len(channels)


def seams_of(floor: SceneState, nodes: Collection[Node] | None = None, ends: bool = False) -> list[SeamRow]:
    """Channels of the nodes, or all, that are torn where their loop or the scene's meets its start; worst first."""
    rows = open_seams(floor.compiled, ends)
    return [r for r in rows if nodes is None or (r.channel.instance_id, r.channel.owner_id) in nodes]


@gesture("close the seam")
def close_seams(draft: Draft, nodes: Collection[Node] | None = None) -> int:
    """Let channels end as they begin, at the same speed, in a shot too; how many were closed."""
    rows = seams_of(draft, nodes, ends=True)
    if not rows:
        raise InvalidInputError("There is no seam to close.", "Everything chosen meets its start as it is.")
    closed = set()
    draft.refuse_locked({(r.channel.instance_id, r.channel.owner_id) for r in rows})
    scene, keys = draft.scene, draft.scene.keys_by_channel()
    for row in sorted(rows, key=lambda r: r.fits is None):  # where one of a channel fits, that is all
        channel = row.channel
        stretch = stretch_of(scene, channel, keys[channel.id])
        if channel.id in closed or (stretch is None and not row.fits):
            continue
        if row.fits:
            _fit(draft, channel, keys[channel.id], row.fits)
        elif stretch is not None:
            start, end, loop = stretch
            for time in (start, end):
                draft.means((channel.instance_id, channel.owner_id), time)
            store_keys(draft, close_seam(keys[channel.id], channel.id, start, end, loop, new_id))
        closed.add(channel.id)
    if not closed:
        raise InvalidInputError("What goes onward comes back to no start.", "Let it repeat as a cycle.")
    return len(closed)


@gesture("ease the seam closed")
def ease_seams(draft: Draft, nodes: Collection[Node] | None, over: float) -> int:
    """Bring what jumps at the end of the loop to its start over the last frames, by offsets; no key is changed."""
    scene = draft.scene
    rows = [r for r in seams_of(draft, nodes) if abs(r.jump) > SEAM_JUMP and r.prop.rest == 0.0]
    if scene.loop_length is None or not rows:
        raise InvalidInputError("Nothing jumps at the loop's end.", "Where only its speed does, close the seam.")
    if not 1 <= over <= scene.loop_length / 2:
        raise InvalidInputError("It cannot be eased over so many frames.", f"Type 1 to {scene.frames // 2}.")
    end = scene.loop_length - _SHORT
    made = {
        r.channel.id: Offset(
            id=new_id(), scene_id=scene.id, instance_id=r.channel.instance_id, owner_kind=r.channel.owner_kind,
            owner_id=r.channel.owner_id, property=r.channel.property, amount=r.jump / r.prop.display,
            start=end - over, stop=end, soft_in=over, soft_out=0.0,
        )
        for r in rows
    }  # fmt: skip
    draft.refuse_locked({(o.instance_id, o.owner_id) for o in made.values()})
    draft.put(list(made.values()))
    return len(made)


def _fit(draft: Draft, channel: Channel, keys: list[Key], length: float) -> None:
    """Draw a stretch that repeats out, or together, to a length."""
    again = repeat_of(channel, keys)
    if again is None:
        return
    start, end = again[0].start, again[0].end
    inside = {k.id for k in keys if k.time >= start - TIME}
    store_keys(draft, scale_keys(keys, inside, start, length / (end - start), None, whole=False))
    if channel.repeat_to is not None:
        draft.put([revised(channel, {"repeat_to": start + length})])


@gesture("offset over a span")
def put_offsets(draft: Draft, nodes: Collection[Node], values: Mapping[str, Any]) -> list[str]:
    """Lay an amount on a property of each of the nodes over a span; the ids of the offsets."""
    made = []
    draft.refuse_locked(nodes)
    for instance_id, owner_id in nodes:
        kind = draft.owner_kind(instance_id, owner_id)
        prop = PROPERTIES[kind].get(str(values["property"]))
        if prop is None or prop.stepped:
            raise InvalidInputError("This has nothing that could be offset.", "Choose bones or pins.")
        owner = {"instance_id": instance_id, "owner_kind": kind, "owner_id": owner_id}
        try:
            made.append(Offset(id=new_id(), scene_id=draft.scene_id, **owner, **values))
        except ValidationError as error:
            raise InvalidInputError(*explained(error)) from None
    draft.put(made)
    return [o.id for o in made]


@gesture("offset over a span")
def set_offset(draft: Draft, offset_id: str, values: Mapping[str, Any]) -> None:
    """Change an offset over a span."""
    found = find_offset(draft, offset_id)
    draft.refuse_locked([(found.instance_id, found.owner_id)])
    draft.put([revised(found, values)])


def find_offset(floor: SceneState, offset_id: str) -> Offset:
    """An offset over a span; raises NotFoundError."""
    found = next((o for o in floor.scene.offsets if o.id == offset_id), None)
    if found is None:
        raise NotFoundError("This offset is not there any more.", "Choose another.")
    return found


@gesture("remove an offset")
def remove_offset(draft: Draft, offset_id: str) -> None:
    """Take an offset over a span away."""
    found = find_offset(draft, offset_id)
    draft.refuse_locked([(found.instance_id, found.owner_id)])
    draft.remove(Offset, [offset_id])


@gesture("marker")
def put_marker(draft: Draft, frame: float, name: str) -> None:
    """Name a frame, or name it anew."""
    known = next((m for m in draft.scene.markers if abs(m.time - frame) < TIME), None)
    marker = Marker(id=known.id if known else new_id(), scene_id=draft.scene_id, time=frame, name=clean_name(name)[:60])
    draft.put([marker])


@gesture("move a marker")
def move_marker(draft: Draft, marker_id: str, frame: float) -> None:
    """Put a marker on another frame; one that is there gives way."""
    marker = _marker(draft, marker_id)
    draft.remove(Marker, [m.id for m in draft.scene.markers if abs(m.time - frame) < TIME and m.id != marker_id])
    draft.put([revised(marker, {"time": frame})])


@gesture("remove a marker")
def remove_marker(draft: Draft, marker_id: str) -> None:
    """Take a marker away."""
    draft.remove(Marker, [_marker(draft, marker_id).id])


def _marker(floor: SceneState, marker_id: str) -> Marker:
    found = next((m for m in floor.scene.markers if m.id == marker_id), None)
    if found is None:
        raise NotFoundError("This marker is not there any more.", "Choose another.")
    return found
