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
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import SceneGestures, store_keys
from gaitwire.services.scene.kept_poses import FOREVER, course_of
from gaitwire.services.scene.solved_pose import tips_of
from gaitwire.store.history import Edit

REPEATS_ON = "This frame lies in a later round of what repeats."
AFTER_ROUNDS = {"end": "repeat until here, then go by keys", "every": "change it in every round"}
"""What is asked where a key lies beyond the stretch that its channel repeats."""

OFF_JOINT = 1e-3
"""Pixels of shift from which a bone counts as off its joint."""


class Posing(SceneGestures):
    """Gestures that key values."""

    begins_to_hold: frozenset[str] = frozenset()
    """Puppets whose new keys hold from the gesture under way on."""

    def set_values(
        self, frame: float, values: Mapping[Address, float], label: str = "pose", chosen: Collection[Node] | None = None
    ) -> set[Node]:
        """Key values at a frame, making channels as needed; what got keys: what is named, and what keeps braces.

        Keys of nodes that are not among the `chosen` are known as made aside; None: all are meant.
        A puppet on twos is keyed on the frame whose picture shows, and what offsets over a span, phrases
        and a walk beneath add is taken off, so that the values are what is seen.
        """
        values = self.with_braces(frame, values)
        rounds = self._rounds_beyond(frame, values)
        word = self.answered(REPEATS_ON, AFTER_ROUNDS) if rounds else ""
        with self.edit(label) as edit:
            if word == "end":
                self._end_rounds(edit, frame, rounds)
            elif word == "every":
                for address, (channel, again) in rounds.items():
                    time = within(*again, self.instance(address[0]).exposed(frame))
                    self.put_values(edit, time, {address: values[address]}, chosen, {address: channel})
            self.put_values(
                edit, frame, {s: v for s, v in values.items() if word != "every" or s not in rounds}, chosen
            )
        return {address[:2] for address in values}

    def _rounds_beyond(
        self, frame: float, addresses: Iterable[Address]
    ) -> dict[Address, tuple[Channel, tuple[Repeat, bool]]]:
        """Those of some channels that repeat, and play a round other than their first on a frame."""
        scene, wanted = self.scene, set(addresses)
        keys = scene.keys_by_channel()
        found = {}
        for channel in scene.channels:
            address = (channel.instance_id, channel.owner_id, channel.property)
            again = repeat_of(channel, keys.get(channel.id, [])) if channel.repeat and address in wanted else None
            if again is not None:
                time, (repeat, lead_in) = self.instance(address[0]).exposed(frame), again
                if time > repeat.end + TIME or (time < repeat.start - TIME and not lead_in):
                    found[address] = (channel, again)
        return found

    def end_rounds_at(self, edit: Edit, frame: float, addresses: Iterable[Address]) -> set[Address]:
        """Where keys of a whole course begin in a later round of what repeats: asks whether repeating ends there.

        Those of the channels that do no more.
        """
        rounds = self._rounds_beyond(frame, addresses)
        if rounds:
            self.answered(REPEATS_ON, {"end": AFTER_ROUNDS["end"]})
            self._end_rounds(edit, frame, rounds, fenced=True)
        return set(rounds)

    def _end_rounds(
        self, edit: Edit, frame: float, rounds: Mapping[Address, tuple[Channel, tuple[Repeat, bool]]],
        fenced: bool = False,
    ) -> None:  # fmt: skip
        """Write out what channels repeat up to a frame; from there on they go by their keys.

        `fenced`: with a key on the frame before, so that nothing earlier changes.
        """
        keys = self.scene.keys_by_channel(asleep=True)
        for address, (channel, again) in rounds.items():
            time = self.instance(address[0]).exposed(frame)
            work = unrolled_to if fenced else unrolled
            store_keys(edit, work(keys[channel.id], again, time, new_id))
            ended = {"repeat": "", "repeat_from": None, "repeat_to": None}
            edit.put("channels", [channel.model_copy(update=ended)])

    def with_braces(self, frame: float, values: Mapping[Address, float], firm: bool = False) -> dict[Address, float]:
        """Values on a frame, with those that keep what is braced where it is; less far where that cannot follow.

        A limb that is named itself is let go; where braces are `firm`, what is asked of it is left out instead.
        """
        self.stopped = self.loose = ()
        if not self.braces:
            return dict(values)
        compiled = self.workspace.compiled(self.scene_id)
        held = take_braces(compiled, self.braces, frame)
        owners = {(h.instance_id, owner) for h in held for owner in h.owners} if firm else set()
        kept = braced(compiled, held, frame, {address: v for address, v in values.items() if address[:2] not in owners})
        self.stopped, self.loose = kept.stopped, kept.loose
        return kept.values

    def put_values(
        self, edit: Edit, frame: float, values: Mapping[Address, float], chosen: Collection[Node] | None = None,
        known: Mapping[Address, Channel] | None = None, beside: Collection[float] = (),
    ) -> None:  # fmt: skip
        """The same within a gesture that is under way; `known`: channels that it has made already.

        `beside`: other frames that it keys, beyond which nothing has to be kept from it.
        """
        self.refuse_locked((instance_id, owner_id) for instance_id, owner_id, _ in values)
        scene = self.scene
        channels = {(c.instance_id, c.owner_id, c.property): c for c in scene.channels} | dict(known or {})
        instances = {i.id: i for i in scene.instances}
        keys = scene.keys_by_channel()
        layers = self.layers()
        for address, value in values.items():
            channel = channels.get(address)
            if channel is None:
                channel = self.new_channel(address)
                edit.put("channels", [channel])
            time = instances[address[0]].exposed(frame)
            self.means(address[:2], time)
            value = layers.key_value(address, value, time)
            for end in layers.fences(address, time):
                low, high = sorted((time, end))
                if any(low - TIME <= t <= high + TIME and abs(t - time) > TIME for t in beside):
                    continue
                store_keys(edit, fenced(scene, channel, keys.get(channel.id, []), time, end), gives_way=True)
            aside = chosen is not None and address[:2] not in chosen
            holds = instances[address[0]].holds or address[0] in self.begins_to_hold
            store_keys(edit, _keyed(scene, channel, keys.get(channel.id, []), time, value, aside, holds))
            if channel.id not in keys:
                self._meaning.firsts[channel.id] = time

    def set_course(self, rows: Mapping[float, Mapping[Address, float]], label: str = "course") -> None:
        """Key values on several frames at once: a course of its own, which means all of the wires that it is on."""
        with self.edit(label) as edit:
            for address in dict.fromkeys(address for values in rows.values() for address in values):
                self.means(address[:2], -FOREVER, FOREVER)
            self.put_course(edit, rows)

    def put_course(self, edit: Edit, rows: Mapping[float, Mapping[Address, float]]) -> None:
        """Key values on several frames within a gesture that is under way, making channels as needed."""
        known = self.addresses(edit)
        for address in dict.fromkeys(address for values in rows.values() for address in values):
            if address not in known:
                known[address] = self.new_channel(address)
                edit.put("channels", [known[address]])
        for frame, values in rows.items():
            self.put_values(edit, frame, values, known=known, beside=rows)

    def addresses(self, edit: Edit) -> dict[Address, Channel]:
        """The scene's channels by what they move, with those that a gesture under way has made."""
        made = (c for c in edit.written("channels").values() if c is not None)
        return {(c.instance_id, c.owner_id, c.property): c for c in (*self.scene.channels, *made)}

    def layers(self) -> Beneath:
        """What lies over and under the keys of the scene."""
        return Beneath(self.scene, lambda: self.workspace.compiled(self.scene_id))

    def put_from(self, edit: Edit, frame: float, values: Mapping[Address, float]) -> None:
        """The same from a frame on: a key on the frame before sees to it that nothing earlier changes.

        Of a puppet on twos that is the frame before its picture.
        """
        for address in values:
            self.means(address[:2], frame, FOREVER)
        known = {(c.instance_id, c.owner_id, c.property): c for c in self.scene.channels}
        new = {}
        for address in values:
            early = self.instance(address[0]).exposed(frame) - 1.0
            if early < 0:
                continue
            channel = known.get(address) or self.new_channel(address)
            if address not in known:
                edit.put("channels", [channel])
                new[address] = channel
            store_keys(edit, self._fence(address, channel, early))
        self.put_values(edit, frame, values, known=new)

    def _fence(self, address: Address, channel: Channel, time: float) -> KeyChange:
        """A key where a channel is at a time, unless there is one."""
        scene = self.scene
        row = scene.keys_by_channel().get(channel.id, [])
        if rules.key_at(row, time) is not None:
            return KeyChange()
        if any(k.time < time for k in row) and any(k.time > time for k in row):
            return add_point(row, time, scene.loop_length, new_id)
        now = float(self.values_at(np.array([time]))[address][0])
        value = self.layers().key_value(address, now, time)
        return _keyed(scene, channel, row, time, value, False, self.instance(address[0]).holds)

    def with_tips(self, instance_id: str, frame: float, values: Mapping[Address, float]) -> dict[Address, float]:
        """A pose, and where it has the tips that limbs are solved from on that frame."""
        now = self.stands_at(instance_id, frame)
        controls = {(owner, prop): value for (_, owner, prop), value in now.items() if prop in LIMB_PROPERTIES}
        if not any(value for (_, prop), value in controls.items() if prop == "mix"):
            return dict(values)
        compiled = self.workspace.compiled(self.scene_id)
        return {**values, **tips_of(compiled, instance_id, frame, values, controls)}

    def put_step(self, edit: Edit, address: Address, frame: float, value: float) -> None:
        """Key a property that changes from a frame on at once, and holds until then what it said before."""
        self.means(address[:2], frame, FOREVER)
        channel = self.addresses(edit).get(address)
        if channel is None:
            channel = self.new_channel(address)
            edit.put("channels", [channel])
        keys = [k for k in edit.written("keys").values() if k is not None and k.channel_id == channel.id]
        keys = sorted({k.id: k for k in (*self.scene.keys_by_channel().get(channel.id, []), *keys)}.values(), key=_time)
        before = [k for k in keys if k.time < frame - TIME]
        course = course_of(self.scene, channel, keys)
        if frame > TIME and (not before or before[-1].ease != "hold"):
            at = max(before[-1].time, frame - 1.0) if before else 0.0
            store_keys(edit, keyed_as_it_is(course, at, new_id))
            held = next(k for k in edit.written("keys").values() if k and k.channel_id == channel.id and k.time == at)
            edit.put("keys", [held.model_copy(update={**WHOLE, "ease": "hold"})])
        store_keys(edit, rules.set_key(keys, channel.id, frame, value, self.scene.loop_length, new_id, "hold", False))

    def held_time(self, instance_id: str, frame: float) -> float:
        """The time of the pose in which a puppet stands at a frame, in the view without in-betweens."""
        for puppet in self.workspace.compiled(self.scene_id).compiled_puppets:
            if puppet.source.instance.id == instance_id:
                return float(shown_times(puppet, np.array([frame]), blocking=True)[0])
        return frame

    def key_pose(self, frame: float, nodes: Iterable[Node]) -> None:
        """Key every channel of the nodes as they stand at the frame."""
        wanted = set(nodes)
        keyed = {(c.instance_id, c.owner_id, c.property) for c in self.scene.channels}
        values = {
            address: float(value[0])
            for address, value in self.values_at(np.array([frame])).items()
            if address[:2] in wanted and (address in keyed or self._is_posed(address))
        }
        self.set_values(frame, self.as_led(values, frame), "key pose")

    def as_led(self, values: Mapping[Address, float], frame: float) -> dict[Address, float]:
        """A pose, in which what pads, gauges and fixes decide is left to them."""
        scene = self.scene
        keys = scene.keys_by_channel()
        said = {
            address: course_of(scene, c, keys.get(c.id, [])).value(self.instance(address[0]).exposed(frame))
            for c in scene.channels
            if (address := (c.instance_id, c.owner_id, c.property)) in values
            and PROPERTIES[c.owner_kind][c.property].led
        }
        return {address: LED if said.get(address) == LED else value for address, value in values.items()}

    def _is_posed(self, address: Address) -> bool:
        prop = PROPERTIES[self.owner_kind(*address[:2])].get(address[2])
        return prop is not None and prop.posed

    def back_on_joints(self, frame: float, nodes: Collection[Node]) -> int:
        """Key nodes that have slipped out back on their joints, without shift; how many had."""
        now = self.values_at(np.array([frame]))
        wanted = {(*node, prop): 0.0 for node in nodes for prop in ("shift_x", "shift_y")}
        out = {address[:2] for address in wanted if address in now and abs(float(now[address][0])) > OFF_JOINT}
        if not out:
            raise InvalidInputError("Nothing that is chosen is off its joint here.", "Choose bones that slipped out.")
        self.set_values(frame, {address: 0.0 for address in wanted if address[:2] in out}, "back on joints")
        return len(out)

    def nudge(self, frame: float, nodes: Sequence[Node], dx: float, dy: float) -> set[Node]:
        """Shift nodes by pixels of the stage, keyed at a frame, as a drag by that much would; what got keys."""
        compiled = self.workspace.compiled(self.scene_id)
        grips = take_all(compiled, tops(compiled, nodes), frame, gesture="shift")
        if not grips:
            raise InvalidInputError("Nothing is chosen to shift.", "Choose some bones first.")
        return self.set_values(frame, drag("shift", grips[0], grips[1:], (0.0, 0.0), (dx, dy)), "nudge")


def _time(key: Key) -> float:
    return key.time


def _keyed(
    scene: Scene, channel: Channel, keys: list[Key], time: float, value: float, aside: bool, holds: bool
) -> KeyChange:
    """What keying a value changes: its key, and with a move length the stay before it."""
    prop = PROPERTIES[channel.owner_kind][channel.property]
    loop = scene.loop_length
    held = round(prop.held(value), 0 if prop.stepped else 6)
    ease = "hold" if prop.stepped or holds else rules.DEFAULT_EASE
    change = rules.set_key(keys, channel.id, time, held, loop, new_id, ease, aside)
    if prop.stepped or not scene.move_length or not keys or rules.key_at(keys, change.put[-1].time):
        return change
    stay = late_start(keys, change.put[-1].time, scene.move_length, loop, new_id)
    return KeyChange(change.put + stay.put)
