"""Sounds on a scene: laid, placed, cut at both ends so that what is left stays, undone; bad ones refused whole."""

import numpy as np
import pytest

from gaitwire.core.errors import InvalidInputError, NotFoundError, UnreadableArtError
from gaitwire.formats.sound_files import read_samples, write_wav
from gaitwire.services.scene.floor import make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.sounds import (
    LEAST,
    add_sounds,
    drag_sound,
    find_sound,
    remove_sound,
    sound_rows,
    update_sound,
)
from gaitwire.store.blobs import get_blob
from gaitwire.store.documents import discard
from gaitwire.store.history import SHELF, take_step


def beep(seconds=2.0):
    t = np.arange(round(seconds * 48_000)) / 48_000
    return write_wav(np.rint(9000 * np.sin(2 * np.pi * 330 * t)).astype(np.int16)[None])


@pytest.fixture
def floor(workspace):
    return Floor(workspace, make_scene(workspace, "Sounds", frames=96, loop=False))


def test_sounds_are_laid_from_a_frame_on_and_undone(floor):
    made = add_sounds(floor, {"one.wav": beep(), "two.wav": beep(1.0)}, 12.0)
    first, second = floor.scene.sounds
    assert [first.id, second.id] == made
    assert (first.name, first.start, first.seconds, second.seconds) == ("one", 12, 2.0, 1.0)
    assert first.frames(24) == 48
    kept = get_blob(floor.workspace.store, first.blob)
    assert kept.media_type == "audio/flac" and np.array_equal(read_samples(kept.data), read_samples(beep()))
    take_step(floor.workspace.store, floor.scene_id, "undo")
    assert not floor.scene.sounds
    take_step(floor.workspace.store, floor.scene_id, "redo")
    assert floor.scene.sounds == (first, second)


def test_ends_are_cut_so_that_what_is_left_stays_where_it_is_heard(floor):
    (made,) = add_sounds(floor, {"one.wav": beep()}, 10.0)
    drag_sound(floor, made, "in", 6.0)
    drag_sound(floor, made, "out", -12.0)
    sound = find_sound(floor, made)
    assert (sound.start, sound.cut_in, sound.cut_out) == pytest.approx((16, 0.25, 0.5))
    drag_sound(floor, made, "", -4.0)
    moved = find_sound(floor, made)
    assert (moved.start, moved.cut_in, moved.left) == pytest.approx((12, 0.25, 1.25))
    drag_sound(floor, made, "in", -500.0)
    drag_sound(floor, made, "out", 500.0)
    whole = find_sound(floor, made)
    assert (whole.start, whole.cut_in, whole.cut_out) == pytest.approx((6, 0, 0)), "no further than the sound goes"
    drag_sound(floor, made, "in", 500.0)
    assert find_sound(floor, made).left == pytest.approx(LEAST)


def test_settings_are_held_to_what_can_be(floor):
    (made,) = add_sounds(floor, {"one.wav": beep()})
    update_sound(floor, made, {"volume": 0.5, "muted": True, "name": "  a beep "})
    sound = find_sound(floor, made)
    assert (sound.volume, sound.muted, sound.name) == (0.5, True, "a beep")
    for values in ({"cut_in": 2.0}, {"cut_in": -0.1}, {"volume": 9.0}, {"name": ""}, {"start": 1e9}):
        with pytest.raises(InvalidInputError):
            update_sound(floor, made, values)
    assert find_sound(floor, made) == sound
    remove_sound(floor, made)
    with pytest.raises(NotFoundError, match="not in the scene"):
        remove_sound(floor, made)


def test_if_one_cannot_be_read_none_is_kept(floor):
    with pytest.raises(UnreadableArtError, match="cannot be read"):
        add_sounds(floor, {"one.wav": beep(), "two.mp3": b"nothing of the kind"})
    assert not floor.scene.sounds


def test_a_row_says_where_it_lies_and_draws_its_waveform(floor):
    (made,) = add_sounds(floor, {"one.wav": beep()}, 24.0)
    update_sound(floor, made, {"cut_in": 0.5})
    (row,) = sound_rows(floor.workspace, floor.scene)
    assert (row.start, row.long, row.left, row.wide) == pytest.approx((24, 36, 50, 150))
    numbers = np.array(row.path[1:-1].split(), float).reshape(-1, 2)
    assert len(numbers) == 400 and numbers[:, 0].max() == 199.5
    assert np.abs(numbers[:, 1]).max() == pytest.approx(9000 / 32768, abs=0.01)


def test_a_scene_taken_off_the_shelf_takes_its_sounds_along(floor):
    add_sounds(floor, {"one.wav": beep()})
    before, workspace = floor.scene.sounds, floor.workspace
    with workspace.edit("take off", [floor.scene_id, SHELF]) as edit:
        discard(edit, "scene", floor.scene_id)
    assert not workspace.store.rows("SELECT * FROM sounds")
    take_step(workspace.store, SHELF, "undo")
    assert floor.scene.sounds == before
