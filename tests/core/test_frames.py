"""The packed frame, byte by byte; and what is kept between edits."""

import struct

import numpy as np

from builders.making import bone, part, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.cache import BLOCK, BlockCache
from gaitwire.core.evaluate.frames import HEADER_BYTES, pack
from gaitwire.core.scene import stamp_of

PUPPET = puppet([bone("a", x=3, y=4), bone("b", "a", 5, 6)], [part("p", "b"), part("q", "a", 1, opacity=0.5)])
SCENE = scene({("a", "turn"): [(0, 0), (12, 90)], ("b", "shift_x"): [(3, 1), (8, 20)]}, x=10.0, y=20.0)


def test_a_packed_frame_can_be_read_without_us():
    frames = evaluate(compile_scene(SCENE, {"p": PUPPET}), np.array([0.0, 6.0, 11.0]))
    data = pack(frames, stamp=77)
    magic, f, p, n, stamp = struct.unpack("<5I", data[:20])
    assert (magic.to_bytes(4, "little"), f, p, n, stamp) == (b"GWF3", 3, 2, 3, 77)
    values = np.frombuffer(data, "<f4", offset=HEADER_BYTES)
    sizes = np.cumsum([f, f * p * 6, f * p, f * p, f * n * 6, f * p, 0])
    times, matrices, opacity, order, nodes, drawing, points, fade = np.split(values, sizes)
    assert times.tolist() == [0, 6, 11]
    assert np.allclose(matrices.reshape(f, p, 6), frames.matrices, atol=1e-4)
    assert opacity.reshape(f, p)[1].tolist() == [1.0, 0.5]
    assert order.reshape(f, p)[0].tolist() == [0, 1]
    assert np.allclose(nodes.reshape(f, n, 6), frames.nodes, atol=1e-4)
    assert drawing.tolist() == [0.0] * f * p and len(points) == 0 and fade.tolist() == [1.0] * f * p
    assert len(data) % 4 == 0


def test_frames_cannot_be_written_to():
    frames = evaluate(compile_scene(SCENE, {"p": PUPPET}), np.zeros(1))
    assert not any(a.flags.writeable for a in (frames.matrices, frames.opacity, frames.order, frames.nodes))


def test_blocks_give_what_direct_evaluation_gives_in_any_order():
    compiled = compile_scene(SCENE.model_copy(update={"frames": 200, "loop": False}), {"p": PUPPET})
    cache = BlockCache()
    wanted = np.array([BLOCK * 2 + 1, 0, 5, BLOCK, BLOCK - 1, 5], float)
    kept = evaluate(compiled, wanted, cache=cache)
    assert cache.misses == 3
    assert np.array_equal(kept.matrices, evaluate(compiled, wanted).matrices)
    evaluate(compiled, np.arange(BLOCK * 3.0), cache=cache)
    assert cache.misses == 3 and cache.hits == 3
    halves = np.array([0.5, 7.25])
    assert np.array_equal(evaluate(compiled, halves, cache=cache).nodes, evaluate(compiled, halves).nodes)
    assert cache.misses == 3  # fractions are made afresh


def test_the_cache_forgets_the_oldest():
    cache = BlockCache(most_bytes=2 * 48 * 8)
    for name in ("a", "b", "c", "a"):
        cache.fetch(name, np.zeros(1), lambda frames: (frames[None],))
    assert cache.misses == 4


def test_an_edit_compiles_anew_only_the_puppet_it_touched():
    two = SCENE.model_copy(update={"instances": (*SCENE.instances, SCENE.instances[0].model_copy(update={"id": "j"}))})
    first = compile_scene(two, {"p": PUPPET})
    key = two.keys[0].model_copy(update={"value": 33.0})
    edited = two.model_copy(update={"keys": (key, *two.keys[1:])})
    second = compile_scene(edited, {"p": PUPPET}, previous=first)
    assert second.compiled_puppets[1] is first.compiled_puppets[1]
    assert second.compiled_puppets[0] is not first.compiled_puppets[0]
    at = np.arange(24.0)
    assert np.array_equal(evaluate(second, at).nodes, evaluate(compile_scene(edited, {"p": PUPPET}), at).nodes)
    moved = compile_scene(two, {"p": PUPPET.model_copy(update={"base_x": 9.0})}, previous=first)
    assert all(a is not b for a, b in zip(moved.compiled_puppets, first.compiled_puppets, strict=True))


def test_a_stamp_tells_states_apart_where_revisions_only_add_up():
    made = scene({}).model_copy(update={"revision": 5})
    one, two = (puppet([]).model_copy(update={"id": name, "revision": n}) for name, n in (("one", 1), ("two", 2)))
    both = stamp_of(made, {"one": one, "two": two}, {})
    gone = stamp_of(made.model_copy(update={"revision": 6}), {"two": two}, {})  # the puppet was taken out
    assert both != gone and 0 <= both < 2**32 and both == stamp_of(made, {"two": two, "one": one}, {})
