"""What would carry itself: looked for at the end of every gesture that touches plants or hitches."""

from __future__ import annotations

from collections.abc import Mapping

from gaitwire.core.errors import CycleError
from gaitwire.core.evaluate.compiled_scene import compile_scene
from gaitwire.core.links import Hitch, Link, Plant
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Scene
from gaitwire.core.scene_draft import SceneDraft


def refuse_circles(draft: SceneDraft, cast: Mapping[str, Puppet]) -> None:
    """Raise CycleError, by name, where what a gesture has written lets a thing go with itself on some frame.

    What went in a circle before it already is no fault of this one.
    """
    if not draft.written(Plant) and not draft.written(Hitch):
        return
    before = draft.before
    after = before.model_copy(update={"plants": draft.scene.plants, "hitches": draft.scene.hitches})
    fresh = _unresolved(after, cast)
    if fresh and fresh - _unresolved(before, cast):
        names = {i.id: i.name for i in before.instances}
        links: tuple[Link, ...] = (*after.plants, *after.hitches)
        around = sorted({names.get(link.instance_id, "?") for link in links if link.id in fresh})
        raise CycleError(
            f"{' and '.join(around)} would carry each other.",
            "Choose another bone, or frames that do not meet; soft ends count.",
        )


def _unresolved(scene: Scene, cast: Mapping[str, Puppet]) -> frozenset[str]:
    return frozenset(link_id for group in compile_scene(scene, cast).groups for link_id in group.unresolved)
