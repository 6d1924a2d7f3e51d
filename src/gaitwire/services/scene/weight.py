"""The weight pass: dips and rises for a walk that is keyed already, as keys."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.motion.turning import senses
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.walker import Walker, walker_of
from gaitwire.core.walk.weighing import WeightBeat, beats_of, steps_seen, taken_up
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.led import swinging_in
from gaitwire.services.scene.posing import put_course, with_braces

_NEAR_FLOOR = 0.08
"""Share of a puppet's height over its floor up to which it stands on its pins."""
_HAIR = 0.6
"""Degrees that hair and hats turn against the body for each percent of the dip."""


@gesture("add weight")
def weigh_down(draft: Draft, instance_id: str, dip: float, lean: float = 2.0) -> list[WeightBeat]:
    """Let a walk dip after each contact and rise after each passing; the beats that got keys.

    By `dip` percent of a leg, or of the puppet's height where it has no legs by role; then all of it
    goes down and up, but for the lead pins on which it stands. Knees give, so that feet stay where they
    are on these frames; the trunk leans by `lean` degrees as the weight comes down and back as it rises,
    the head stays level, arms stay at the shoulders as they were, hair and hats go against it. Contacts
    and passings are the poses that are called so, else they are seen from the feet. Raises
    InvalidInputError where there are none.
    """
    instance = draft.instance(instance_id)
    puppet = draft.workspace.puppet(instance.puppet_id)
    try:
        walker: Walker | None = walker_of(puppet)
    except InvalidInputError:
        walker = None
    beats = _beats(draft, instance_id, walker)
    if not beats:
        raise InvalidInputError(
            "No steps are found in this walk.", "Mark its poses, and call them contact and passing."
        )
    rows = [_weighed(draft, instance_id, walker, beat, dip / 100, lean, puppet.height) for beat in beats]
    times = [beat.time for beat in beats]
    course = {t: with_braces(draft, t, row, firm=True) for t, row in zip(times, rows, strict=True)}
    now = draft.values_at(np.array(times))
    for address in {address for row in course.values() for address in row}:
        for time, value in zip(times, now[address].tolist(), strict=True):
            course[time].setdefault(address, value)  # what is held on one beat stands on every other as it stood
    put_course(draft, course)
    return beats


def _beats(floor: SceneState, instance_id: str, walker: Walker | None) -> list[WeightBeat]:
    """Beats on whole frames within the scene."""
    scene = floor.scene
    named = {
        name: sorted(p.time for p in scene.poses if p.instance_id == instance_id and p.name == name)
        for name in ("contact", "passing")
    }
    if not named["contact"] and walker is not None:
        contacts, passings = steps_seen(_apart(floor, instance_id, walker))
    else:
        contacts, passings = named["contact"], named["passing"]
    if scene.loop and contacts:  # the step across the seam
        contacts = [*contacts, contacts[0] + scene.frames]
    found: dict[float, WeightBeat] = {}
    for beat in beats_of(contacts, passings):
        time = float(round(beat.time))
        time = time % scene.frames if scene.loop else time
        if time <= scene.frames - 1 + TIME:
            found.setdefault(time, beat._replace(time=time))
    return sorted(found.values())


def _apart(floor: SceneState, instance_id: str, walker: Walker) -> FloatArray:
    """How far the near ankle is ahead of the far one on every frame (F,)."""
    nodes = _nodes(floor, instance_id, np.arange(float(floor.scene.frames)))
    near, far = (nodes[leg.foot.id].real for leg in walker.legs)
    return np.asarray(near - far)


def _nodes(floor: SceneState, instance_id: str, frames: FloatArray) -> dict[str, np.ndarray]:
    """Where a puppet's bones are on frames (F,), complex, by id."""
    found = evaluate(floor.compiled, frames)
    own = {k[1]: n for n, k in enumerate(found.node_keys) if k[0] == instance_id}
    return {owner: found.nodes[:, n, 4] + 1j * found.nodes[:, n, 5] for owner, n in own.items()}


def _weighed(
    floor: SceneState, instance_id: str, walker: Walker | None, beat: WeightBeat, dip: float, lean: float, height: float
) -> dict[Address, float]:
    """What a beat's keys are to be, on top of how the walk stands there."""
    now = floor.stands_at(instance_id, beat.time)
    if walker is None:
        address, down = (instance_id, instance_id, "shift_y"), dip * beat.dip * height
        found = {address: now[address] + down * floor.instance(instance_id).scale}
        for pin in _standing_pins(floor, instance_id, height):
            own = (instance_id, pin, "shift_y")
            found[own] = now[own] - down
        return found
    sense = math.copysign(1.0, floor.instance(instance_id).pixels)
    sense *= float(senses([t for t in floor.scene.turns if t.instance_id == instance_id], np.array([beat.time]))[0])
    values: dict[Address, float] = {}

    def add(owner: str, prop: str, by: float) -> None:
        address = (instance_id, owner, prop)
        values[address] = values.get(address, now[address]) + by

    lower = dip * beat.dip * walker.length
    add(walker.pelvis.id, "shift_y", lower)
    places = {k: complex(v[0]) for k, v in _nodes(floor, instance_id, np.array([beat.time])).items()}
    size = abs(floor.instance(instance_id).scale)
    for leg in (*walker.legs, *(walker.fore.legs if walker.fore else ())):
        hip, knee, ankle = (places[b.id] for b in leg)
        swung, bent = (sense * d for d in taken_up(hip, knee, ankle, 1j * lower * size))
        add(leg.thigh.id, "turn", swung)
        add(leg.shin.id, "turn", bent - swung)
        add(leg.foot.id, "turn", -bent)
    _upper(floor, instance_id, walker, beat, dip, lean, add)
    return values


def _standing_pins(floor: SceneState, instance_id: str, height: float) -> list[str]:
    """Ids of the lead pins on which a puppet without legs by role stands: they stay where they are."""
    puppet = floor.puppet_of(instance_id)
    soft = {p.id for p in puppet.parts if p.soft}
    low = puppet.base_y - _NEAR_FLOOR * height
    return [p.id for p in puppet.pins if p.kind == "lead" and p.y >= low and p.part_id in soft]


def _upper(
    floor: SceneState, instance_id: str, walker: Walker, beat: WeightBeat, dip: float, lean: float,
    add: Callable[[str, str, float], None],
) -> None:  # fmt: skip
    """The trunk bows as the weight comes down; what is above takes it back."""
    bow = walker.facing * lean * beat.dip
    if walker.trunk:
        add(walker.trunk[0].id, "turn", bow)
        for arm in walker.arms:
            if arm is not None:
                add(arm[0].id, "turn", -bow)
        if walker.head is not None:
            add(walker.head.id, "turn", -bow)
    swings = swinging_in(floor, instance_id)
    for bone in (b for b in walker.hanging if b.id not in swings):
        add(bone.id, "turn", walker.facing * _HAIR * 100 * dip * beat.dip)
