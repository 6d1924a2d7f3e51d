"""Copies, restoring, damage, full disks, bounds: what is stored stays, and what cannot be stored is told."""

import json
import shutil
import sqlite3
import time
from datetime import datetime, timedelta
from importlib.resources import files

import pytest
from pydantic import ValidationError

from builders.named import id_of
from gaitwire.core.errors import AlreadyDoneError, ConflictError, InvalidInputError, NotFoundError
from gaitwire.services.scene.floor import make_scene, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.session.health import changed_blobs, examine
from gaitwire.services.session.locking import clear_passing, passing_folder, writing
from gaitwire.services.session.upkeep import Upkeep
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store, backups
from gaitwire.store.documents import list_documents, load_scene
from gaitwire.store.faults import BrokenStoreError, FullDiskError, NoStoreError, OldStoreError, ReadOnlyStoreError
from gaitwire.store.history import KNOWN_REVISIONS, carry, take_step
from gaitwire.store.opening import FILE_NAME
from gaitwire.store.schema import newest
from gaitwire.store.upkeep import compact, cut_history, file_size, history_size


def names(store):
    return {e.name for e in list_documents(store, "scene")}


def fill(store):
    store.vacuum()
    pages = store.connection.execute("PRAGMA page_count").fetchone()[0]
    store.connection.execute(f"PRAGMA max_page_count = {pages}")


def test_a_full_disk_has_words_of_its_own_and_leaves_nothing_behind(workspace):
    store = workspace.store
    fill(store)
    before = names(store)
    with pytest.raises(FullDiskError, match="The disk is full"):
        for n in range(200):
            make_scene(workspace, f"{'long name ' * 7}{n}")
            before = names(store)
    assert names(store) == before  # the one that failed is not there, not even in part
    store.connection.execute("PRAGMA max_page_count = 1000000")
    make_scene(workspace, "Dusk")
    assert names(store) == before | {"Dusk"}


def test_a_gesture_that_comes_twice_is_done_once(workspace):
    scene_id = make_scene(workspace, "Dusk")
    floor = Floor(workspace, scene_id)
    carry("gesture one")
    update_scene(floor, frames=90)
    carry("gesture one")
    with pytest.raises(AlreadyDoneError):
        update_scene(floor, frames=91)
    carry("gesture two")
    take_step(workspace.store, scene_id, "undo")
    carry("gesture two")
    with pytest.raises(AlreadyDoneError):
        take_step(workspace.store, scene_id, "undo")
    carry("")
    assert workspace.scene(scene_id).frames == 48


def test_what_revisions_changed_is_forgotten_below_a_floor(workspace):
    scene_id = make_scene(workspace, "Dusk")
    for n in range(KNOWN_REVISIONS + 120):
        update_scene(Floor(workspace, scene_id), frames=50 + n % 2)
    known = workspace.store.rows("SELECT count(*) AS n FROM revision_rows WHERE document_id = ?", (scene_id,))[0]["n"]
    assert known <= KNOWN_REVISIONS + 60
    with pytest.raises(ConflictError):
        update_scene(Floor(workspace, scene_id, revision=3), name="Other")
    revision = workspace.scene(scene_id).revision
    update_scene(Floor(workspace, scene_id, revision=revision), name="Other")
    assert load_scene(workspace.store, scene_id) == workspace.scene(scene_id)


def test_copies_are_made_once_an_hour_when_something_changed_and_the_last_ten_stay(workspace):
    store, folder = workspace.store, workspace.store.path.parent
    assert backups.copy_if_due(store) is None  # nothing was ever done
    make_scene(workspace, "Dusk")
    first = backups.copy_if_due(store)
    assert first and backups.look_into(first).scenes == ("Dusk",)
    make_scene(workspace, "Dawn")
    assert backups.copy_if_due(store) is None  # it is not an hour yet
    older = datetime.now() - timedelta(hours=2)
    first.path.rename(folder / backups.FOLDER / older.strftime("%Y-%m-%d_%H-%M-%S.sqlite3"))
    second = backups.copy_if_due(store)
    assert second and backups.look_into(second).scenes == ("Dawn", "Dusk")
    for n in range(14):
        stamp = (older - timedelta(hours=n + 1)).strftime("%Y-%m-%d_%H-%M-%S.sqlite3")
        shutil.copy(second.path, folder / backups.FOLDER / stamp)
    backups.make_copy(store, "asked")
    backups.make_copy(store)
    found = backups.list_copies(folder)
    assert len([c for c in found if not c.why]) == backups.KEPT and any(c.why == "asked" for c in found)


def test_a_copy_takes_the_place_of_an_open_store_and_can_be_taken_back(orchard):
    store, folder = orchard.store, orchard.store.path.parent
    entry = next(e for e in list_documents(store, "scene") if e.name == "Pip hops")
    was = orchard.scene(entry.id)
    backups.make_copy(store)
    update_scene(Floor(orchard, entry.id), name="Spoiled", frames=7)
    spoiled = orchard.scene(entry.id)
    kept = backups.restore_into(store, backups.find_copy(folder, "last"))
    now = orchard.scene(entry.id)
    assert (now.name, now.frames, now.keys) == (was.name, was.frames, was.keys)
    assert now.revision > spoiled.revision  # nothing known of older revisions is taken for this
    with pytest.raises(ConflictError):
        update_scene(Floor(orchard, entry.id, revision=spoiled.revision), frames=9)
    backups.restore_into(store, kept)
    assert orchard.scene(entry.id).name == "Spoiled"
    with pytest.raises(NotFoundError, match="no copy called"):
        backups.find_copy(folder, "yesterday")


def noise(path, start, size=40_000):
    """Noise in the middle of a file, as a failing disk leaves it."""
    with path.open("r+b") as file:
        file.seek(start)
        file.write(bytes((i * 73 + 11) % 251 for i in range(size)))


def test_noise_in_the_file_is_noticed_and_a_copy_takes_its_place(orchard):
    store, folder = orchard.store, orchard.store.path.parent
    names_then = names(store)
    copy = backups.make_copy(store)
    store.close()
    noise(folder / FILE_NAME, (folder / FILE_NAME).stat().st_size // 2 // 4096 * 4096)
    with pytest.raises(BrokenStoreError, match=r"damaged.*gaitwire restore"):
        Store(folder)
    assert any("damaged" in fault for fault in examine(folder).faults)
    aside = backups.restore_file(folder, copy)
    assert (aside / FILE_NAME).exists()  # what is broken is kept, in case somebody can read it
    again = Store(folder)
    assert names(again) == names_then
    again.close()


def test_a_damaged_copy_is_not_restored(orchard):
    folder = orchard.store.path.parent
    copy = backups.make_copy(orchard.store)
    noise(copy.path, copy.size // 2 // 4096 * 4096)
    before = names(orchard.store)
    for restore in (lambda: backups.restore_into(orchard.store, copy), lambda: backups.restore_file(folder, copy)):
        with pytest.raises(BrokenStoreError, match="damaged itself"):
            restore()
    assert names(orchard.store) == before


def test_a_broken_index_is_made_anew(orchard):
    folder = orchard.store.path.parent
    before = names(orchard.store)
    db = orchard.store.connection
    db.execute("PRAGMA writable_schema = ON")
    db.execute(
        "UPDATE sqlite_master SET sql = 'CREATE INDEX bones_by_puppet ON bones (name)' WHERE name = 'bones_by_puppet'"
    )
    db.execute("PRAGMA writable_schema = OFF")
    orchard.store.close()
    store = Store(folder)
    assert store.mended and names(store) == before
    store.close()


def test_a_picture_that_is_not_as_it_came_is_told(orchard):
    assert changed_blobs(orchard.store) == []
    with orchard.store.atomic() as db:
        digest = db.execute("SELECT hash FROM blobs LIMIT 1").fetchone()[0]
        db.execute("UPDATE blobs SET data = x'00' WHERE hash = ?", (digest,))
    assert changed_blobs(orchard.store) == [digest]
    assert any("not as they came" in fault for fault in examine(orchard.store.path.parent).faults)


def test_what_only_reads_neither_makes_nor_changes_a_store(tmp_path, orchard_folder):
    with pytest.raises(NoStoreError, match="no store in"):
        Store(tmp_path / "typo", reading=True)
    assert not (tmp_path / "typo").exists()
    shutil.copytree(orchard_folder, tmp_path / "store")
    store = Store(tmp_path / "store", reading=True)
    workspace = Workspace(store)
    assert workspace.scene(list_documents(store, "scene")[0].id).keys is not None
    with pytest.raises(ReadOnlyStoreError):
        make_scene(workspace, "Dusk")
    store.backup(tmp_path / "copy.sqlite3")
    store.close()
    with sqlite3.connect(tmp_path / "store" / FILE_NAME) as db:
        db.execute("PRAGMA user_version = 13")
    db.close()
    with pytest.raises(OldStoreError, match="gaitwire serve"):
        Store(tmp_path / "store", reading=True)


def test_history_is_measured_cut_by_age_and_the_file_made_small(orchard):
    store = orchard.store
    scene_id = make_scene(orchard, "Dusk")
    for n in range(30):
        update_scene(Floor(orchard, scene_id), name=f"{n} {'dusk ' * 12}")
    update_scene(Floor(orchard, scene_id), frames=90)
    size = history_size(store)
    with store.atomic() as db:
        db.execute("UPDATE steps SET made_at = ? WHERE label <> 'set frames'", (time.time() - 90 * 86_400,))
    assert size.steps > 20 and size.bytes > 10_000
    gone = cut_history(store, 30 * 86_400)
    left = history_size(store)
    assert gone > 20 and left.steps == size.steps - gone and left.bytes < size.bytes
    before, after = compact(store)
    assert after < before and after == file_size(store)
    take_step(store, scene_id, "undo")  # what is younger can still be undone
    assert orchard.scene(scene_id).frames == 48


def older_store(folder):
    """A store as the version before the bounds could leave it: a key far out, a name and a place beyond all bounds."""
    db = sqlite3.connect(folder / FILE_NAME)
    scripts = sorted(p for p in files("gaitwire.store").joinpath("migrations").iterdir() if p.name.endswith(".sql"))
    for script in scripts[:13]:
        db.executescript(script.read_text())
    db.execute("INSERT INTO documents VALUES ('s', 'scene', 1, 0.0)")
    columns = {r[1]: 0 for r in db.execute("PRAGMA table_info(scenes)")}
    scene = columns | {
        "id": "s",
        "name": "Du\x07sk",
        "width": 640,
        "height": 360,
        "frames": 24,
        "rate_num": 24,
        "rate_den": 1,
    }
    scene |= {"creep": 12, "background": "#ffffff", "ground": 1e150}
    instance = {r[1]: 0 for r in db.execute("PRAGMA table_info(instances)")}
    instance |= {
        "id": "i",
        "scene_id": "s",
        "puppet_id": "p",
        "name": "Oak",
        "scale": 1.0,
        "faint": 0.5,
        "distance": 1.0,
        "exposure": 1,
    }
    channel = {
        "id": "c",
        "scene_id": "s",
        "instance_id": "i",
        "owner_kind": "bone",
        "owner_id": "b",
        "property": "turn",
        "repeat": "",
    }
    key = {
        "id": "k",
        "channel_id": "c",
        "time": 3.0,
        "value": 5.0,
        "ease": "linear",
        "chart": "[]",
        "stay": 0,
        "aside": 0,
    }
    rows = [
        ("scenes", scene),
        ("instances", instance),
        ("channels", channel),
        ("keys", key),
        ("keys", key | {"id": "far", "time": 1e9}),
    ]
    for table, row in rows:
        marks = ", ".join("?" * len(row))
        db.execute(f"INSERT INTO {table} ({', '.join(row)}) VALUES ({marks})", list(row.values()))
    db.execute("INSERT INTO steps (id, label, made_at) VALUES (1, 'pose', 0.0)")
    db.execute("INSERT INTO step_documents VALUES (1, 's')")
    whole = {r[1]: None for r in db.execute("PRAGMA table_info(keys)")} | key
    images = [json.dumps(whole | {"value": value}) for value in (1e150, 5.0)]
    db.execute("INSERT INTO step_rows VALUES (1, 'keys', 'k', ?, ?)", images)
    db.execute("PRAGMA user_version = 13")
    db.commit()
    db.close()


def test_what_was_stored_out_of_bounds_is_mended_and_told_and_copied_before(tmp_path):
    older_store(tmp_path)
    store = Store(tmp_path, before_migrating=backups.copy_before_update)
    try:
        scene = load_scene(store, "s")
        assert (scene.name, scene.ground, [k.id for k in scene.keys]) == ("Dusk", 1e6, ["k"])
        assert len(store.told) == 2 and any("keys out of bounds" in line for line in store.told)
        take_step(store, "s", "undo")
        assert load_scene(store, "s").keys[0].value == 1e6  # history's images are within bounds too
        before = backups.list_copies(tmp_path)
        assert [c.said for c in before] == ["before an update"]
        assert backups.look_into(before[0]).version == 13 < newest()
    finally:
        store.close()


def test_nothing_out_of_bounds_gets_past_the_models(orchard):
    """Models are copied without their checks in many places: the store checks what it is given."""
    scene = orchard.scene(id_of(orchard, "scene", "Pip hops"))
    key, seat = scene.keys[0], scene.instances[0]
    for table, item in (
        ("keys", key.model_copy(update={"time": 1e9})),
        ("keys", key.model_copy(update={"value": float("nan")})),
        ("instances", seat.model_copy(update={"depth": 2**63})),
        ("instances", seat.model_copy(update={"name": "\ud800"})),
    ):
        with pytest.raises(InvalidInputError), orchard.edit("spoil", [scene.id]) as edit:
            edit.put(table, [item])
    assert orchard.scene(scene.id) == scene


def test_what_another_hand_wrote_out_of_bounds_is_told_and_never_put_back(orchard):
    entry = next(e for e in list_documents(orchard.store, "scene") if e.name == "Pip hops")
    update_scene(Floor(orchard, entry.id), frames=30)
    with orchard.store.atomic() as db:
        db.execute("UPDATE step_rows SET before = replace(before, '24', '240000000')")
    with pytest.raises(InvalidInputError):
        take_step(orchard.store, entry.id, "undo")
    with orchard.store.atomic() as db:
        db.execute("UPDATE keys SET time = 1e9 WHERE id = (SELECT k.id FROM keys k JOIN channels c ON c.id = k.channel_id"
                   " WHERE c.scene_id = ? LIMIT 1)", (entry.id,))  # fmt: skip
    with pytest.raises(ValidationError):
        load_scene(orchard.store, entry.id)


def test_a_passing_folder_of_a_killed_program_goes_at_the_next_start(tmp_path, monkeypatch):
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    left = tmp_path / "gaitwire-left"
    with writing(left, "a killed program"):
        pass
    with passing_folder() as used:
        (used / "frames").mkdir()
        clear_passing()
        assert used.exists() and not left.exists()
    assert not used.exists()


def test_upkeep_copies_by_itself_and_tells_nothing_worse_than_its_log(orchard):
    Upkeep(orchard.store).look()
    assert len(backups.list_copies(orchard.store.path.parent)) == 1
    orchard.store.close()
    Upkeep(orchard.store).look()  # a store that cannot be used harms nobody


def test_upkeep_ends_before_its_store_is_closed(orchard):
    """Again and again, for it is about who is quicker."""
    folder = orchard.store.path.parent
    for _ in range(12):
        store = Store(folder)
        upkeep = Upkeep(store)
        upkeep.start()
        upkeep.close()
        store.close()
        shutil.rmtree(folder / backups.FOLDER, ignore_errors=True)
