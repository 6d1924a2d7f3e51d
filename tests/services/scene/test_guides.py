"""Guides: pictures and runs laid, a stride of the wire figure, what is refused; the grid that catches."""

import io
from itertools import pairwise

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from gaitwire.core.errors import InvalidInputError, UnreadableArtError
from gaitwire.core.walk.build import ADULT
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.figure import walk_figure
from gaitwire.core.walk.stride import Stride
from gaitwire.formats.exporting import ExportSettings
from gaitwire.services.library.art_in import import_art
from gaitwire.services.output.sendoff import prepare
from gaitwire.services.output.stills import scene_still
from gaitwire.services.scene.floor import add_puppet, make_scene, update_instance, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.guides import add_guide_files, add_stride_guide, remove_guide, update_guide
from gaitwire.store.blobs import get_blob
from gaitwire.store.history import take_step


def png(color, size=(40, 30)):
    out = io.BytesIO()
    Image.new("RGB", size, color).save(out, "PNG")
    return out.getvalue()


@pytest.fixture
def floor(workspace):
    return Floor(workspace, make_scene(workspace, "Trial", ground=648.0))


def test_pictures_are_a_run_in_the_order_of_their_numbers(floor):
    add_guide_files(floor, {"walk_10.png": png("red"), "walk_2.png": png("blue"), "walk_1.png": png("green")})
    (guide,) = floor.scene.guides
    colors = [Image.open(io.BytesIO(get_blob(floor.workspace.store, h).data)).getpixel((3, 3)) for h in guide.pictures]
    assert colors == [(0, 128, 0), (0, 0, 255), (255, 0, 0)]
    assert (guide.width, guide.height, guide.x, guide.y) == (40, 30, 640, 360)
    update_guide(floor, guide.id, {"start": 12.0, "opacity": 0.25, "over": True})
    assert floor.scene.guides[0].start == 12
    take_step(floor.workspace.store, floor.scene_id, "undo")
    assert floor.scene.guides[0].over is False
    remove_guide(floor, guide.id)
    assert floor.scene.guides == ()


def test_what_is_no_picture_is_refused_and_nothing_is_laid(floor):
    with pytest.raises(UnreadableArtError):
        add_guide_files(floor, {"a.png": b"no picture at all"})
    with pytest.raises(InvalidInputError, match="opacity"):
        add_guide_files(floor, {"a.png": png("red")})
        update_guide(floor, floor.scene.guides[0].id, {"opacity": 3})


def test_a_stride_has_as_many_pictures_as_frames_and_stands_on_the_ground(floor):
    add_stride_guide(floor, 16, turned=True)
    (guide,) = floor.scene.guides
    assert len(set(guide.pictures)) == 16 and guide.loops and guide.turned
    last = np.asarray(Image.open(io.BytesIO(get_blob(floor.workspace.store, guide.pictures[3]).data)))
    lowest = np.flatnonzero(last[..., 3].any(axis=1)).max()  # the ground's line
    on_stage = guide.y + (lowest - guide.height / 2) * guide.scale
    assert on_stage == pytest.approx(648, abs=6)
    with pytest.raises(InvalidInputError, match="4 to 240"):
        add_stride_guide(floor, 2)


@given(st.floats(0, 1))
def test_the_figure_keeps_its_lengths_and_one_foot_on_the_ground(share):
    stride = Stride(GaitCard())
    frame = walk_figure(stride, share)
    for leg in (frame.near[0], frame.far[0]):
        lengths = [np.hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(leg[:3])]
        assert lengths == pytest.approx([ADULT.thigh, ADULT.shank], rel=0.006)
        assert max(y for _, y in leg) <= 1e-9
    assert max(y for leg in (frame.near[0], frame.far[0]) for _, y in leg) == pytest.approx(0, abs=1e-9)
    other = walk_figure(stride, share + 0.5)
    assert np.allclose(frame.near[0], other.far[0], atol=1e-6)  # the other leg does the same half a stride later


BLOCK = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 300"><rect width="100" height="300" fill="#803010"/></svg>'


def film(rate, frames, size=(64, 48)):
    """An MP4 whose frames get brighter, as many steps as there are frames."""
    out = io.BytesIO()
    with av.open(out, "w", format="mp4") as made:
        stream = made.add_stream("mpeg4", rate=rate)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        for n in range(frames):
            picture = np.full((size[1], size[0], 3), 20 + 200 * n // (frames - 1), np.uint8)
            made.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="rgb24")))
        made.mux(stream.encode())
    return out.getvalue()


def brightness(floor, digest):
    return np.asarray(Image.open(io.BytesIO(get_blob(floor.workspace.store, digest).data))).mean()


def test_a_film_shows_on_each_frame_what_it_shows_at_that_time(floor):
    add_guide_files(floor, {"trial walk.mp4": film(12, 12)})  # one second, in a scene of 24 frames a second
    (guide,) = floor.scene.guides
    assert (guide.name, len(guide.pictures), guide.width) == ("trial walk", 24, 64)
    shades = [brightness(floor, h) for h in guide.pictures]
    assert shades[0] == pytest.approx(20, abs=3) and shades[-1] == pytest.approx(220, abs=3)
    assert shades[::2] == shades[1::2]  # each of its pictures stays for two frames
    update_scene(floor, rate_num=8)
    add_guide_files(floor, {"slow.mp4": film(24, 48)})
    slow = next(g for g in floor.scene.guides if g.name == "slow")
    assert len(slow.pictures) == 16  # two seconds at 8 frames a second: every third picture
    assert brightness(floor, slow.pictures[5]) == pytest.approx(20 + 200 * 15 // 47, abs=3)


@pytest.mark.parametrize(
    "data", [b"", b"no film", b"#EXTM3U\nfile:///etc/passwd\n", b"ffconcat version 1.0\nfile /etc/passwd\n"]
)
def test_what_is_no_film_and_what_names_other_files_is_refused(floor, data):
    with pytest.raises(UnreadableArtError, match="film"):
        add_guide_files(floor, {"a.mp4": data})
    assert floor.scene.guides == ()
    with pytest.raises(InvalidInputError, match="alone"):
        add_guide_files(floor, {"a.mp4": data, "b.png": png("red")})


def test_a_puppet_that_is_a_guide_is_in_no_file_and_no_picture_of_the_scene(floor):
    block = import_art(floor.workspace, BLOCK, "block.svg").puppet_id
    who = add_puppet(floor, block, x=300.0)
    guide = add_puppet(floor, block, x=900.0)
    update_instance(floor, guide, guide=True, faint=0.3)
    made = prepare(floor.workspace, floor.scene_id, ExportSettings())
    assert {instance for instance, _ in made.frames.part_keys} == {who}
    still = np.asarray(
        Image.open(io.BytesIO(scene_still(floor.workspace, floor.scene_id, 0, (320, 180)))).convert("RGB")
    ).astype(int)
    background = still[2, 2]
    assert np.abs(still[:, 20:150] - background).sum() > 0
    assert np.abs(still[:, 180:300] - background).sum() == 0
