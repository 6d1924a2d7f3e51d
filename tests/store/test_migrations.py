"""A store of an earlier version opens, shows what it held, and its history still goes both ways."""

import json
import sqlite3
from importlib.resources import files

from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.store import Store
from gaitwire.store.documents import load_puppet, load_scene
from gaitwire.store.history import take_step
from gaitwire.store.opening import FILE_NAME

BONE = {
    "id": "b", "puppet_id": "p", "name": "trunk", "parent_id": None, "rank": 0, "x": 5.0, "y": 6.0, "angle": -90.0,
    "length": 20.0, "region": "body", "side": "centre", "role": "torso", "hidden": 0, "locked": 0, "keep_volume": 1,
}  # fmt: skip
PART = {
    "id": "a", "puppet_id": "p", "bone_id": "b", "name": "bark", "rank": 3, "art_hash": "h", "opacity": 0.5,
    "hidden": 0, "locked": 1,
}  # fmt: skip


def older_store(folder, version):
    """An empty store as a version of the program made it, open."""
    scripts = sorted(p for p in files("gaitwire.store").joinpath("migrations").iterdir() if p.name.endswith(".sql"))
    db = sqlite3.connect(folder / FILE_NAME)
    for script in scripts[:version]:
        db.executescript(script.read_text())
    db.execute(f"PRAGMA user_version = {version}")
    return db


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


def test_a_store_of_the_second_version_keeps_its_keys_and_their_way_back(tmp_path):
    db = sqlite3.connect(tmp_path / FILE_NAME)
    for script in ("0001_first_light.sql", "0002_soft_parts.sql"):
        db.executescript(files("gaitwire.store").joinpath("migrations", script).read_text())
    db.execute("INSERT INTO documents VALUES ('s', 'scene', 1, 0.0)")
    db.execute("INSERT INTO scenes VALUES ('s', 'Dusk', 640, 360, 24, 24, 1, 1, 0, '#ffffff', NULL)")
    db.execute("INSERT INTO instances VALUES ('i', 's', 'p', 'Oak', 0, 0.0, 0.0, 1.0, 0, 0, 0, 0)")
    db.execute("INSERT INTO channels VALUES ('c', 's', 'i', 'bone', 'b', 'turn')")
    db.execute("INSERT INTO keys VALUES ('k', 'c', 3.0, 5.0, 'free', '[0.1, 2.0, 0.9, 1.0]')")
    row = {"id": "k", "channel_id": "c", "time": 3.0, "value": 1.0, "ease": "linear", "curve": None}
    db.execute("INSERT INTO steps (id, label, made_at) VALUES (1, 'pose', 0.0)")
    db.execute("INSERT INTO step_documents VALUES (1, 's')")
    after = {**row, "value": 5.0, "ease": "free", "curve": "[0.1, 2.0, 0.9, 1.0]"}
    db.execute("INSERT INTO step_rows VALUES (1, 'keys', 'k', ?, ?)", (json.dumps(row), json.dumps(after)))
    db.execute("PRAGMA user_version = 2")
    db.commit()
    db.close()
    store = Store(tmp_path)
    try:
        scene = load_scene(store, "s")
        assert (scene.bounce, scene.instances[0].exposure, scene.channels[0].repeat) == (False, 1, "")
        key = scene.keys[0]
        assert (key.value, key.curve, key.chart, key.stay, key.aside) == (5.0, (0.1, 2.0, 0.9, 1.0), (), False, False)
        assert key.excerpt is None
        take_step(store, "s", "undo")
        assert (load_scene(store, "s").keys[0].value, load_scene(store, "s").keys[0].ease) == (1.0, "linear")
        take_step(store, "s", "redo")
        assert load_scene(store, "s").keys[0] == key
    finally:
        store.close()


def test_limbs_of_the_sixteenth_version_leave_their_tips_as_they_did(tmp_path):
    db = older_store(tmp_path, 16)
    db.execute("INSERT INTO documents (id, kind, revision, touched_at) VALUES ('p', 'puppet', 1, 0.0)")
    db.execute("INSERT INTO puppets (id, name, width, height, base_x, base_y) VALUES ('p', 'Rake', 9.0, 9.0, 0.0, 0.0)")
    bone = {**BONE, "role": "foot"}
    db.execute(f"INSERT INTO bones ({', '.join(bone)}) VALUES ({', '.join('?' * len(bone))})", list(bone.values()))
    limb = {"id": "l", "puppet_id": "p", "name": "leg", "tip_id": "b", "whole": 0, "count": 2, "bend": 1,
            "stretch": 0.0, "softness": 0.0}  # fmt: skip
    db.execute(f"INSERT INTO limbs ({', '.join(limb)}) VALUES ({', '.join('?' * len(limb))})", list(limb.values()))
    db.execute("INSERT INTO steps (id, label, made_at) VALUES (1, 'make a limb', 0.0)")
    db.execute("INSERT INTO step_documents VALUES (1, 'p')")
    db.execute("INSERT INTO step_rows VALUES (1, 'limbs', 'l', NULL, ?)", (json.dumps(limb),))
    db.commit()
    db.close()
    store = Store(tmp_path)
    try:
        before = load_puppet(store, "p")
        assert [limb.steady for limb in before.limbs] == [False]
        take_step(store, "p", "undo")
        assert not load_puppet(store, "p").limbs
        take_step(store, "p", "redo")
        assert load_puppet(store, "p").limbs == before.limbs
    finally:
        store.close()


def test_puppets_of_the_seventeenth_version_are_eased_as_they_were(tmp_path):
    db = older_store(tmp_path, 17)
    db.execute("INSERT INTO documents (id, kind, revision, touched_at) VALUES ('s', 'scene', 1, 0.0)")
    db.execute(
        "INSERT INTO scenes (id, name, width, height, frames, rate_num, rate_den, loop, first_number, background)"
        " VALUES ('s', 'Noon', 640, 360, 96, 24, 1, 1, 0, '#ffffff')"
    )
    one = {"id": "i", "scene_id": "s", "puppet_id": "p", "name": "Oak", "depth": 0, "x": 0.0, "y": 0.0, "scale": 1.0,
           "turned": 0, "hidden": 0, "locked": 0, "backdrop": 0}  # fmt: skip
    db.execute(f"INSERT INTO instances ({', '.join(one)}) VALUES ({', '.join('?' * len(one))})", list(one.values()))
    db.row_factory = sqlite3.Row
    image = json.dumps(dict(db.execute("SELECT * FROM instances").fetchone()))
    db.execute("INSERT INTO steps (id, label, made_at) VALUES (1, 'bring in', 0.0)")
    db.execute("INSERT INTO step_documents VALUES (1, 's')")
    db.execute("INSERT INTO step_rows VALUES (1, 'instances', 'i', NULL, ?)", (image,))
    db.commit()
    db.close()
    store = Store(tmp_path)
    try:
        before = load_scene(store, "s").instances
        assert [i.holds for i in before] == [False]
        take_step(store, "s", "undo")
        take_step(store, "s", "redo")
        assert load_scene(store, "s").instances == before
    finally:
        store.close()


def test_turns_of_the_eighteenth_version_turn_as_one_as_they_did(tmp_path):
    db = older_store(tmp_path, 18)
    db.execute("INSERT INTO documents (id, kind, revision, touched_at) VALUES ('s', 'scene', 1, 0.0)")
    db.execute(
        "INSERT INTO scenes (id, name, width, height, frames, rate_num, rate_den, loop, first_number, background)"
        " VALUES ('s', 'Noon', 640, 360, 96, 24, 1, 1, 0, '#ffffff')"
    )
    db.execute(
        "INSERT INTO instances (id, scene_id, puppet_id, name, depth, x, y, scale, turned, hidden, locked, backdrop)"
        " VALUES ('i', 's', 'p', 'Oak', 0, 0.0, 0.0, 1.0, 0, 0, 0, 0)"
    )
    turn = {"id": "t", "scene_id": "s", "instance_id": "i", "time": 12.0, "frames": 6.0}
    db.execute("INSERT INTO turns VALUES ('t', 's', 'i', 12.0, 6.0)")
    db.execute("INSERT INTO steps (id, label, made_at) VALUES (1, 'turn round', 0.0)")
    db.execute("INSERT INTO step_documents VALUES (1, 's')")
    db.execute("INSERT INTO step_rows VALUES (1, 'turns', 't', NULL, ?)", (json.dumps(turn),))
    db.commit()
    db.close()
    store = Store(tmp_path)
    try:
        before = load_scene(store, "s").turns
        assert [(t.manner, t.frames) for t in before] == [("whole", 6.0)]
        take_step(store, "s", "undo")
        assert not load_scene(store, "s").turns
        take_step(store, "s", "redo")
        assert load_scene(store, "s").turns == before
    finally:
        store.close()


def test_walks_and_phrases_of_the_fifteenth_version_go_on_as_they_did(tmp_path):
    """They stood before their start and went round loops; new ones change nothing before it."""
    db = older_store(tmp_path, 15)
    card = CHARACTERS["plain"].model_dump_json()
    db.execute("INSERT INTO documents (id, kind, revision, touched_at) VALUES ('s', 'scene', 1, 0.0)")
    db.execute(
        "INSERT INTO scenes (id, name, width, height, frames, rate_num, rate_den, loop, first_number, background)"
        " VALUES ('s', 'Dusk', 640, 360, 96, 24, 1, 1, 0, '#ffffff')"
    )
    db.execute(
        "INSERT INTO instances (id, scene_id, puppet_id, name, depth, x, y, scale, turned, hidden, locked, backdrop)"
        " VALUES ('i', 's', 'p', 'Oak', 0, 0.0, 0.0, 1.0, 0, 0, 0, 0)"
    )
    walk = {
        "id": "w",
        "scene_id": "s",
        "instance_id": "i",
        "start": 48.0,
        "stop": 90.0,
        "card": card,
        "travels": 0,
        "begins": 0.0,
        "slope": 0.0,
        "pace": "clock",
    }
    use = {"id": "u", "scene_id": "s", "instance_id": "i", "source": "nod", "phrase": None, "settings": "{}", "start": 90.0,
           "begins": 0.0, "ends": None, "pace": 1.0, "amount": 1.0, "repeats": 1, "fade_in": 0.0, "fade_out": 0.0,
           "goes_on": 0, "still": 0.0, "other_side": 0}  # fmt: skip
    for table, row in (("gaits", walk), ("phrase_uses", use)):
        db.execute(f"INSERT INTO {table} ({', '.join(row)}) VALUES ({', '.join('?' * len(row))})", list(row.values()))
    db.execute("INSERT INTO steps (id, label, made_at) VALUES (1, 'lay', 0.0)")
    db.execute("INSERT INTO step_documents VALUES (1, 's')")
    db.execute("INSERT INTO step_rows VALUES (1, 'gaits', 'w', NULL, ?)", (json.dumps(walk),))
    db.execute("INSERT INTO step_rows VALUES (1, 'phrase_uses', 'u', NULL, ?)", (json.dumps(use),))
    db.commit()
    db.close()
    store = Store(tmp_path)
    try:
        scene = load_scene(store, "s")
        assert scene.gaits[0].stands_before and scene.phrase_uses[0].around
        assert scene.phrase_uses[0].change_in is None
        take_step(store, "s", "undo")
        assert not load_scene(store, "s").gaits
        take_step(store, "s", "redo")
        again = load_scene(store, "s")
        assert (again.gaits, again.phrase_uses) == (scene.gaits, scene.phrase_uses)
    finally:
        store.close()
