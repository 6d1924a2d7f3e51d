"""What lies between keys and pictures: offsets over a span, exposures, the view without in-betweens."""

import numpy as np
import pytest
from pydantic import ValidationError

from builders.making import bone, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate import values as values_module
from gaitwire.core.evaluate.inverse_layers import Beneath
from gaitwire.core.evaluate.layers import LAYERS, OnTop
from gaitwire.core.evaluate.scene_values import SceneValues
from gaitwire.core.evaluate.values import layers_at, moved_beneath, sample_values
from gaitwire.core.timing.mark import Pose
from gaitwire.core.timing.offset import Offset, window

PUPPET = puppet([bone("arm", length=10.0)])


def offset(start, stop, amount, soft_in=0.0, soft_out=0.0, prop="turn"):
    return Offset(
        id="o", scene_id="s", instance_id="i", owner_kind="bone", owner_id="arm", property=prop, start=start,
        stop=stop, soft_in=soft_in, soft_out=soft_out, amount=amount,
    )  # fmt: skip


def compiled(made, exposure=1, **more):
    instance = made.instances[0].model_copy(update={"exposure": exposure})
    return compile_scene(made.model_copy(update={"instances": (instance,), **more}), {"p": PUPPET})


def values(made, frames, prop=0):
    return sample_values(made.compiled_puppets[0], np.asarray(frames, float))[1, prop]


def test_an_offset_lies_on_top_of_keys_within_its_span_and_nowhere_else():
    made = scene({("arm", "turn"): [(0, 0), (20, 40)]}, frames=48, loop=False)
    plain, laid = compiled(made), compiled(made, offsets=(offset(4, 16, 10, 4, 2),))
    on_top = values(laid, range(30)) - values(plain, range(30))
    assert on_top[:5] == pytest.approx(np.zeros(5))
    assert on_top[6] == pytest.approx(5.0)  # half way in
    assert on_top[8:15] == pytest.approx(np.full(7, 10.0))
    assert on_top[15] == pytest.approx(5.0)
    assert on_top[16:] == pytest.approx(np.zeros(14))


def test_an_offset_of_a_ratio_multiplies():
    made = scene({("arm", "stretch"): [(0, 2.0)]}, frames=24)
    laid = compiled(made, offsets=(offset(4, 12, 1.5, prop="stretch"),))
    assert values(laid, [0, 8], prop=3) == pytest.approx([2.0, 3.0])


def test_an_offset_goes_across_the_seam_of_a_loop():
    assert window(offset(20, 28, 1.0), np.array([19.0, 20, 23, 0, 4, 5]), 24.0).tolist() == [0, 1, 1, 1, 1, 0]


def test_soft_ends_must_fit_into_their_span():
    with pytest.raises(ValidationError, match="soft ends"):
        offset(4, 8, 1.0, 3, 3)
    with pytest.raises(ValidationError, match="ends after"):
        offset(8, 8, 1.0)


TURNING = {("arm", "turn"): [(0, 0), (12, 24), (18, 6)]}


def turns(found):
    a, b = found.nodes[:, 1, 0], found.nodes[:, 1, 1]
    return np.degrees(np.arctan2(b, a))


def test_on_twos_every_picture_stays_for_two_frames():
    made = scene(TURNING, frames=24)
    ones = turns(evaluate(compiled(made), np.arange(24.0)))
    twos = turns(evaluate(compiled(made, exposure=2), np.arange(24.0)))
    assert twos == pytest.approx(np.repeat(ones[::2], 2))


def test_without_in_betweens_each_pose_stands_until_the_next():
    made = scene(TURNING, frames=24)
    blocked = turns(evaluate(compiled(made), np.arange(24.0), blocking=True))
    assert blocked == pytest.approx(np.repeat([0, 24, 6], [12, 6, 6]))


def test_marked_poses_are_what_the_view_without_in_betweens_shows():
    poses = tuple(Pose(id=str(t), scene_id="s", instance_id="i", time=t) for t in (6.0, 18.0))
    made = scene(TURNING, frames=24)
    blocked = turns(evaluate(compiled(made, poses=poses), np.arange(24.0), blocking=True))
    assert blocked == pytest.approx(np.repeat([6, 12, 6], [6, 12, 6]))
    once = scene(TURNING, frames=24, loop=False)
    blocked = turns(evaluate(compiled(once, poses=poses), np.arange(24.0), blocking=True))
    assert blocked == pytest.approx(np.repeat([12, 6], [18, 6]))


class Sways(OnTop):
    """A layer as one from elsewhere would be: the arm sways, and leads the wrist by a frame."""

    tables = frozenset({"node"})

    def added(self, name, table, at):
        for owner, late in (("arm", 0.0), ("wrist", 1.0)):
            column = at.puppet.column(owner, "turn", "i")
            if column is not None:
                yield column, 10.0 * np.sin(at.frames - late)

    def moves(self, puppet, times):
        return {("arm", "turn"), ("wrist", "turn")}


def test_a_layer_from_elsewhere_is_one_class_and_one_line(monkeypatch):
    made = scene({("arm", "turn"): [(0, 0), (20, 40)]}, frames=48, loop=False)
    both = puppet([bone("arm", length=10.0), bone("wrist", "arm", 10.0)])
    laid = compile_scene(made.model_copy(update={"offsets": (offset(4, 16, 10),)}), {"p": both})
    plain = SceneValues(laid).at([("i", "arm", "turn"), ("i", "wrist", "turn"), ("i", "gone", "turn")], np.arange(9.0))
    assert np.isnan(plain[2]).all()
    monkeypatch.setattr(values_module, "LAYERS", (*LAYERS, Sways()))
    frames = np.arange(9.0)
    swayed = SceneValues(laid).at([("i", "arm", "turn"), ("i", "wrist", "turn")], frames)
    assert swayed[0] - plain[0] == pytest.approx(10 * np.sin(frames))
    assert swayed[1] - plain[1] == pytest.approx(10 * np.sin(frames - 1))
    (a, b), (c, d) = evaluate(laid, np.array([5.0])).nodes[0, 1:3, :2]  # and it is seen
    assert np.degrees(np.arctan2(b, a)) == pytest.approx(swayed[0, 5])
    assert np.degrees(np.arctan2(d, c)) == pytest.approx(swayed[0, 5] + swayed[1, 5])
    assert layers_at(laid.compiled_puppets[0], 5.0)["arm", "turn"].on_top == pytest.approx(10 * np.sin(5.0))
    assert {("arm", "turn"), ("wrist", "turn")} <= moved_beneath(laid.compiled_puppets[0])
    key = Beneath(laid.scene, lambda: laid).key_value(("i", "arm", "turn"), 70.0, 5.0)
    assert key == pytest.approx(70.0 - 10 * np.sin(5.0) - 10.0)  # what shows at 70 with the sway and the offset
    wanted = sample_values(laid.compiled_puppets[0], np.array([5.0]), {("i", "arm", "turn"): 3.0})
    assert wanted[1, 0, 0] == 3.0  # where a drag wants it, nothing is added
