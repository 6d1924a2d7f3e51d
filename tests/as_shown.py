"""What scenes show, as plain numbers that do not depend on how the program holds them.

`python tests/as_shown.py` writes those of today to tests/shown/, one file a scene. They are what a change of the
house must leave as it is: renew them only for a change that is meant to be seen, and say so.
"""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt

from builders.everything import make_everything
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.documents import list_documents
from orchard import plant

FOLDER = Path(__file__).parent / "shown"
_FINE = 1e4
"""Stored in ten thousandths."""
_EVERY = 3
"""Of the points of soft parts, every third is kept."""
_ORCHARD, _MADE = 6, 16
"""Frames of a demo scene, and of one that was made for this."""

Numbers = dict[str, npt.NDArray[np.float64]]


def times_of(frames: int, count: int) -> npt.NDArray[np.float64]:
    """Frames over a scene, its first and its last among them, every third between two frames."""
    times = np.round(np.linspace(0, frames - 1, count))
    times[2:-1:3] += 0.4
    return times


def numbers_of(workspace: Workspace, scene_id: str, times: npt.NDArray[np.float64]) -> tuple[list[str], Numbers]:
    """What stands in a scene, by name, and the numbers of each: frames first, then by the names' order."""
    scene = workspace.scene(scene_id)
    shown = workspace.frames(scene_id, times)
    puppets = {i.id: workspace.puppet(i.puppet_id) for i in scene.instances if not i.is_camera}
    called = {i.id: {i.id: f"{i.name}: seat"} for i in scene.instances}
    for instance in scene.instances:
        puppet = puppets.get(instance.id)
        things = (*puppet.bones, *puppet.limbs, *puppet.pins) if puppet else ()
        called[instance.id] |= {t.id: f"{instance.name}: {t.name}" for t in things}
    parts = [f"{_name(scene, who)}: {_part(puppets[who], part)}" for who, part in shown.part_keys]
    nodes = [called[who][owner] for who, owner in shown.node_keys]
    by_part, by_node = np.argsort(parts, kind="stable"), np.argsort(nodes, kind="stable")
    ranks = np.argsort(by_part)
    points = [
        shown.points[:, s.start : s.start + s.count][:, ::_EVERY] for n in by_part if (s := shown.soft.get(int(n)))
    ]
    found = {
        "matrices": shown.matrices[:, by_part], "opacity": shown.opacity[:, by_part], "fade": shown.fade[:, by_part],
        "drawing": shown.drawing[:, by_part], "order": ranks[shown.order], "nodes": shown.nodes[:, by_node],
        "points": np.concatenate(points, axis=1) if points else np.zeros((len(times), 0, 2)), "views": shown.views,
    }  # fmt: skip
    names = [*(parts[n] for n in by_part), *(nodes[n] for n in by_node)]
    return names, {k: np.asarray(v, np.float64) for k, v in found.items()}


def _name(scene, instance_id: str) -> str:
    return next(i.name for i in scene.instances if i.id == instance_id)


def _part(puppet, part_id: str) -> str:
    return next(p.name for p in puppet.parts if p.id == part_id)


def scenes_of(workspace: Workspace) -> Iterator[tuple[str, str, npt.NDArray[np.float64]]]:
    """Name, id and chosen frames of all demo scenes, and of those with every feature, which this makes."""
    demo = {e.id: e.name for e in list_documents(workspace.store, "scene")}
    for scene_id, name in sorted(demo.items(), key=lambda item: item[1]):
        yield name, scene_id, times_of(workspace.scene(scene_id).frames, _ORCHARD)
    for scene_id in make_everything(workspace):
        scene = workspace.scene(scene_id)
        yield scene.name, scene_id, times_of(scene.frames, _MADE)


def stored(name: str) -> tuple[list[str], Numbers]:
    """What was written of a scene."""
    with np.load(FOLDER / f"{name}.npz") as held:
        names = json.loads(bytes(held["names"]))
        return names, {k: np.cumsum(held[k].astype(np.int64), axis=0) / _FINE for k in held.files if k != "names"}


def write(name: str, names: Sequence[str], numbers: Numbers) -> None:
    """Keep the numbers of a scene: from frame to frame, as they differ."""
    rows = {
        k: np.diff(np.round(v * _FINE).astype(np.int64), axis=0, prepend=0).astype(np.int32) for k, v in numbers.items()
    }
    np.savez_compressed(FOLDER / f"{name}.npz", names=np.frombuffer(json.dumps(names).encode(), np.uint8), **rows)


def main(folder: Path) -> None:
    plant(folder)
    store = Store(folder)
    workspace = Workspace(store)
    FOLDER.mkdir(exist_ok=True)
    for name, scene_id, times in scenes_of(workspace):
        write(name, *numbers_of(workspace, scene_id, times))
        print(name)
    store.close()


if __name__ == "__main__":
    if sys.argv[1:]:
        main(Path(sys.argv[1]))
    else:
        with tempfile.TemporaryDirectory() as passing:
            main(Path(passing))
