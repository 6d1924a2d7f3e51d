"""Evaluation: places worked out by hand, one frame against many, cache, packing."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, part, puppet, scene, tip
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.cache import BLOCK, BlockCache
from gaitwire.core.evaluate.frames import HEADER_BYTES, pack

ARM = puppet(
    [bone("upper", x=0, y=0, length=10, angle=0), bone("lower", "upper", 10, 0, length=10, angle=0)],
    [part("glove", "lower", 1), part("sleeve", "upper", 0)],
)


def test_a_child_goes_with_its_parent():
    made = scene({("upper", "turn"): [(0, 90)], ("lower", "turn"): [(0, -90)]})
    found = evaluate(compile_scene(made, {"p": ARM}), np.array([0.0]))
    assert tip(found, "lower")[0] == pytest.approx((10, 10))  # down, then right again


def test_the_seat_places_scales_and_mirrors():
    made = scene({}, x=100.0, y=50.0, scale=2.0, turned=True)
    found = evaluate(compile_scene(made, {"p": ARM}), np.array([0.0]))
    assert tip(found, "lower")[0] == pytest.approx((60, 50))


def test_a_part_at_rest_lies_where_it_was_drawn():
    found = evaluate(compile_scene(scene({}), {"p": ARM}), np.array([0.0]))
    assert found.matrices[0] == pytest.approx(np.tile([1, 0, 0, 1, 0, 0], (2, 1)))
    assert [k[1] for k in found.part_keys] == ["sleeve", "glove"]  # back to front


def test_keep_volume_keeps_area():
    fat = puppet([bone("b", length=10, keep_volume=True)], [part("q", "b")])
    made = scene({("b", "stretch"): [(0, 0.4), (12, 3.0)], ("b", "skew"): [(0, 30)]})
    m = evaluate(compile_scene(made, {"p": fat}), np.arange(24.0)).matrices[:, 0]
    assert m[:, 0] * m[:, 3] - m[:, 1] * m[:, 2] == pytest.approx(np.ones(24))


def test_how_much_area_is_kept_can_be_keyed():
    fat = puppet([bone("b", length=10, keep_volume=True)], [part("q", "b")])
    made = scene({("b", "stretch"): [(0, 2.0)], ("b", "keep"): [(0, 1.0), (8, 0.5), (16, 0.0)]}, loop=False)
    m = evaluate(compile_scene(made, {"p": fat}), np.array([0.0, 8.0, 16.0])).matrices[:, 0]
    assert m[:, 0] * m[:, 3] == pytest.approx([1.0, np.sqrt(2.0), 2.0])  # stretch ** (1 - keep)


@given(st.lists(st.floats(0, 100), min_size=1, max_size=12), st.sampled_from(["linear", "back-out", "elastic-in"]))
def test_many_frames_at_once_are_the_same_as_one_by_one(times, ease):
    tracks = {
        ("upper", "turn"): [(0, 0), (9, 70), (17, -30)],
        ("lower", "shift_x"): [(3, 4), (20, -9)],
        ("i", "stretch"): [(2, 1), (11, 1.4)],
    }
    compiled = compile_scene(scene(tracks, ease=ease), {"p": ARM})
    together = evaluate(compiled, np.array(times))
    for i, time in enumerate(times):
        alone = evaluate(compiled, np.array([time]))
        assert np.array_equal(together.matrices[i], alone.matrices[0])
        assert np.array_equal(together.nodes[i], alone.nodes[0])


def test_the_loop_closes_in_place():
    compiled = compile_scene(scene({("upper", "turn"): [(5, 0), (13, 80)]}, frames=24), {"p": ARM})
    ends = evaluate(compiled, np.array([0.0, 24.0, 48.0]))
    assert np.array_equal(ends.nodes[0], ends.nodes[1])
    assert np.array_equal(ends.nodes[0], ends.nodes[2])


def test_keys_beyond_a_loop_sleep_until_it_is_longer():
    tracks = {("upper", "turn"): [(0, 0), (30, 90)]}
    short = evaluate(compile_scene(scene(tracks, frames=24), {"p": ARM}), np.array([15.0]))
    long = evaluate(compile_scene(scene(tracks, frames=60), {"p": ARM}), np.array([15.0]))
    assert tip(short, "upper")[0] == pytest.approx((10, 0))
    assert tip(long, "upper")[0] == pytest.approx((10 / math.sqrt(2), 10 / math.sqrt(2)))


def test_a_missing_puppet_sleeps():
    found = evaluate(compile_scene(scene({("upper", "turn"): [(0, 9)]}), {}), np.arange(3.0))
    assert found.matrices.shape == (3, 0, 6)


def test_the_cache_gives_the_same_frames_and_is_renewed_by_an_edit():
    cache = BlockCache()
    frames = np.array([0.0, BLOCK - 1.0, BLOCK + 3.0, 2.0])
    first = compile_scene(scene({("upper", "turn"): [(0, 10), (40, 50)]}, frames=100), {"p": ARM})
    assert np.array_equal(evaluate(first, frames, cache=cache).nodes, evaluate(first, frames).nodes)
    assert (cache.hits, cache.misses) == (0, 2)
    evaluate(first, frames, cache=cache)
    assert (cache.hits, cache.misses) == (2, 2)
    second = compile_scene(scene({("upper", "turn"): [(0, 10), (40, 51)]}, frames=100), {"p": ARM})
    assert np.array_equal(evaluate(second, frames, cache=cache).nodes, evaluate(second, frames).nodes)
    assert cache.misses == 4


def test_a_drag_stands_in_for_keys_and_is_not_kept():
    cache = BlockCache()
    compiled = compile_scene(scene({("upper", "turn"): [(0, 0)]}), {"p": ARM})
    dragged = evaluate(compiled, np.array([0.0]), {("i", "upper", "turn"): 90.0}, cache)
    assert tip(dragged, "upper")[0] == pytest.approx((0, 10))
    assert cache.misses == 0


def test_frames_pack_to_plain_floats():
    found = evaluate(compile_scene(scene({("upper", "turn"): [(0, 90)]}), {"p": ARM}), np.arange(3.0))
    data = pack(found)
    head = np.frombuffer(data, "<u4", 4)
    body = np.frombuffer(data, "<f4", offset=HEADER_BYTES)
    assert list(head[1:]) == [3, 2, 3]
    assert len(body) == 3 + 3 * 2 * (6 + 1 + 1 + 1 + 1) + 3 * 3 * 6
    assert body[3 : 3 + 36].reshape(3, 2, 6) == pytest.approx(found.matrices, abs=1e-5)
