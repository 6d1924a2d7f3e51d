"""What is seen on which frames: parts, the parts of bones, whole puppets; one taking the place of another."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.addresses import Address, Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.timing.channel import LED, PROPERTIES, repeat_of
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.kept_poses import FOREVER
from gaitwire.services.scene.posing import put_from

Span = tuple[float, float]
"""First and last frame, both included."""

_SEEN = 0.5


@dataclass(frozen=True)
class Shown:
    """What several things that can be seen have in common on a frame; None where they differ."""

    nodes: tuple[Node, ...]
    opacity: float | None
    shown: bool | None
    keyed: frozenset[str]
    spans: tuple[Span, ...] | None


def seen_of(floor: SceneState, nodes: Iterable[Node]) -> list[Node]:
    """What can be shown or not of what is chosen: whole puppets, parts, and the parts that bones carry."""
    found: dict[Node, None] = {}
    for node in nodes:
        if "shown" in PROPERTIES[floor.owner_kind(*node)]:
            found[node] = None
        elif (puppet := floor.workspace.cast(floor.scene).get(floor.instance(node[0]).puppet_id)) is not None:
            found |= dict.fromkeys((node[0], p.id) for p in puppet.parts if p.bone_id == node[1])
    return list(found)


def shown_at(floor: SceneState, nodes: Sequence[Node], frame: float) -> Shown | None:
    """How what is chosen is seen on a frame; None where nothing of it can be."""
    values = floor.values_at(np.array([frame]))
    seen = [node for node in seen_of(floor, nodes) if (*node, "shown") in values]
    if not seen:
        return None
    opacity, shown = ({float(values[*n, prop][0]) for n in seen} for prop in ("opacity", "shown"))
    keys = floor.scene.keys_by_channel()
    own = [c for c in floor.scene.channels if (c.instance_id, c.owner_id) in set(seen)]
    keyed = {c.property for c in own if any(k.time == frame for k in keys.get(c.id, []))}
    spans = {shown_spans(floor, n) for n in seen}
    alike = opacity.pop() if len(opacity) == 1 else None
    there = shown.pop() >= _SEEN if len(shown) == 1 else None
    return Shown(tuple(seen), alike, there, frozenset(keyed), spans.pop() if len(spans) == 1 else None)


def shown_spans(floor: SceneState, node: Node) -> tuple[Span, ...]:
    """On which frames of the scene something is shown by its keys; all of them where it has none."""
    last = floor.scene.frames - 1.0
    found = next((c for c in floor.scene.channels if (c.instance_id, c.owner_id, c.property) == (*node, "shown")), None)
    row = floor.scene.keys_by_channel().get(found.id, []) if found else []
    if found is None or not row:
        return ((0.0, last),)
    held, again = [k.model_copy(update={"ease": "hold"}) for k in row], repeat_of(found, row)
    table = compile_keys([held], floor.scene.loop_length, {0: again} if again else {})
    says = sample(table, np.arange(floor.scene.frames, dtype=float))[0]
    seen = np.concatenate([[False], (says >= _SEEN) | (says == LED), [False]])
    edges = np.flatnonzero(np.diff(seen.astype(int)))
    return tuple((float(a), float(b) - 1) for a, b in edges.reshape(-1, 2))


@gesture("show on some frames only")
def show_only(draft: Draft, nodes: Sequence[Node], spans: Sequence[Span]) -> None:
    """Key what is chosen so that it is shown on some spans of frames and on no others."""
    seen, last = seen_of(draft, nodes), draft.scene.frames - 1.0
    if not seen:
        raise InvalidInputError("Nothing that is chosen can be shown or not.", "Choose what carries a drawing.")
    if not spans:
        raise InvalidInputError("No frames are told.", "Type them, such as 8-21, 40.")
    steps = _steps(spans, last)
    draft.refuse_locked(seen)
    for node in seen:
        draft.means(node, 0.0, FOREVER)
        _shown_by(draft, (*node, "shown"), steps)


@gesture("swap")
def swap_nodes(draft: Draft, node: Node, other: Node, frame: float) -> bool:
    """From a frame on one thing is hidden and another shown in its place.

    Whether the other one, which was always there, is hidden before.
    """
    addresses: tuple[Address, Address] = (*node, "shown"), (*other, "shown")
    for address in addresses:
        if "shown" not in PROPERTIES[draft.owner_kind(*address[:2])]:
            raise InvalidInputError("Only parts and whole puppets are shown or not.", "Choose one of them.")
    if node == other:
        raise InvalidInputError("It cannot take its own place.", "Choose another.")
    keyed = any((c.instance_id, c.owner_id, c.property) == addresses[1] for c in draft.scene.channels)
    early = not keyed and frame > 0
    draft.refuse_locked([node, other])
    put_from(draft, frame, {addresses[0]: 0.0} if early else {addresses[0]: 0.0, addresses[1]: 1.0})
    if early:
        draft.means(other, 0.0, FOREVER)
        _shown_by(draft, addresses[1], {0.0: 0.0, draft.instance(other[0]).exposed(frame): 1.0})
    return early


def _shown_by(draft: Draft, address: Address, steps: Mapping[float, float]) -> None:
    """Key by times alone whether something is shown."""
    scene = draft.scene
    known = [c for c in scene.channels if (c.instance_id, c.owner_id, c.property) == address]
    draft.remove(Key, [k.id for k in scene.keys if k.channel_id in {c.id for c in known}])
    channel = known[0] if known else draft.new_channel(address)
    draft.put([channel])
    made = [Key(id=new_id(), channel_id=channel.id, time=t, value=v, ease="hold") for t, v in steps.items()]
    draft.put(made)


def _steps(spans: Sequence[Span], last: float) -> dict[float, float]:
    """Times at which what is shown on spans alone changes, with 1 or 0."""
    shown = np.zeros(int(last) + 2)
    for start, stop in spans:
        low, high = sorted((start, stop))
        shown[max(0, int(low)) : max(0, int(high) + 1)] = 1.0
    changes = np.flatnonzero(np.diff(shown[:-1])) + 1
    return {float(t): float(shown[t]) for t in (0, *changes.tolist())}
