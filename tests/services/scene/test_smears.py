"""Smears on the Floor: one frame shows them and no other, meshes stay as they are, and one undo takes all back."""

import numpy as np
import pytest
from shapely.geometry import Point

from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.outline import art_region
from gaitwire.services.scene.floor import add_puppet, make_scene, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.smears import Smear, smear_parts
from gaitwire.store.history import take_step

FRAMES = np.arange(24.0)
SWING = {2: 60.0, 8: 60.0, 11: -60.0, 20: -60.0}


def staged(orchard, name, bone, values, **place):
    """A scene in which one bone of a puppet swings."""
    puppet = id_of(orchard, "puppet", name)
    floor = Floor(orchard, make_scene(orchard, "Swings", frames=24, loop=False))
    floor.who = add_puppet(floor, puppet, x=600.0, y=640.0, **place)
    floor.bones = {b.name: b.id for b in orchard.puppet(puppet).bones}
    floor.known = {r.id for r in orchard.puppet(puppet).replacements}
    for frame, value in values.items():
        set_values(floor, frame, {(floor.who, floor.bones[bone], "turn"): value})
    return floor


@pytest.fixture
def floor(orchard):
    """Tamsin's arm comes down within three frames."""
    return staged(orchard, "Tamsin", "near upper arm", SWING)


def shown(floor):
    """What every part shows on every frame: {part: (F,) numbers of drawings}."""
    frames = floor.workspace.frames(floor.scene_id, FRAMES)
    puppet = floor.workspace.puppet(floor.instance(floor.who).puppet_id)
    return {
        puppet.part(part).name: [puppet.drawings(puppet.part(part))[d].number for d in frames.drawing[:, n]]
        for n, (_, part) in enumerate(frames.part_keys)
    }


def smears(floor):
    """The smears that were made, by the name of their part."""
    puppet = floor.workspace.puppet(floor.instance(floor.who).puppet_id)
    made = [r for r in puppet.replacements if r.id not in floor.known]
    assert all(r.smear for r in made)
    return {puppet.part(r.part_id).name: r for r in made}


def arm(floor):
    return [(floor.who, floor.bones["near upper arm"])]


def test_one_frame_shows_a_smear_and_nothing_else_changes_until_it_is_undone(floor):
    workspace, puppet_id = floor.workspace, floor.instance(floor.who).puppet_id
    before = workspace.frames(floor.scene_id, FRAMES)
    was, puppet, keys = shown(floor), workspace.puppet(puppet_id), floor.scene.keys
    assert smear_parts(floor, arm(floor), 9, Smear()) == ["near sleeve", "near hand"]
    made = smears(floor)
    assert set(made) == {"near sleeve", "near hand"}
    for name, numbers in shown(floor).items():
        expected = list(was[name])
        if name in ("near sleeve", "near hand"):
            expected[9] = made[name].number
        assert numbers == expected, name
    after = workspace.frames(floor.scene_id, FRAMES)
    assert np.array_equal(after.matrices, before.matrices)
    take_step(workspace.store, floor.scene_id, "undo")
    assert workspace.puppet(puppet_id).replacements == puppet.replacements and floor.scene.keys == keys
    take_step(workspace.store, floor.scene_id, "redo")
    assert set(smears(floor)) == set(made)


def test_it_covers_where_the_part_was_and_where_it_is(floor):
    smear_parts(floor, arm(floor), 9, Smear(frames=1.0, tail=1.0))
    frames = floor.workspace.frames(floor.scene_id, np.array([8.0, 8.5, 9.0]))
    puppet = floor.workspace.puppet(floor.instance(floor.who).puppet_id)
    hand = next(p for p in puppet.parts if p.name == "near hand")
    at = frames.part_keys.index((floor.who, hand.id))
    now = frames.drawing[0, at]
    own = art_region([floor.workspace.art(puppet.drawings(hand)[now].art_hash)], floor.workspace.skins.mask)
    made = floor.workspace.art(smears(floor)["near hand"].art_hash)
    region = art_region([made], floor.workspace.skins.mask).buffer(0.6)
    last = np.vstack([frames.matrices[2, at].reshape(3, 2).T, (0, 0, 1)])
    for n in range(3):
        then = np.linalg.inv(last) @ np.vstack([frames.matrices[n, at].reshape(3, 2).T, (0, 0, 1)])
        middle = then @ (own.centroid.x, own.centroid.y, 1)
        assert region.contains(Point(middle[:2]))
    assert region.area > 1.5 * own.area


def test_a_soft_parts_mesh_takes_no_notice_and_its_smear_does_not_bend(floor):
    workspace, puppet_id = floor.workspace, floor.instance(floor.who).puppet_id

    def skin():
        puppet = workspace.puppet(puppet_id)
        return workspace.skins.skin(puppet, next(p for p in puppet.parts if p.name == "near sleeve"))

    mesh = skin().body.mesh
    before = workspace.frames(floor.scene_id, FRAMES)
    smear_parts(floor, arm(floor), 9, Smear())
    bent = skin()
    assert np.array_equal(bent.body.mesh.vertices, mesh.vertices)
    after = workspace.frames(floor.scene_id, FRAMES)
    at = after.part_keys.index((floor.who, bent.part_id))
    slot, old = after.soft[at], before.soft[at]
    number = len(slot.starts) - 1
    rest = bent.rest[slot.vertices + slot.starts[number] :]
    for frame in range(24):
        found = after.points[frame, slot.drawing(number)] @ [1, 1j]
        assert np.abs(found - rest).max() < 1e-3
    assert np.array_equal(after.points[:, slot.drawing(0)], before.points[:, old.drawing(0)])


def test_made_again_on_its_frame_it_is_drawn_anew_and_another_frame_gets_its_own(floor):
    smear_parts(floor, arm(floor), 9, Smear())
    first, keys = smears(floor), len(floor.scene.keys)
    smear_parts(floor, arm(floor), 9, Smear("drawn out", keep=1.0))
    again = smears(floor)
    assert set(again) == set(first) and len(floor.scene.keys) == keys
    assert all(again[n].number == first[n].number and again[n].art_hash != first[n].art_hash for n in first)
    smear_parts(floor, arm(floor), 10, Smear())
    row = shown(floor)["near hand"]
    assert row[8] == row[11] and len({row[8], row[9], row[10]}) == 3


def test_on_twos_it_is_shown_as_long_as_a_picture_and_covers_that_way(orchard):
    floor = staged(orchard, "Tamsin", "near upper arm", SWING, exposure=2)
    smear_parts(floor, arm(floor), 11, Smear())
    row = shown(floor)["near hand"]
    number = smears(floor)["near hand"].number
    assert [n for n in range(24) if row[n] == number] == [10, 11]


def test_in_a_loop_the_last_frame_gives_way_to_the_first(orchard):
    floor = staged(orchard, "Tamsin", "near upper arm", {0: -60.0, 12: 60.0, 21: 60.0})
    update_scene(floor, loop=True)
    smear_parts(floor, arm(floor), 23, Smear())
    row = shown(floor)["near hand"]
    assert [n for n in range(24) if row[n] != row[0]] == [23]


def test_a_puppet_that_stands_there_twice_is_smeared_twice(floor):
    bone = floor.bones["near upper arm"]
    twin = add_puppet(floor, floor.instance(floor.who).puppet_id, x=300.0, y=640.0)
    for frame, value in SWING.items():
        set_values(floor, frame, {(twin, bone, "turn"): -value})
    names = smear_parts(floor, [(floor.who, bone), (twin, bone)], 9, Smear())
    assert names == ["near sleeve", "near hand"] * 2
    puppet = floor.workspace.puppet(floor.instance(twin).puppet_id)
    made = [r for r in puppet.replacements if r.id not in floor.known]
    assert len({(r.part_id, r.number) for r in made}) == 4 and len({r.art_hash for r in made}) == 4


def test_all_of_a_puppet_is_smeared_but_its_shadow(orchard):
    floor = staged(orchard, "Pip", "leaf", {0: 0.0})
    for frame, down in ((2, -200.0), (8, -200.0), (10, 0.0)):
        set_values(floor, frame, {(floor.who, floor.who, "shift_y"): down})
    names = smear_parts(floor, [(floor.who, floor.who)], 9, Smear("drawn out", keep=1.0))
    assert set(names) == {"apple", "stem", "leaf", "eyes", "mouth"}


def test_pictures_that_bend_are_swept_by_the_rim_of_their_mesh(orchard):
    floor = staged(orchard, "Gander", "body", {2: 0.0, 8: 0.0, 10: 50.0})
    names = smear_parts(floor, [(floor.who, floor.bones["body"])], 9, Smear())
    assert "neck" in " ".join(names)
    with pytest.raises(InvalidInputError, match="picture that bends"):
        smear_parts(floor, [(floor.who, floor.bones["body"])], 9, Smear("drawn out"))


@pytest.mark.parametrize(
    ("frame", "wanted", "said"),
    [
        (4, Smear(), "comes far enough"), (9, Smear(frames=0.0), "up to 12 frames"),
        (9, Smear(tail=1.5), "share from 0 to 100"), (9, Smear("blurred"), "no such smear"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_and_nothing_is_stored(floor, frame, wanted, said):
    before = floor.scene
    with pytest.raises(InvalidInputError, match=said):
        smear_parts(floor, arm(floor), frame, wanted)
    assert floor.scene == before and not smears(floor)
