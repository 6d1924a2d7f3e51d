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
from gaitwire.services.scene.kept_poses import FOREVER
from gaitwire.services.scene.posing import Posing
from gaitwire.store.history import Edit

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


class Showing(Posing):
    """Gestures on what is shown."""

    def seen_of(self, nodes: Iterable[Node]) -> list[Node]:
        """What can be shown or not of what is chosen: whole puppets, parts, and the parts that bones carry."""
        found: dict[Node, None] = {}
        for node in nodes:
            if "shown" in PROPERTIES[self.owner_kind(*node)]:
                found[node] = None
            elif (puppet := self.workspace.cast(self.scene).get(self.instance(node[0]).puppet_id)) is not None:
                found |= dict.fromkeys((node[0], p.id) for p in puppet.parts if p.bone_id == node[1])
        return list(found)

    def shown_at(self, nodes: Sequence[Node], frame: float) -> Shown | None:
        """How what is chosen is seen on a frame; None where nothing of it can be."""
        values = self.values_at(np.array([frame]))
        seen = [node for node in self.seen_of(nodes) if (*node, "shown") in values]
        if not seen:
            return None
        opacity, shown = ({float(values[*n, prop][0]) for n in seen} for prop in ("opacity", "shown"))
        keys = self.scene.keys_by_channel()
        own = [c for c in self.scene.channels if (c.instance_id, c.owner_id) in set(seen)]
        keyed = {c.property for c in own if any(k.time == frame for k in keys.get(c.id, []))}
        spans = {self.spans_of(n) for n in seen}
        alike = opacity.pop() if len(opacity) == 1 else None
        there = shown.pop() >= _SEEN if len(shown) == 1 else None
        return Shown(tuple(seen), alike, there, frozenset(keyed), spans.pop() if len(spans) == 1 else None)

    def spans_of(self, node: Node) -> tuple[Span, ...]:
        """On which frames of the scene something is shown by its keys; all of them where it has none."""
        last = self.scene.frames - 1.0
        found = next(
            (c for c in self.scene.channels if (c.instance_id, c.owner_id, c.property) == (*node, "shown")), None
        )
        row = self.scene.keys_by_channel().get(found.id, []) if found else []
        if found is None or not row:
            return ((0.0, last),)
        held, again = [k.model_copy(update={"ease": "hold"}) for k in row], repeat_of(found, row)
        table = compile_keys([held], self.scene.loop_length, {0: again} if again else {})
        says = sample(table, np.arange(self.scene.frames, dtype=float))[0]
        seen = np.concatenate([[False], (says >= _SEEN) | (says == LED), [False]])
        edges = np.flatnonzero(np.diff(seen.astype(int)))
        return tuple((float(a), float(b) - 1) for a, b in edges.reshape(-1, 2))

    def show_only(self, nodes: Sequence[Node], spans: Sequence[Span]) -> None:
        """Key what is chosen so that it is shown on some spans of frames and on no others."""
        seen, last = self.seen_of(nodes), self.scene.frames - 1.0
        if not seen:
            raise InvalidInputError("Nothing that is chosen can be shown or not.", "Choose what carries a drawing.")
        if not spans:
            raise InvalidInputError("No frames are told.", "Type them, such as 8-21, 40.")
        steps = _steps(spans, last)
        with self.edit("show on some frames only") as edit:
            self.refuse_locked(seen)
            for node in seen:
                self.means(node, 0.0, FOREVER)
                self._shown_by(edit, (*node, "shown"), steps)

    def swap(self, node: Node, other: Node, frame: float) -> bool:
        """From a frame on one thing is hidden and another shown in its place.

        Whether the other one, which was always there, is hidden before.
        """
        addresses: tuple[Address, Address] = (*node, "shown"), (*other, "shown")
        for address in addresses:
            if "shown" not in PROPERTIES[self.owner_kind(*address[:2])]:
                raise InvalidInputError("Only parts and whole puppets are shown or not.", "Choose one of them.")
        if node == other:
            raise InvalidInputError("It cannot take its own place.", "Choose another.")
        keyed = any((c.instance_id, c.owner_id, c.property) == addresses[1] for c in self.scene.channels)
        early = not keyed and frame > 0
        with self.edit("swap") as edit:
            self.refuse_locked([node, other])
            self.put_from(edit, frame, {addresses[0]: 0.0} if early else {addresses[0]: 0.0, addresses[1]: 1.0})
            if early:
                self.means(other, 0.0, FOREVER)
                self._shown_by(edit, addresses[1], {0.0: 0.0, self.instance(other[0]).exposed(frame): 1.0})
        return early

    def _shown_by(self, edit: Edit, address: Address, steps: Mapping[float, float]) -> None:
        """Key by times alone whether something is shown."""
        scene = self.scene
        known = [c for c in scene.channels if (c.instance_id, c.owner_id, c.property) == address]
        edit.remove("keys", [k.id for k in scene.keys if k.channel_id in {c.id for c in known}])
        channel = known[0] if known else self.new_channel(address)
        edit.put("channels", [channel])
        made = [Key(id=new_id(), channel_id=channel.id, time=t, value=v, ease="hold") for t, v in steps.items()]
        edit.put("keys", made)


def _steps(spans: Sequence[Span], last: float) -> dict[float, float]:
    """Times at which what is shown on spans alone changes, with 1 or 0."""
    shown = np.zeros(int(last) + 2)
    for start, stop in spans:
        low, high = sorted((start, stop))
        shown[max(0, int(low)) : max(0, int(high) + 1)] = 1.0
    changes = np.flatnonzero(np.diff(shown[:-1])) + 1
    return {float(t): float(shown[t]) for t in (0, *changes.tolist())}
