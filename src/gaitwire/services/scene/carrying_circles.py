"""What would carry itself: looked for at the end of every edit that touches plants or hitches."""

from __future__ import annotations

from collections.abc import Mapping

from gaitwire.core.errors import CycleError
from gaitwire.core.evaluate.compiled_scene import compile_scene
from gaitwire.core.links import Link
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Scene
from gaitwire.store.history import Edit


def refuse_circles(scene: Scene, cast: Mapping[str, Puppet], edit: Edit) -> None:
    """Raise CycleError, by name, where what an edit writes lets a thing go with itself on some frame.

    `scene` is as it was before the edit; what went in a circle there already is no fault of this one.
    """
    written = {table: edit.written(table) for table in ("plants", "hitches")}
    if not any(written.values()):
        return
    after = scene.model_copy(
        update={
            table: (*(x for x in getattr(scene, table) if x.id not in rows), *(x for x in rows.values() if x))
            for table, rows in written.items()
        }
    )
    fresh = _asleep(after, cast)
    if fresh and fresh - _asleep(scene, cast):
        names = {i.id: i.name for i in scene.instances}
        links: tuple[Link, ...] = (*after.plants, *after.hitches)
        around = sorted({names.get(link.instance_id, "?") for link in links if link.id in fresh})
        raise CycleError(
            f"{' and '.join(around)} would carry each other.",
            "Choose another bone, or frames that do not meet; soft ends count.",
        )


def _asleep(scene: Scene, cast: Mapping[str, Puppet]) -> frozenset[str]:
    return frozenset(link_id for group in compile_scene(scene, cast).groups for link_id in group.unresolved)
