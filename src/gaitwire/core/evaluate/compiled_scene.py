"""A scene compiled to arrays: one puppet after the other, and which of them move together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet, Source, compile_puppet
from gaitwire.core.evaluate.coupled_groups import CoupledGroup, couple
from gaitwire.core.evaluate.puppet_build import Skins
from gaitwire.core.evaluate.value_tables import KeyedChannels
from gaitwire.core.geometry.mesh import Mesh
from gaitwire.core.links import Bearing, Hitch, Plant
from gaitwire.core.motion.composed_phrases import told
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.motion.loose.settings import Loose, Weather
from gaitwire.core.motion.phrase import Phrases, PhraseUse
from gaitwire.core.motion.roll import Roll
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.walk.span import GaitSpan


@dataclass(frozen=True)
class CompiledScene:
    """What `evaluate` takes."""

    compiled_puppets: tuple[CompiledPuppet, ...]
    groups: tuple[CoupledGroup, ...]
    loop: float | None
    scene: Scene = field(repr=False)
    puppets: Mapping[str, Puppet] = field(repr=False)
    skins: Skins = field(default_factory=dict, repr=False)
    phrases: Phrases = field(default_factory=dict, repr=False)

    @property
    def meshes(self) -> dict[str, Mesh]:
        """Meshes of soft parts at rest, by part id."""
        return {part_id: skin.body.mesh for part_id, skin in self.skins.items()}


def compile_scene(
    scene: Scene, puppets: Mapping[str, Puppet], skins: Skins | None = None, previous: CompiledScene | None = None,
    phrases: Phrases | None = None,
) -> CompiledScene:  # fmt: skip
    """Compile; `puppets` and `phrases` by id. An instance whose puppet is missing sleeps: it is left out.

    A soft part without its skin is shown rigid. Compiled puppets of `previous` that were compiled from the
    same are taken over as they are.
    """
    by_channel = scene.keys_by_channel()
    loop, skins = scene.loop_length, skins or {}
    by_instance: dict[str, KeyedChannels] = {}
    for channel in scene.channels:
        keys = by_channel.get(channel.id, [])
        if keys:
            by_instance.setdefault(channel.instance_id, []).append((channel, keys))
    instances = sorted((i for i in scene.instances if i.puppet_id in puppets), key=lambda i: (i.depth, i.id))
    known = {i.nodes.owners[0][0]: i for i in previous.compiled_puppets} if previous else {}
    compiled_puppets = []
    for instance in instances:
        puppet = puppets[instance.puppet_id]
        own = {p.id: skins[p.id] for p in puppet.parts if p.id in skins}
        channels = by_instance.get(instance.id, [])
        offsets = tuple(o for o in scene.offsets if o.instance_id == instance.id)
        source = Source(
            instance, puppet, channels, loop, frozenset(own), offsets, _pose_times(scene, instance, channels),
            *_links(scene, instance.id), told(own_uses(scene, instance.id), phrases or {}, scene.frames),
            tuple(sorted((t for t in scene.turns if t.instance_id == instance.id), key=lambda t: t.time)),
            any(p.instance_id == instance.id for p in scene.poses), *_led(scene, instance),
        )  # fmt: skip
        kept = known.get(instance.id)
        same = kept is not None and kept.source == source
        compiled_puppets.append(kept if kept is not None and same else compile_puppet(source, own, kept))
    return CompiledScene(
        tuple(compiled_puppets),
        couple(compiled_puppets, scene, previous.groups if previous else ()),
        loop,
        scene,
        puppets,
        skins,
        phrases or {},
    )


def walking(compiled: CompiledScene, spans: tuple[GaitSpan, ...]) -> CompiledScene:
    """The scene with other walks beneath its keys; nothing else is compiled anew."""
    scene = compiled.scene.model_copy(update={"gaits": spans})
    compiled_puppets = tuple(
        i.walking(tuple(g for g in spans if g.instance_id == i.source.instance.id)) for i in compiled.compiled_puppets
    )
    return replace(compiled, compiled_puppets=compiled_puppets, groups=couple(compiled_puppets, scene), scene=scene)


def planted(compiled: CompiledScene, plant: Plant) -> CompiledScene:
    """The scene with one of its plants elsewhere; nothing else is compiled anew."""
    compiled_puppets = tuple(
        i.planted(plant) if i.source.instance.id == plant.instance_id else i for i in compiled.compiled_puppets
    )
    return replace(compiled, compiled_puppets=compiled_puppets, groups=couple(compiled_puppets, compiled.scene))


def riding(compiled: CompiledScene, gait_id: str, name: str, departs: float) -> CompiledScene:
    """The scene with a setting of one walk apart from its card by a number, instead of what its keys say."""
    compiled_puppets = tuple(i.riding(gait_id, name, departs) for i in compiled.compiled_puppets)
    return replace(compiled, compiled_puppets=compiled_puppets, groups=couple(compiled_puppets, compiled.scene))


def own_uses(scene: Scene, instance_id: str) -> list[PhraseUse]:
    """The uses of phrases on one puppet."""
    return [u for u in scene.phrase_uses if u.instance_id == instance_id]


def _links(
    scene: Scene, instance_id: str
) -> tuple[tuple[Plant, ...], tuple[Hitch, ...], tuple[Bearing, ...], tuple[GaitSpan, ...], tuple[Roll, ...]]:
    """What joins an instance's bones to others, its walks, each in order of time, and what rolls."""
    return (
        tuple(sorted((p for p in scene.plants if p.instance_id == instance_id), key=lambda p: p.start)),
        tuple(sorted((h for h in scene.hitches if h.instance_id == instance_id), key=lambda h: h.time)),
        tuple(sorted((b for b in scene.bearings if b.instance_id == instance_id), key=lambda b: b.time)),
        tuple(sorted((g for g in scene.gaits if g.instance_id == instance_id), key=lambda g: g.start)),
        tuple(r for r in scene.rolls if r.instance_id == instance_id),
    )


def _led(scene: Scene, instance: Instance) -> tuple[tuple[Driver, ...], float, Weather]:
    """What leads parts of an instance, the frames a second by which it goes, and the weather in which."""
    drivers = tuple(d for d in scene.drivers if d.instance_id == instance.id)
    if not any(isinstance(d.settings, Loose) for d in drivers):
        return drivers, float(scene.rate) if drivers else 0.0, Weather()
    weather = scene.weather._replace(floor=scene.floor_under(instance))
    return drivers, float(scene.rate), weather


def _pose_times(scene: Scene, instance: Instance, channels: KeyedChannels) -> tuple[float, ...]:
    """The puppet's poses; where none are marked, every time at which it has a key."""
    marked = [p.time for p in scene.poses if p.instance_id == instance.id]
    return tuple(sorted(set(marked or [k.time for _, keys in channels for k in keys])))
