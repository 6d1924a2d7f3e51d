"""Puppet archives: out and in again without a loss, and files that are refused whole."""

import io
import json
import shutil
import zipfile

import jsonschema
import numpy as np
import pytest

from conftest import KNOWN
from gaitwire.core.errors import UnreadableArtError
from gaitwire.core.evaluate import evaluate
from gaitwire.formats.archive import SUFFIX, VERSION, schema_text
from gaitwire.services.library.archives import pack_puppet
from gaitwire.services.library.bringing_in import bring_in
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.drawings import Drawings
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.documents import list_documents


@pytest.fixture(scope="module")
def rigged_folder(orchard_folder, tmp_path_factory):
    """Tamsin with a soft, pinned and brushed scarf, limbs and a second mouth."""
    folder = tmp_path_factory.mktemp("rigged")
    shutil.copytree(orchard_folder, folder, dirs_exist_ok=True)
    store = Store(folder)
    workspace = Workspace(store, KNOWN)
    made = next(e.id for e in list_documents(store, "puppet") if e.name == "Tamsin")
    puppet = workspace.puppet(made)
    scarf = next(p for p in puppet.parts if p.name == "scarf tail")
    mouth = next(p for p in puppet.parts if p.name == "mouth")
    soft = Softening(workspace, made)
    soft.soften([scarf.id])
    x, y = workspace.art(scarf.art_hash).bounds.centre
    soft.place_pin(scarf.id, "lead", x, y)
    chest = next(b.id for b in puppet.bones if b.role == "chest")
    soft.bend_with(scarf.id, [chest])
    soft.brush(scarf.id, chest, [(x, y)], 30.0, 0.4)
    Drawings(workspace, made).copy(mouth.id)
    bench = Bench(workspace, made)
    bench.update_bones([chest], {"low": -30.0, "tag": "moss", "reach": 1.5})
    store.close()
    return folder, made


@pytest.fixture
def rigged(rigged_folder, tmp_path):
    folder, made = rigged_folder
    shutil.copytree(folder, tmp_path / "store")
    store = Store(tmp_path / "store")
    yield Workspace(store, KNOWN), made
    store.close()


def entries(data):
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def changed(data, **parts):
    """The archive with another puppet.json; each value is a function of what stands there."""
    files = entries(data)
    raw = json.loads(files["puppet.json"])
    for key, work in parts.items():
        raw[key] = work(raw.get(key))
    return packed(files | {"puppet.json": json.dumps(raw).encode()})


def packed(files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return out.getvalue()


def test_a_puppet_opened_and_packed_again_is_the_same_file(rigged):
    workspace, made = rigged
    data = pack_puppet(workspace, made)
    came = bring_in(workspace, data, f"tamsin{SUFFIX}")
    assert came.puppet_id != made
    assert came.name == "Tamsin 2"
    again = pack_puppet(workspace, came.puppet_id)
    first, second = entries(data), entries(again)
    assert first.keys() == second.keys()
    assert second["puppet.json"].replace(b'"name": "Tamsin 2"', b'"name": "Tamsin"') == first["puppet.json"]
    assert {n: d for n, d in first.items() if n != "puppet.json"} == {
        n: d for n, d in second.items() if n != "puppet.json"
    }


def test_an_opened_puppet_poses_as_the_packed_one_does(rigged):
    workspace, made = rigged
    came = bring_in(workspace, pack_puppet(workspace, made), "x.zip").puppet_id
    found = []
    for puppet_id in (made, came):
        chest = next(b.id for b in workspace.puppet(puppet_id).bones if b.role == "chest")
        pose = {(puppet_id, chest, "turn"): 25.0}
        found.append(evaluate(workspace.compiled_puppet(puppet_id), np.zeros(1), pose))
    assert found[0].points == pytest.approx(found[1].points, abs=1e-4)
    assert found[0].matrices == pytest.approx(found[1].matrices)


def test_the_schema_is_published_and_every_archive_keeps_to_it(rigged, pytestconfig):
    workspace, made = rigged
    published = (pytestconfig.rootpath / "docs" / "puppet-archive.schema.json").read_text()
    assert published == schema_text(), "run: gaitwire schema > docs/puppet-archive.schema.json"
    files = entries(pack_puppet(workspace, made))
    assert files["puppet.schema.json"].decode() == published
    jsonschema.Draft202012Validator.check_schema(json.loads(published))
    jsonschema.validate(json.loads(files["puppet.json"]), json.loads(published))
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"format": "gaitwire puppet", "version": 1}, json.loads(published))


def test_an_archive_of_the_second_version_opens_and_its_feet_do_as_they_did(rigged):
    """Its limbs say nothing of angles that are kept."""
    workspace, made = rigged
    assert any(limb.steady for limb in workspace.puppet(made).limbs)

    def of_then(puppet):
        return {**puppet, "limbs": [{k: v for k, v in limb.items() if k != "steady"} for limb in puppet["limbs"]]}

    old = changed(pack_puppet(workspace, made), version=lambda _: 2, puppet=of_then)
    came = workspace.puppet(bring_in(workspace, old, "x.zip").puppet_id)
    assert len(came.limbs) == len(workspace.puppet(made).limbs) and not any(limb.steady for limb in came.limbs)


def test_the_drawings_inside_are_svg_that_can_be_brought_in(rigged):
    workspace, made = rigged
    files = entries(pack_puppet(workspace, made))
    drawings = [name for name in files if name.startswith("drawings/")]
    assert len(drawings) == len(workspace.puppet(made).parts) + len(workspace.puppet(made).replacements)
    for name in drawings[::6]:
        assert bring_in(workspace, files[name], "one.svg").puppet_id


def drop_art(art):
    return dict(list(art.items())[1:])


def ring(puppet):
    bones = {b["id"]: b for b in puppet["bones"]}
    bones["bone1"]["parent_id"] = "bone2"
    return puppet


def script(art):
    first = next(iter(art.values()))
    first["nodes"][0]["d"] = 'M0 0"/><script>1</script>'
    return art


def far_off(art):
    first = next(iter(art.values()))
    first["nodes"][0] = {"kind": "shape", "d": "M0 0L99999999999 0Z", "fill": {"kind": "solid", "color": "#000000"}}
    return art


def broken_path(art):
    first = next(iter(art.values()))
    first["nodes"][0] = {"kind": "shape", "d": "M0 0C1 1 2", "fill": {"kind": "solid", "color": "#000000"}}
    return art


REFUSED = {
    "a newer version": ({"version": lambda _: VERSION + 1}, "newer Gait Wire"),
    "another format": ({"format": lambda _: "something"}, "no puppet archive"),
    "an unknown field": ({"extra": lambda _: 1}, "not as it should be"),
    "missing art": ({"art": drop_art}, "does not hold"),
    "a ring of bones": ({"puppet": ring}, "does not hold"),
    "a script in a path": ({"art": script}, "not as it should be"),
    "a path off the page": ({"art": far_off}, "off any page"),
    "a path cut short": ({"art": broken_path}, "cannot be drawn"),
}


@pytest.mark.parametrize("name", REFUSED)
def test_an_archive_that_is_not_sound_is_refused_and_nothing_stored(rigged, name):
    workspace, made = rigged
    parts, says = REFUSED[name]
    before = list_documents(workspace.store, "puppet")
    with pytest.raises(UnreadableArtError, match=says):
        bring_in(workspace, changed(pack_puppet(workspace, made), **parts), "x.zip")
    assert list_documents(workspace.store, "puppet") == before


def test_a_damaged_file_in_it_is_refused(rigged):
    workspace, made = rigged
    files = entries(pack_puppet(workspace, made))
    with pytest.raises(UnreadableArtError, match="damaged"):
        bring_in(workspace, packed(files | {"puppet.json": b"{"}), "x.zip")
    with pytest.raises(UnreadableArtError, match="leads out"):
        bring_in(workspace, packed(files | {"../puppet.json": b"{}"}), "x.zip")
