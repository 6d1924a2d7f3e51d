"""Posing: values keyed at a frame, on what was changed and on nothing else."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence

import numpy as np

from gaitwire.core.addresses import Address, Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.bracing import braced, take_braces
from gaitwire.core.evaluate.handles import drag, take_all, tops
from gaitwire.core.evaluate.inverse_layers import Beneath, fenced
from gaitwire.core.evaluate.values import shown_times
from gaitwire.core.ids import new_id
from gaitwire.core.scene import Scene
from gaitwire.core.timing import edit as rules
from gaitwire.core.timing.channel import LED, LIMB_PROPERTIES, PROPERTIES, Channel, repeat_of
from gaitwire.core.timing.cutting import add_point
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.holding import late_start
from gaitwire.core.timing.key import WHOLE, Key
from gaitwire.core.timing.loop import Repeat
from gaitwire.core.timing.pinning import keyed_as_it_is
from gaitwire.core.timing.unrolling import unrolled, unrolled_to, within
from gaitwire.core.tolerances import TIME, VALUE_DIGITS
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.kept_poses import FOREVER, course_of
from gaitwire.services.scene.key_changes import store_keys
from gaitwire.services.scene.solved_pose import tips_of

REPEATS_ON = "This frame lies in a later round of what repeats."
AFTER_ROUNDS = {"end": "repeat until here, then go by keys", "every": "change it in every round"}
"""What is asked where a key lies beyond the stretch that its channel repeats."""

OFF_JOINT = 1e-3
"""Pixels of shift from which a bone counts as off its joint."""


@gesture()
def set_values(
    draft: Draft,
    frame: float,
    values: Mapping[Address, float],
    label: str = "pose",
    chosen: Collection[Node] | None = None,
) -> set[Node]:
    """Key values at a frame, making channels as needed; what got keys: what is named, and what keeps braces.

    Keys of nodes that are not among the `chosen` are known as made aside; None: all are meant.
    A puppet on twos is keyed on the frame whose picture shows, and what offsets over a span, phrases
    and a walk beneath add is taken off, so that the values are what is seen.
    """
    values = with_braces(draft, frame, values)
    rounds = _rounds_beyond(draft, frame, values)
    word = draft.answered(REPEATS_ON, AFTER_ROUNDS) if rounds else ""
    draft.labelled(label)
    if word == "end":
        _end_rounds(draft, frame, rounds)
    elif word == "every":
        for address, (channel, again) in rounds.items():
            time = within(*again, draft.instance(address[0]).exposed(frame))
            put_values(draft, time, {address: values[address]}, chosen, {address: channel})
    put_values(draft, frame, {s: v for s, v in values.items() if word != "every" or s not in rounds}, chosen)
    return {address[:2] for address in values}


def _rounds_beyond(
    floor: SceneState, frame: float, addresses: Iterable[Address]
) -> dict[Address, tuple[Channel, tuple[Repeat, bool]]]:
    """Those of some channels that repeat, and play a round other than their first on a frame."""
    scene, wanted = floor.scene, set(addresses)
    keys = scene.keys_by_channel()
    found = {}
    for channel in scene.channels:
        address = (channel.instance_id, channel.owner_id, channel.property)
        again = repeat_of(channel, keys.get(channel.id, [])) if channel.repeat and address in wanted else None
        if again is not None:
            time, (repeat, lead_in) = floor.instance(address[0]).exposed(frame), again
            if time > repeat.end + TIME or (time < repeat.start - TIME and not lead_in):
                found[address] = (channel, again)
    return found


def end_rounds_at(draft: Draft, frame: float, addresses: Iterable[Address]) -> set[Address]:
    """Where keys of a whole course begin in a later round of what repeats: asks whether repeating ends there.

    Those of the channels that do no more.
    """
    rounds = _rounds_beyond(draft, frame, addresses)
    if rounds:
        draft.answered(REPEATS_ON, {"end": AFTER_ROUNDS["end"]})
        _end_rounds(draft, frame, rounds, fenced=True)
    return set(rounds)


def _end_rounds(
    draft: Draft, frame: float, rounds: Mapping[Address, tuple[Channel, tuple[Repeat, bool]]],
    fenced: bool = False,
) -> None:  # fmt: skip
    """Write out what channels repeat up to a frame; from there on they go by their keys.

    `fenced`: with a key on the frame before, so that nothing earlier changes.
    """
    keys = draft.scene.keys_by_channel(asleep=True)
    for address, (channel, again) in rounds.items():
        time = draft.instance(address[0]).exposed(frame)
        work = unrolled_to if fenced else unrolled
        store_keys(draft, work(keys[channel.id], again, time, new_id))
        ended = {"repeat": "", "repeat_from": None, "repeat_to": None}
        draft.put([channel.model_copy(update=ended)])


def with_braces(
    floor: SceneState, frame: float, values: Mapping[Address, float], firm: bool = False
) -> dict[Address, float]:
    """Values on a frame, with those that keep what is braced where it is; less far where that cannot follow.

    A limb that is named itself is let go; where braces are `firm`, what is asked of it is left out instead.
    """
    floor.outcome.stopped = floor.outcome.loose = ()
    if not floor.braces:
        return dict(values)
    compiled = floor.compiled
    held = take_braces(compiled, floor.braces, frame)
    owners = {(h.instance_id, owner) for h in held for owner in h.owners} if firm else set()
    kept = braced(compiled, held, frame, {address: v for address, v in values.items() if address[:2] not in owners})
    floor.outcome.stopped, floor.outcome.loose = kept.stopped, kept.loose
    return kept.values


def put_values(
    draft: Draft, frame: float, values: Mapping[Address, float], chosen: Collection[Node] | None = None,
    known: Mapping[Address, Channel] | None = None, beside: Collection[float] = (),
) -> None:  # fmt: skip
    """The same within a gesture that is under way; `known`: channels that it has made already.

    `beside`: other frames that it keys, beyond which nothing has to be kept from it.
    """
    draft.refuse_locked((instance_id, owner_id) for instance_id, owner_id, _ in values)
    scene, layers = draft.scene, layers_of(draft)
    keys = scene.keys_by_channel()
    channels = {(c.instance_id, c.owner_id, c.property): c for c in scene.channels} | dict(known or {})
    instances = {i.id: i for i in scene.instances}
    for address, value in values.items():
        channel = channels.get(address)
        if channel is None:
            channel = draft.new_channel(address)
            draft.put([channel])
        time = instances[address[0]].exposed(frame)
        draft.means(address[:2], time)
        value = layers.key_value(address, value, time)
        for end in layers.fences(address, time):
            low, high = sorted((time, end))
            if any(low - TIME <= t <= high + TIME and abs(t - time) > TIME for t in beside):
                continue
            store_keys(draft, fenced(scene, channel, keys.get(channel.id, []), time, end), gives_way=True)
        aside = chosen is not None and address[:2] not in chosen
        holds = instances[address[0]].holds or address[0] in draft.outcome.begins_to_hold
        store_keys(draft, _keyed(scene, channel, keys.get(channel.id, []), time, value, aside, holds))
        if channel.id not in keys:
            draft.meaning.firsts[channel.id] = time


@gesture()
def set_course(draft: Draft, rows: Mapping[float, Mapping[Address, float]], label: str = "course") -> None:
    """Key values on several frames at once: a course of its own, which means all of the wires that it is on."""
    draft.labelled(label)
    for address in dict.fromkeys(address for values in rows.values() for address in values):
        draft.means(address[:2], -FOREVER, FOREVER)
    put_course(draft, rows)


def put_course(draft: Draft, rows: Mapping[float, Mapping[Address, float]]) -> None:
    """Key values on several frames within a gesture that is under way, making channels as needed."""
    known = channels_by_address(draft)
    for address in dict.fromkeys(address for values in rows.values() for address in values):
        if address not in known:
            known[address] = draft.new_channel(address)
            draft.put([known[address]])
    for frame, values in rows.items():
        put_values(draft, frame, values, known=known, beside=rows)


def channels_by_address(draft: Draft) -> dict[Address, Channel]:
    """The scene's channels by what they move, with those that a gesture under way has made."""
    made = (c for c in draft.changes.written(Channel).values() if c is not None)
    return {(c.instance_id, c.owner_id, c.property): c for c in (*draft.scene.channels, *made)}


def layers_of(floor: SceneState) -> Beneath:
    """What lies over and under the keys of the scene."""
    if isinstance(floor, Draft):
        if floor.layers is None:  # they are the same for the whole gesture
            floor.layers = Beneath(floor.scene, lambda: floor.compiled)
        return floor.layers
    return Beneath(floor.scene, lambda: floor.compiled)


def put_from(draft: Draft, frame: float, values: Mapping[Address, float]) -> None:
    """The same from a frame on: a key on the frame before sees to it that nothing earlier changes.

    Of a puppet on twos that is the frame before its picture.
    """
    for address in values:
        draft.means(address[:2], frame, FOREVER)
    known = {(c.instance_id, c.owner_id, c.property): c for c in draft.scene.channels}
    new = {}
    for address in values:
        early = draft.instance(address[0]).exposed(frame) - 1.0
        if early < 0:
            continue
        channel = known.get(address) or draft.new_channel(address)
        if address not in known:
            draft.put([channel])
            new[address] = channel
        store_keys(draft, _fence(draft, address, channel, early))
    put_values(draft, frame, values, known=new)


def _fence(floor: SceneState, address: Address, channel: Channel, time: float) -> KeyChange:
    """A key where a channel is at a time, unless there is one."""
    scene = floor.scene
    row = scene.keys_by_channel().get(channel.id, [])
    if rules.key_at(row, time) is not None:
        return KeyChange()
    if any(k.time < time for k in row) and any(k.time > time for k in row):
        return add_point(row, time, scene.loop_length, new_id)
    now = float(floor.value_at(address, np.array([time]))[0])
    value = layers_of(floor).key_value(address, now, time)
    return _keyed(scene, channel, row, time, value, False, floor.instance(address[0]).holds)


def with_tips(
    floor: SceneState, instance_id: str, frame: float, values: Mapping[Address, float]
) -> dict[Address, float]:
    """A pose, and where it has the tips that limbs are solved from on that frame."""
    now = floor.stands_at(instance_id, frame)
    controls = {(owner, prop): value for (_, owner, prop), value in now.items() if prop in LIMB_PROPERTIES}
    if not any(value for (_, prop), value in controls.items() if prop == "mix"):
        return dict(values)
    compiled = floor.compiled
    return {**values, **tips_of(compiled, instance_id, frame, values, controls)}


def put_step(draft: Draft, address: Address, frame: float, value: float) -> None:
    """Key a property that changes from a frame on at once, and holds until then what it said before."""
    draft.means(address[:2], frame, FOREVER)
    channel = channels_by_address(draft).get(address)
    if channel is None:
        channel = draft.new_channel(address)
        draft.put([channel])
    keys = [k for k in draft.changes.written(Key).values() if k is not None and k.channel_id == channel.id]
    keys = sorted({k.id: k for k in (*draft.scene.keys_by_channel().get(channel.id, []), *keys)}.values(), key=_time)
    before = [k for k in keys if k.time < frame - TIME]
    course = course_of(draft.scene, channel, keys)
    if frame > TIME and (not before or before[-1].ease != "hold"):
        at = max(before[-1].time, frame - 1.0) if before else 0.0
        store_keys(draft, keyed_as_it_is(course, at, new_id))
        held = next(k for k in draft.changes.written(Key).values() if k and k.channel_id == channel.id and k.time == at)
        draft.put([held.model_copy(update={**WHOLE, "ease": "hold"})])
    store_keys(draft, rules.set_key(keys, channel.id, frame, value, draft.scene.loop_length, new_id, "hold", False))


def held_time(floor: SceneState, instance_id: str, frame: float) -> float:
    """The time of the pose in which a puppet stands at a frame, in the view without in-betweens."""
    for puppet in floor.compiled.compiled_puppets:
        if puppet.source.instance.id == instance_id:
            return float(shown_times(puppet, np.array([frame]), blocking=True)[0])
    return frame


@gesture()
def key_pose(draft: Draft, frame: float, nodes: Iterable[Node]) -> None:
    """Key every channel of the nodes as they stand at the frame."""
    wanted = set(nodes)
    keyed = {(c.instance_id, c.owner_id, c.property) for c in draft.scene.channels}
    values = {
        address: float(value[0])
        for address, value in draft.values_at(np.array([frame])).items()
        if address[:2] in wanted and (address in keyed or _is_posed(draft, address))
    }
    set_values(draft, frame, as_led(draft, values, frame), "key pose")


def as_led(floor: SceneState, values: Mapping[Address, float], frame: float) -> dict[Address, float]:
    """A pose, in which what pads, gauges and fixes decide is left to them."""
    scene = floor.scene
    keys = scene.keys_by_channel()
    said = {
        address: course_of(scene, c, keys.get(c.id, [])).value(floor.instance(address[0]).exposed(frame))
        for c in scene.channels
        if (address := (c.instance_id, c.owner_id, c.property)) in values and PROPERTIES[c.owner_kind][c.property].led
    }
    return {address: LED if said.get(address) == LED else value for address, value in values.items()}


def _is_posed(floor: SceneState, address: Address) -> bool:
    prop = PROPERTIES[floor.owner_kind(*address[:2])].get(address[2])
    return prop is not None and prop.posed


@gesture()
def back_on_joints(draft: Draft, frame: float, nodes: Collection[Node]) -> int:
    """Key nodes that have slipped out back on their joints, without shift; how many had."""
    now = draft.values_at(np.array([frame]))
    wanted = {(*node, prop): 0.0 for node in nodes for prop in ("shift_x", "shift_y")}
    out = {address[:2] for address in wanted if address in now and abs(float(now[address][0])) > OFF_JOINT}
    if not out:
        raise InvalidInputError("Nothing that is chosen is off its joint here.", "Choose bones that slipped out.")
    set_values(draft, frame, {address: 0.0 for address in wanted if address[:2] in out}, "back on joints")
    return len(out)


@gesture()
def nudge(draft: Draft, frame: float, nodes: Sequence[Node], dx: float, dy: float) -> set[Node]:
    """Shift nodes by pixels of the stage, keyed at a frame, as a drag by that much would; what got keys."""
    compiled = draft.compiled
    grips = take_all(compiled, tops(compiled, nodes), frame, gesture="shift")
    if not grips:
        raise InvalidInputError("Nothing is chosen to shift.", "Choose some bones first.")
    return set_values(draft, frame, drag("shift", grips[0], grips[1:], (0.0, 0.0), (dx, dy)), "nudge")


def _time(key: Key) -> float:
    return key.time


def _keyed(
    scene: Scene, channel: Channel, keys: list[Key], time: float, value: float, aside: bool, holds: bool
) -> KeyChange:
    """What keying a value changes: its key, and with a move length the stay before it."""
    prop = PROPERTIES[channel.owner_kind][channel.property]
    loop = scene.loop_length
    held = round(prop.held(value), 0 if prop.stepped else VALUE_DIGITS)
    ease = "hold" if prop.stepped or holds else rules.DEFAULT_EASE
    change = rules.set_key(keys, channel.id, time, held, loop, new_id, ease, aside)
    if prop.stepped or not scene.move_length or not keys or rules.key_at(keys, change.put[-1].time):
        return change
    stay = late_start(keys, change.put[-1].time, scene.move_length, loop, new_id)
    return KeyChange(change.put + stay.put)
