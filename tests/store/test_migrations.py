"""A store of an earlier version opens, shows what it held, and its history still goes both ways."""

import json
import sqlite3
from importlib.resources import files

from gaitwire.store import Store
from gaitwire.store.connection import FILE_NAME
from gaitwire.store.documents import load_puppet
from gaitwire.store.history import take_step

BONE = {
    "id": "b", "puppet_id": "p", "name": "trunk", "parent_id": None, "rank": 0, "x": 5.0, "y": 6.0, "angle": -90.0,
    "length": 20.0, "region": "body", "side": "centre", "role": "torso", "hidden": 0, "locked": 0, "keep_volume": 1,
}  # fmt: skip
PART = {
    "id": "a", "puppet_id": "p", "bone_id": "b", "name": "bark", "rank": 3, "art_hash": "h", "opacity": 0.5,
    "hidden": 0, "locked": 1,
}  # fmt: skip


def first_store(folder):
    """A store as the first version wrote it: a bone renamed from “stump”, a second part removed."""
    db = sqlite3.connect(folder / FILE_NAME)
    db.executescript(files("gaitwire.store").joinpath("migrations", "0001_first_light.sql").read_text())

    def put(table, row):
        db.execute(f"INSERT INTO {table} VALUES ({', '.join('?' * len(row))})", list(row.values()))

    db.execute("INSERT INTO documents VALUES ('p', 'puppet', 2, 0.0)")
    db.execute("INSERT INTO blobs VALUES ('h', 't', x'00')")
    db.execute("INSERT INTO puppets VALUES ('p', 'Oak', 100.0, 100.0, 0.0, 0.0)")
    put("bones", BONE)
    put("parts", PART)
    steps = [
        ("rename", "bones", "b", {**BONE, "name": "stump"}, BONE),
        ("remove parts", "parts", "twig", {**PART, "id": "twig", "name": "twig"}, None),
    ]
    for number, (label, table, row_id, before, after) in enumerate(steps, start=1):
        db.execute("INSERT INTO steps (id, label, made_at) VALUES (?, ?, 0.0)", (number, label))
        db.execute("INSERT INTO step_documents VALUES (?, 'p')", (number,))
        images = [None if image is None else json.dumps(image) for image in (before, after)]
        db.execute("INSERT INTO step_rows VALUES (?, ?, ?, ?, ?)", (number, table, row_id, *images))
    db.execute("PRAGMA user_version = 1")
    db.commit()
    db.close()


def test_a_store_of_the_first_version_keeps_its_puppets_and_its_way_back(tmp_path):
    first_store(tmp_path)
    store = Store(tmp_path)
    try:
        puppet = load_puppet(store, "p")
        assert (puppet.bones[0].name, puppet.bones[0].reach, puppet.bones[0].low) == ("trunk", 1.0, None)
        assert (puppet.parts[0].soft, puppet.parts[0].bends_with, puppet.parts[0].shows) == (False, (), 0)
        take_step(store, "p", "undo")
        assert {p.name for p in load_puppet(store, "p").parts} == {"bark", "twig"}
        take_step(store, "p", "undo")
        assert load_puppet(store, "p").bones[0].name == "stump"
        take_step(store, "p", "redo")
        take_step(store, "p", "redo")
        found = load_puppet(store, "p")
        assert (found.bones, found.parts) == (puppet.bones, puppet.parts)
    finally:
        store.close()
