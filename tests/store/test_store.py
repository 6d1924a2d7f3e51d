"""The file itself: migrations, backup, damage, the lock."""

import sqlite3

import pytest

from gaitwire.services.session.locking import HeldError, writing
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.documents import list_documents
from gaitwire.store.faults import StoreError
from gaitwire.store.opening import FILE_NAME


def test_a_new_store_is_sound_and_strict(workspace):
    db = workspace.store.connection
    assert db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    assert db.execute("PRAGMA synchronous").fetchone()[0] == 2  # FULL
    assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    with pytest.raises(sqlite3.IntegrityError):
        db.execute("INSERT INTO blobs VALUES ('a', 'b', 3.5)")


def test_a_failed_block_leaves_nothing_and_inner_blocks_are_savepoints(workspace):
    store = workspace.store
    with store.atomic() as db:
        db.execute("INSERT INTO blobs VALUES ('kept', 't', x'00')")
        with pytest.raises(ZeroDivisionError), store.atomic():
            db.execute("INSERT INTO blobs VALUES ('lost', 't', x'00')")
            _ = 1 / 0
    assert [r["hash"] for r in store.rows("SELECT hash FROM blobs")] == ["kept"]


def test_a_backup_is_a_whole_store(orchard, tmp_path):
    (tmp_path / "copy").mkdir()
    orchard.store.backup(tmp_path / "copy" / FILE_NAME)
    copy = Store(tmp_path / "copy")
    names = {e.name for e in list_documents(copy, "puppet")}
    copy.close()
    assert names == {e.name for e in list_documents(orchard.store, "puppet")} >= {"Tamsin", "Pip", "Ladder"}
    with pytest.raises(StoreError, match="there already"):
        orchard.store.backup(tmp_path / "copy" / FILE_NAME)


def test_files_that_are_no_store_are_refused(tmp_path):
    (tmp_path / FILE_NAME).write_bytes(b"not a database at all, but long enough to be looked at" * 40)
    with pytest.raises(StoreError, match="damaged"):
        Store(tmp_path)


def test_a_newer_store_is_left_alone(tmp_path):
    Store(tmp_path).close()
    with sqlite3.connect(tmp_path / FILE_NAME) as db:
        db.execute("PRAGMA user_version = 9999")
    db.close()
    with pytest.raises(StoreError, match="newer"):
        Store(tmp_path)


def test_only_one_writes_at_a_time(tmp_path):
    with (
        writing(tmp_path, "a server on port 1"),
        pytest.raises(HeldError, match="a server on port 1"),
        writing(tmp_path, "b"),
    ):
        pass
    with writing(tmp_path, "c"):
        pass


def test_models_come_back_as_they_went_in(orchard):
    again = Workspace(orchard.store)
    for entry in list_documents(orchard.store, "scene"):
        one, two = orchard.scene(entry.id), again.scene(entry.id)
        assert one == two
        assert {k.id: k for k in one.keys} == {k.id: type(k).model_validate(k.model_dump()) for k in two.keys}
