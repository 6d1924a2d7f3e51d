"""Guides: pictures and runs laid, a stride of the wire figure, what is refused; the grid that catches."""

import io
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from gaitwire.core.errors import InvalidInputError, UnreadableArtError
from gaitwire.core.stride_figure import SHIN, THIGH, stride_frame
from gaitwire.services.floor import Floor, make_scene
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
    floor.add_pictures({"walk_10.png": png("red"), "walk_2.png": png("blue"), "walk_1.png": png("green")})
    (guide,) = floor.scene.guides
    colors = [Image.open(io.BytesIO(get_blob(floor.workspace.store, h).data)).getpixel((3, 3)) for h in guide.pictures]
    assert colors == [(0, 128, 0), (0, 0, 255), (255, 0, 0)]
    assert (guide.width, guide.height, guide.x, guide.y) == (40, 30, 640, 360)
    floor.update_guide(guide.id, {"start": 12.0, "opacity": 0.25, "over": True})
    assert floor.scene.guides[0].start == 12
    take_step(floor.workspace.store, floor.scene_id, "undo")
    assert floor.scene.guides[0].over is False
    floor.remove_guide(guide.id)
    assert floor.scene.guides == ()


def test_what_is_no_picture_is_refused_and_nothing_is_laid(floor):
    with pytest.raises(UnreadableArtError):
        floor.add_pictures({"a.png": b"no picture at all"})
    with pytest.raises(InvalidInputError, match="opacity"):
        floor.add_pictures({"a.png": png("red")})
        floor.update_guide(floor.scene.guides[0].id, {"opacity": 3})


def test_a_stride_has_as_many_pictures_as_frames_and_stands_on_the_ground(floor):
    floor.add_stride(16, turned=True)
    (guide,) = floor.scene.guides
    assert len(set(guide.pictures)) == 16 and guide.loops and guide.turned
    last = np.asarray(Image.open(io.BytesIO(get_blob(floor.workspace.store, guide.pictures[3]).data)))
    lowest = np.flatnonzero(last[..., 3].any(axis=1)).max()  # the ground's line
    on_stage = guide.y + (lowest - guide.height / 2) * guide.scale
    assert on_stage == pytest.approx(648, abs=6)
    with pytest.raises(InvalidInputError, match="4 to 240"):
        floor.add_stride(2)


@given(st.floats(0, 1))
def test_the_figure_keeps_its_lengths_and_one_foot_on_the_ground(share):
    frame = stride_frame(share)
    for leg in (frame.near[0], frame.far[0]):
        lengths = [np.hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(leg[:3])]
        assert lengths == pytest.approx([THIGH, SHIN])
        assert max(y for _, y in leg) <= 1e-9
    assert max(y for leg in (frame.near[0], frame.far[0]) for _, y in leg) == pytest.approx(0, abs=1e-9)
    other = stride_frame((share + 0.5) % 1.0)
    assert np.allclose(frame.near[0], other.far[0], atol=1e-6)  # the other leg does the same half a stride later
