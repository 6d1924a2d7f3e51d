"""Bead work: chosen beads moved, copied, eased, spaced, scaled, turned round, staggered."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from pydantic import ValidationError

from gaitwire.core.addresses import Bead, Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.scene import Scene
from gaitwire.core.timing import edit as rules
from gaitwire.core.timing import retime
from gaitwire.core.timing.amplify import amplify_keys
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.holding import hold_keys
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.kept_poses import FOREVER
from gaitwire.services.scene.key_changes import change_channels, change_keys, put_changed, store_keys
from gaitwire.services.scene.time_marks import slide_marks

MOST_MORE = 100.0
"""How many times as far values may be made to depart."""


@gesture("slide beads")
def move_beads(draft: Draft, beads: Sequence[Bead], by: float) -> list[Bead]:
    """Slide beads by frames, around the loop if the scene loops; what is planted or carried by them goes along."""
    scene = draft.scene
    if scene.loop_length is None:
        by = max(by, -min((b.time for b in beads), default=0.0))
    chosen = {i for ids in draft.chosen_keys(beads).values() for i in ids}
    put_changed(draft, beads, lambda _, keys, picked: rules.move_keys(keys, picked, by, scene.loop_length), slides=True)
    slide_marks(draft, scene, draft.workspace.cast(scene), chosen, by)
    return _moved(draft, beads, by)


def _moved(floor: SceneState, beads: Sequence[Bead], by: float) -> list[Bead]:
    loop = floor.scene.loop_length
    return [b._replace(time=wrap(b.time + by, loop) if loop else b.time + by) for b in beads]


@gesture()
def copy_beads(draft: Draft, beads: Sequence[Bead], frame: float) -> list[Bead]:
    """Duplicate beads so that the first of them lands on the frame; the copies."""
    by = frame - min((b.time for b in beads), default=frame)
    change_keys(
        draft,
        "duplicate beads",
        beads,
        lambda scene, keys, chosen: rules.copy_keys(keys, chosen, by, scene.loop_length, new_id),
    )
    return _moved(draft, beads, by)


@gesture("delete beads")
def delete_beads(draft: Draft, beads: Sequence[Bead]) -> None:
    """Delete beads; a channel that loses its last key of its own goes too."""
    draft.refuse_locked((b.instance_id, b.owner_id) for b in beads)
    keys = draft.scene.keys_by_channel(asleep=True)
    for bead in beads:
        draft.means(bead[:2], bead.time)
    for channel_id, chosen in draft.chosen_keys(beads).items():
        if all(k.stay for k in keys[channel_id] if k.id not in chosen):
            draft.remove(Key, [k.id for k in keys[channel_id]])
            draft.remove(Channel, [channel_id])
        else:
            draft.remove(Key, chosen)


@gesture()
def hold_for(draft: Draft, beads: Sequence[Bead], frames: float) -> list[Bead]:
    """Let the stays among beads hold for so many frames from the key that they repeat; where they are now."""
    sent: dict[float, float] = {}

    def work(scene: Scene, keys: list[Key], chosen: Collection[str]) -> KeyChange:
        change = hold_keys(keys, chosen, frames, scene.loop_length)
        old = {k.id: k.time for k in keys}
        sent.update({old[k.id]: k.time for k in change.put})
        return change

    change_keys(draft, "hold for so long", beads, work)
    if not sent:
        raise InvalidInputError("None of these beads is a stay.", "Choose the right end of a bar.")
    return [b._replace(time=sent.get(b.time, b.time)) for b in beads]


@gesture()
def clear_range(draft: Draft, nodes: Collection[Node], start: float, stop: float) -> int:
    """Delete all beads of some wires from one frame to another, both included; on how many channels."""
    if stop < start:
        start, stop = stop, start

    def work(_scene: object, _channel: object, keys: list[Key]) -> KeyChange:
        gone = {k.id for k in keys if start - TIME < k.time < stop + TIME}
        if all(k.stay for k in keys if k.id not in gone):
            gone = {k.id for k in keys} if gone else gone
        return KeyChange(removed=tuple(gone))

    return change_channels(draft, "delete beads", nodes, work, (start, stop), asleep=True)


@gesture()
def ease_beads(draft: Draft, beads: Sequence[Bead], ease: str) -> None:
    """Give the segments that begin at the beads a named easing, all in one go."""
    change_keys(draft, f"ease {ease}", beads, lambda _, keys, chosen: rules.ease_keys(keys, chosen, ease), True)


@gesture()
def shape_beads(draft: Draft, beads: Sequence[Bead], shares: tuple[float, float, float, float]) -> None:
    """Give the segments that begin at the beads one free curve, in shares of time and rise."""
    try:
        change_keys(
            draft,
            "shape a curve",
            beads,
            lambda scene, keys, chosen: rules.shape_keys(keys, chosen, shares, scene.loop_length),
            eased=True,
        )
    except ValidationError:
        raise InvalidInputError(
            "A curve's handles must lie between its beads in time.", "Keep both within 0 and 1."
        ) from None


@gesture()
def space_beads(draft: Draft, beads: Sequence[Bead], name: str) -> None:
    """Give the segments that begin at the beads a ready spacing of their in-betweens."""
    change_keys(
        draft,
        f"space {name}",
        beads,
        lambda scene, keys, chosen: rules.space_keys(keys, chosen, name, scene.loop_length),
        eased=True,
    )


@gesture()
def move_tick(draft: Draft, beads: Sequence[Bead], index: int, share: float) -> None:
    """Put one in-between of the beads' segments elsewhere, in shares of the way."""
    try:
        change_keys(
            draft,
            "move an in-between",
            beads,
            lambda scene, keys, chosen: rules.tick_keys(keys, chosen, index, share, scene.loop_length),
            eased=True,
        )
    except ValidationError:
        raise InvalidInputError(
            "An in-between cannot lie that far away.", "Keep it within three times the move."
        ) from None


@gesture()
def reuse_curve(draft: Draft, source: Bead, beads: Sequence[Bead]) -> None:
    """Give the segments of beads the easing of another bead's, whatever their length."""
    scene = draft.scene
    all_keys = scene.keys_by_channel()
    channel_id, ids = next(iter(draft.chosen_keys([source], eased=True).items()))
    key = next(k for k in all_keys[channel_id] if k.id in ids)
    rise = rules.rise_of(all_keys[channel_id], key.id, scene.loop_length)
    change_keys(
        draft, "reuse a spacing", beads,
        lambda scene, keys, chosen: rules.reuse_shape(key, rise, keys, chosen, scene.loop_length),
        eased=True,
    )  # fmt: skip


@gesture()
def scale_beads(draft: Draft, beads: Sequence[Bead], factor: float, about: float, whole: bool = True) -> list[Bead]:
    """Draw beads out in time, or together, about a frame."""
    if not 0.01 <= factor <= 100:
        raise InvalidInputError("Beads are scaled to between 1 and 10,000 %.", "Type 150 to slow them down.")
    change_keys(
        draft,
        "scale beads",
        beads,
        lambda scene, keys, chosen: retime.scale_keys(keys, chosen, about, factor, scene.loop_length, whole),
        slides=True,
    )

    def moved(time: float) -> float:
        time = about + (time - about) * factor
        time = float(round(time)) if whole else time
        return wrap(time, draft.scene.loop_length) if draft.scene.loop_length else time

    return [b._replace(time=moved(b.time)) for b in beads]


@gesture()
def reverse_beads(draft: Draft, beads: Sequence[Bead]) -> list[Bead]:
    """Turn beads round in time between the first and the last of them."""
    first, last = min((b.time for b in beads), default=0.0), max((b.time for b in beads), default=0.0)
    change_keys(
        draft, "turn beads round", beads, lambda _, keys, chosen: retime.reverse_keys(keys, chosen, first, last),
        slides=True,
    )  # fmt: skip
    return [b._replace(time=first + last - b.time) for b in beads]


@gesture()
def amplify_beads(draft: Draft, beads: Sequence[Bead], factor: float, about_first: bool = False) -> None:
    """Let beads depart by so many times as much from rest, or from the first of them on each channel."""
    if not abs(factor) <= MOST_MORE:
        raise InvalidInputError(f"Values are scaled by up to {MOST_MORE * 100:g} %.", "Type -100 for the opposite.")
    props = {c.id: PROPERTIES[c.owner_kind][c.property] for c in draft.scene.channels}

    def work(scene: Scene, keys: list[Key], chosen: Collection[str]) -> KeyChange:
        prop = props[keys[0].channel_id]
        if prop.stepped:
            return KeyChange()
        first = min((k for k in keys if k.id in chosen), key=lambda k: k.time)
        base, ratio = first.value if about_first else prop.rest, prop.rest == 1.0
        change = amplify_keys(keys, chosen, factor, base, ratio, scene.loop_length)
        return KeyChange(tuple(k.model_copy(update={"value": prop.held(k.value)}) for k in change.put))

    change_keys(draft, "scale beads in value", beads, work)


@gesture()
def snap_beads(draft: Draft, beads: Sequence[Bead]) -> None:
    """Put beads on whole frames where there is room."""
    change_keys(
        draft, "whole frames", beads, lambda scene, keys, chosen: retime.snap_keys(keys, chosen, scene.loop_length),
        slides=True,
    )  # fmt: skip


@gesture("stagger beads")
def stagger_beads(draft: Draft, beads: Sequence[Bead], by: float, order: Mapping[Node, int]) -> list[Bead]:
    """Slide each wire's beads later than the wire's before it in some order, by so many frames more each."""
    owners = sorted({(b.instance_id, b.owner_id) for b in beads}, key=lambda n: order.get(n, 0))
    if len(owners) < 2:
        raise InvalidInputError("Beads of one wire alone cannot be staggered.", "Choose beads on several wires.")
    late = {owner: by * n for n, owner in enumerate(owners)}
    if draft.scene.loop_length is None:
        lowest = min(b.time + late[b[:2]] for b in beads)
        late = {owner: lag - min(0.0, lowest) for owner, lag in late.items()}
    found: list[Bead] = []
    draft.refuse_locked(owners)
    keys = draft.scene.keys_by_channel(asleep=True)
    loop = draft.scene.loop_length
    for owner, lag in late.items():
        own = [b for b in beads if b[:2] == owner]
        for channel_id, chosen in draft.chosen_keys(own).items():
            if len(chosen) == len(keys[channel_id]):
                draft.means(owner, -FOREVER, FOREVER)
            store_keys(draft, rules.move_keys(keys[channel_id], chosen, lag, loop))
        moved = _moved(draft, own, lag)
        for bead in (*own, *moved):
            draft.means(owner, bead.time)
        found += moved
    return found
