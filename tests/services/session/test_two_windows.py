"""Windows that edit, load and look at the same documents at once: nobody waits for one who waits for him."""

import random
import shutil
from threading import Thread

import pytest

from gaitwire.services.rig.bench import Bench
from gaitwire.services.scene.floor import make_scene, update_instance, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.documents import list_documents

EDITS = 12
LONG = 120.0
"""Seconds after which threads are taken to hang; they need about two."""


@pytest.fixture
def open_orchard(tmp_path, orchard_folder):
    """An orchard that is not closed by the test: what hangs would hold up closing it too."""
    shutil.copytree(orchard_folder, tmp_path / "store")
    return Workspace(Store(tmp_path / "store"))


def all_end(*works):
    """Run them side by side; what they raised, and whether all came to an end."""
    wrong = []

    def guarded(work):
        try:
            work()
        except BaseException as error:  # noqa: BLE001 - whatever it is, the test tells it
            wrong.append(error)

    threads = [Thread(target=guarded, args=(work,), daemon=True) for work in works]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(LONG)
    assert not wrong
    assert not any(thread.is_alive() for thread in threads), "threads wait for each other"


def test_two_windows_edit_a_scene_while_others_load_it(open_orchard):
    entry = next(e for e in list_documents(open_orchard.store, "scene") if e.name == "Off the crate")
    seats = [i.id for i in open_orchard.scene(entry.id).instances if not i.backdrop and not i.is_camera]
    before = entry.revision

    def edits(seed):
        chance = random.Random(seed)
        for _ in range(EDITS):
            update_instance(Floor(open_orchard, entry.id), seats[0], x=chance.uniform(0, 800))

    def looks():
        for _ in range(EDITS):
            open_orchard.compiled(entry.id)

    all_end(lambda: edits(1), lambda: edits(2), looks, looks, looks)
    assert open_orchard.scene(entry.id).revision == before + 2 * EDITS
    open_orchard.store.close()


def test_a_bench_edits_while_floors_and_windows_load_its_puppet(open_orchard):
    entry = next(e for e in list_documents(open_orchard.store, "puppet") if e.name == "Tamsin")
    scene = next(e for e in list_documents(open_orchard.store, "scene") if e.name == "Down the lane")

    def edits():
        for n in range(EDITS):
            Bench(open_orchard, entry.id).rename(f"Tamsin {n}")

    def looks():
        for _ in range(EDITS):
            open_orchard.compiled_puppet(entry.id)

    def plays():
        for _ in range(EDITS):
            open_orchard.compiled(scene.id)

    all_end(edits, looks, plays, looks)
    assert open_orchard.puppet(entry.id).name == f"Tamsin {EDITS - 1}"
    open_orchard.store.close()


def test_what_an_edit_reads_of_its_own_is_nobody_elses(workspace):
    """What is taken back was never there, for those who looked meanwhile and for those who look later."""
    scene_id = make_scene(workspace, "Dusk")
    floor = Floor(workspace, scene_id)
    with pytest.raises(ZeroDivisionError), workspace.store.atomic():
        update_scene(floor, frames=99)
        assert workspace.scene(scene_id).frames == 99
        elsewhere = []
        reader = Thread(target=lambda: elsewhere.append(workspace.scene(scene_id).frames))
        reader.start()
        reader.join(LONG)
        assert elsewhere == [48]
        _ = 1 / 0
    update_scene(floor, frames=50)
    assert workspace.scene(scene_id).frames == 50
