"""What would carry itself: looked for at the end of every gesture that touches plants or hitches."""

from __future__ import annotations

from collections.abc import Callable

from gaitwire.core.errors import CycleError
from gaitwire.core.evaluate.compiled_scene import CompiledScene, compile_scene
from gaitwire.core.links import Hitch, Link, Plant
from gaitwire.core.scene_draft import SceneDraft


def refuse_circles(draft: SceneDraft, compile_before: Callable[[], CompiledScene]) -> None:
    """Raise CycleError, by name, where what a gesture has written lets a thing go with itself on some frame.

    What went in a circle before it already is no fault of this one.
    """
    if not draft.written(Plant) and not draft.written(Hitch):
        return
    before, known = draft.before, compile_before()
    after = before.model_copy(update={"plants": draft.scene.plants, "hitches": draft.scene.hitches})
    fresh = _unresolved(compile_scene(after, known.puppets, known.skins, known, known.phrases))
    if fresh and fresh - _unresolved(known):
        names = {i.id: i.name for i in before.instances}
        links: tuple[Link, ...] = (*after.plants, *after.hitches)
        around = sorted({names.get(link.instance_id, "?") for link in links if link.id in fresh})
        raise CycleError(
            f"{' and '.join(around)} would carry each other.",
            "Choose another bone, or frames that do not meet; soft ends count.",
        )


def _unresolved(compiled: CompiledScene) -> frozenset[str]:
    return frozenset(link_id for group in compiled.groups for link_id in group.unresolved)
