"""Plants, walks, phrases, hitches and bearings as they lie on the wires."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from gaitwire.core.addresses import Node
from gaitwire.core.motion.composed_phrases import resolved
from gaitwire.core.motion.phrase import PhraseCourse, Phrases
from gaitwire.core.owners import owner_name
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Scene


class Bar(NamedTuple):
    """A plant on a limb's wire, a walk on its puppet's own, or a phrase on one of its own."""

    id: str
    start: float
    stop: float
    soft_in: float
    soft_out: float
    title: str
    table: str = "plants"


class CarrierChange(NamedTuple):
    """A hitch, a bearing or a turn on a wire: from this frame on something else carries, or it turns round."""

    table: str
    id: str
    time: float
    title: str


ASLEEP = 12.0
"""Frames that a phrase is shown with whose source is gone."""


def bars_of(scene: Scene, puppets: dict[str, Puppet], phrases: Phrases) -> dict[Node, list[Bar]]:
    """Plants by (instance, limb), walks by (instance, instance), uses of phrases by (instance, use)."""
    found: dict[Node, list[Bar]] = {}
    for p in scene.plants:
        on = owner_name(scene, puppets, (p.carrier_instance, p.carrier_id)) if p.carrier_id else "the ground"
        bar = Bar(p.id, p.start, p.stop, p.soft_in, p.soft_out, f"planted on {on}")
        found.setdefault((p.instance_id, p.limb_id), []).append(bar)
    for g in scene.gaits:
        bar = Bar(g.id, g.start, g.stop, 0.0, 0.0, f"walk: {g.card.name}", "gaits")
        found.setdefault((g.instance_id, g.instance_id), []).append(bar)
    for u in scene.phrase_uses:
        phrase = resolved(u, phrases)
        stop = PhraseCourse(u, phrase.length, scene.frames, scene.loop_length).stop if phrase else u.start + ASLEEP
        title = f"phrase: {phrase.name}" if phrase else "its phrase is gone"
        found.setdefault((u.instance_id, u.id), []).append(Bar(u.id, u.start, stop, 0.0, 0.0, title, "phrase_uses"))
    return found


def bearers(scene: Scene, puppets: Mapping[str, Puppet]) -> list[dict[str, Any]]:
    """What carries each body from when on, in order of time; without an owner, its root again."""
    return [
        {
            "instance": b.instance_id,
            "time": b.time,
            "owner": b.owner_id,
            "name": owner_name(scene, puppets, (b.instance_id, b.owner_id)) if b.owner_id else "",
        }
        for b in sorted(scene.bearings, key=lambda b: b.time)
    ]


def changes_of(scene: Scene, puppets: dict[str, Puppet]) -> dict[Node, list[CarrierChange]]:
    """Hitches, bearings and turns by the node on whose wire they lie; the last two lie on their puppet's own."""
    found: dict[Node, list[CarrierChange]] = {}
    for h in scene.hitches:
        by = owner_name(scene, puppets, (h.carrier_instance, h.carrier_id)) if h.carrier_id else ""
        title = f"goes with {by}" if by else "is thrown" if h.arc else "is let go"
        found.setdefault((h.instance_id, h.owner_id), []).append(CarrierChange("hitches", h.id, h.time, title))
    for t in scene.turns:
        change = CarrierChange("turns", t.id, t.time, "turns round")
        found.setdefault((t.instance_id, t.instance_id), []).append(change)
    for b in scene.bearings:
        by = owner_name(scene, puppets, (b.instance_id, b.owner_id)) if b.owner_id else "its root"
        change = CarrierChange("bearings", b.id, b.time, f"carried by {by}")
        found.setdefault((b.instance_id, b.instance_id), []).append(change)
    return found
