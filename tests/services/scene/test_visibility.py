"""What is shown: whole puppets that fade as one picture, several bones at once, one thing in the place of another."""

import numpy as np
import pytest

from builders.acting import Cast
from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.formats.exporting import ExportSettings
from gaitwire.formats.raster.paper import Raster
from gaitwire.services.output.sendoff import prepare
from gaitwire.services.scene.floor import update_instance
from gaitwire.services.scene.poses import key_whole_pose
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.visibility import seen_of, show_only, shown_at, shown_spans, swap_nodes
from gaitwire.web.routers.floor.visibility import read_spans


@pytest.fixture
def cast(orchard):
    return Cast(orchard)


def seen(cast, owner):
    """On which frames a part, or all of a puppet, is seen."""
    frames = cast.at(*range(48))
    mine = [n for n, key in enumerate(frames.part_keys) if owner in key]
    return np.flatnonzero((frames.opacity[:, mine] > 0).all(axis=1)).tolist()


def parts_on(cast, *bones):
    puppet = cast.workspace.puppet(cast.floor.instance(cast.who).puppet_id)
    return [p.id for p in puppet.parts if p.bone_id in {cast.bones[b].id for b in bones}]


def test_a_whole_puppet_fades_as_one_picture(cast):
    for frame, opacity in ((0.0, 1.0), (20.0, 0.5)):
        set_values(cast.floor, frame, {(cast.who, cast.who, "opacity"): opacity})
    set_values(cast.floor, 0.0, {(cast.pip, cast.pip, "shown"): 0.0})
    production = prepare(cast.workspace, cast.floor.scene_id, ExportSettings(background=False))
    raster = Raster(production.arts, production.size, meshes=production.compiled.meshes)
    full, half = (raster.draw(production.frames, n)[..., 3] for n in (0, 20))
    # Where parts lie over each other nothing shines through: all of it is half there.
    assert full.max() == 255 and abs(int(half.max()) - 128) <= 1 and (half[full == 255] >= 126).all()


def test_what_is_not_opaque_or_not_shown_as_a_whole_is_not_there_at_all(cast):
    for frame, prop, value in ((0.0, "shown", 1.0), (10.0, "shown", 0.0), (20.0, "shown", 1.0), (20.0, "opacity", 1.0)):
        set_values(cast.floor, frame, {(cast.pip, cast.pip, prop): value})
    set_values(cast.floor, 30.0, {(cast.pip, cast.pip, "opacity"): 0.0})
    assert seen(cast, cast.pip) == [*range(10), *range(20, 30)]
    assert seen(cast, cast.who) == list(range(48))
    assert shown_at(cast.floor, [(cast.pip, cast.pip)], 12.0).shown is False
    assert shown_spans(cast.floor, (cast.pip, cast.pip)) == ((0, 9), (20, 47))


def test_several_bones_show_on_spans_and_say_what_they_share(cast):
    chosen = [cast.node("near hand"), cast.node("far hand"), cast.node("face")]
    show_only(cast.floor, chosen, read_spans("9-12, 21 – 22; 40", 1))
    for part in parts_on(cast, "near hand", "far hand", "face"):
        assert seen(cast, part) == [8, 9, 10, 11, 20, 21, 39]
    told = shown_at(cast.floor, chosen, 8.0)
    assert (told.shown, told.opacity, told.keyed) == (True, 1.0, {"shown"})
    assert told.spans == ((8, 11), (20, 21), (39, 39))
    (hand,) = parts_on(cast, "near hand")
    set_values(cast.floor, 8.0, {(cast.who, hand, "opacity"): 0.25, (cast.who, hand, "shown"): 0.0})
    mixed = shown_at(cast.floor, chosen, 8.0)
    assert (mixed.shown, mixed.opacity, mixed.spans) == (None, None, None)
    assert shown_at(cast.floor, [cast.node("pelvis")], 0.0) is not None and seen_of(cast.floor, []) == []


@pytest.mark.parametrize("text", ["8-", "a-b", "1 2", "8--9-", "9999999"])
def test_what_are_no_frames_is_told(text):
    with pytest.raises(InvalidInputError, match="are no frames"):
        read_spans(text, 0)


def test_one_takes_the_place_of_another_from_a_frame_on(cast):
    pip, who = (cast.pip, cast.pip), (cast.who, cast.who)
    assert swap_nodes(cast.floor, who, pip, 12.0) is True  # Pip was always there, and is hidden before
    assert seen(cast, cast.who) == list(range(12)) and seen(cast, cast.pip) == list(range(12, 48))
    assert swap_nodes(cast.floor, pip, who, 30.0) is False
    assert seen(cast, cast.who) == [*range(12), *range(30, 48)] and seen(cast, cast.pip) == list(range(12, 30))
    cast.undo()
    assert seen(cast, cast.who) == list(range(12))
    with pytest.raises(InvalidInputError, match="its own place"):
        swap_nodes(cast.floor, who, who, 3.0)
    with pytest.raises(InvalidInputError, match="Only parts"):
        swap_nodes(cast.floor, cast.node("face"), who, 3.0)
    update_instance(cast.floor, cast.pip, locked=True)
    with pytest.raises(LockedError):
        swap_nodes(cast.floor, who, pip, 40.0)


def test_a_swap_changes_marked_poses_from_there_on_and_none_before(cast):
    cast.key(0.0, "face", 5.0)
    for frame in (6.0, 24.0):
        key_whole_pose(cast.floor, cast.who, frame)
    face, ear = parts_on(cast, "face")[0], parts_on(cast, "ear")[0]
    swap_nodes(cast.floor, (cast.who, face), (cast.who, ear), 12.0)
    assert seen(cast, face) == list(range(12)) and seen(cast, ear) == list(range(12, 48))


def test_a_puppet_on_twos_takes_the_place_with_its_picture(cast):
    update_instance(cast.floor, cast.pip, exposure=2)
    swap_nodes(cast.floor, (cast.who, cast.who), (cast.pip, cast.pip), 13.0)
    assert seen(cast, cast.pip) == list(range(12, 48)) and seen(cast, cast.who) == list(range(13))
