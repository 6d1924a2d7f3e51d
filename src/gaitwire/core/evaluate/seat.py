"""Keys that a walk beneath goes by: those that move its puppet, and those of settings that depart from its card."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.sample import KeyTable, compile_keys
from gaitwire.core.walk.span import PuppetMotion

_AT_REST = Key(id="", channel_id="", time=0.0, value=0.0)


def seat_table(keyed: Iterable[tuple[Channel, Sequence[Key]]], loop: float | None) -> KeyTable:
    """The keys of a puppet's seat, across and down; at rest where it has none."""
    found = {c.property: list(keys) for c, keys in keyed if c.owner_kind == "seat" and keys}
    return compile_keys([found.get(prop) or [_AT_REST] for prop in ("shift_x", "shift_y")], loop, {})


def ridden_tables(keyed: Iterable[tuple[Channel, Sequence[Key]]], loop: float | None) -> dict[str, dict[str, KeyTable]]:
    """The keys of settings that depart from their cards, by the walk's id and the setting's name."""
    found: dict[str, dict[str, KeyTable]] = {}
    for channel, keys in keyed:
        if channel.owner_kind == "walk" and keys:
            found.setdefault(channel.owner_id, {})[channel.property] = compile_keys([list(keys)], loop, {})
    return found


def moved_in(scene: Scene, instance: Instance) -> PuppetMotion:
    """What moves a puppet of a scene besides its walks; settings that are ridden are left out."""
    keys = scene.keys_by_channel()
    own = ((c, keys.get(c.id, [])) for c in scene.channels if c.instance_id == instance.id)
    turns = tuple(t for t in scene.turns if t.instance_id == instance.id)
    return PuppetMotion(instance.pixels, seat_table(own, scene.loop_length), turns=turns)
