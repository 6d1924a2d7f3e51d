"""What leads things of a scene besides their keys: found, put, let be."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from pydantic import BaseModel

from gaitwire.core.addresses import Node
from gaitwire.core.evaluate import compile_scene
from gaitwire.core.evaluate.inverse_layers import Beneath
from gaitwire.core.ids import new_id
from gaitwire.core.motion.drivers.driver import Driver, Settings
from gaitwire.core.motion.loose.owners import swinging_of
from gaitwire.services.scene.gestures import Draft, SceneState, gesture

S = TypeVar("S", bound=BaseModel)


def driver_of(floor: SceneState, node: Node, kind: type[BaseModel]) -> Driver | None:
    """What leads something in a way, if anything does."""
    own = (d for d in floor.scene.drivers if (d.instance_id, d.owner_id) == node)
    return next((d for d in own if isinstance(d.settings, kind)), None)


def settings_of(floor: SceneState, node: Node, kind: type[S]) -> S | None:
    """How something is led in a way, if it is."""
    found = driver_of(floor, node, kind)
    return found.settings if found is not None and isinstance(found.settings, kind) else None


def example(floor: SceneState, nodes: Sequence[Node], kind: type[BaseModel]) -> Node | None:
    """The first of some things that is led in a way, unless all of them are led as it is; seeds are their own."""
    found = [settings_of(floor, node, kind) for node in nodes]
    ways = [settings and settings.model_dump(exclude={"seed"}) for settings in found]
    first = next((n for n, way in enumerate(ways) if way), None)
    return None if first is None or all(way == ways[first] for way in ways) else nodes[first]


def swinging_in(floor: SceneState, instance_id: str) -> frozenset[str]:
    """Ids of a puppet's bones that swing by themselves: no walk, hop or weight swings them besides."""
    puppet = floor.puppet_of(instance_id)
    return swinging_of(puppet, (d for d in floor.scene.drivers if d.instance_id == instance_id))


def lead(draft: Draft, nodes: Sequence[Node], kind: type[S], made: Callable[[Node, S | None], Settings]) -> list[str]:
    """Lead some things in a way, told what each had before; the ids of what leads them."""
    draft.refuse_locked(nodes)
    rows = []
    for node in nodes:
        settings, known = made(node, settings_of(draft, node, kind)), driver_of(draft, node, kind)
        new = {"scene_id": draft.scene_id, "instance_id": node[0], "owner_id": node[1]}
        kept = {"id": known.id if known else new_id(), "owner_kind": draft.owner_kind(*node)}
        rows.append(Driver.model_validate({**new, **kept, "settings": settings}))
    draft.put(rows)
    return [row.id for row in rows]


@gesture("let be")
def remove_drivers(draft: Draft, nodes: Sequence[Node], kind: type[BaseModel]) -> int:
    """Have keys alone decide again about some things; how many were led in that way."""
    draft.refuse_locked(nodes)
    gone = [d.id for node in nodes if (d := driver_of(draft, node, kind)) is not None]
    draft.remove(Driver, gone)
    return len(gone)


def without(draft: Draft, drivers: Sequence[Driver]) -> Beneath:
    """Take away what leads; the layers of values as they are then."""
    left = tuple(d for d in draft.scene.drivers if d not in drivers)
    scene, compiled = draft.scene.model_copy(update={"drivers": left}), draft.compiled
    draft.remove(Driver, [d.id for d in drivers])
    return Beneath(scene, lambda: compile_scene(scene, compiled.puppets, compiled.skins, compiled, compiled.phrases))
