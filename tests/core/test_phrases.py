"""Phrases on a puppet: what they add on which frames, against values worked out by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from builders.making import bone, key, part, puppet, scene
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.values import layers_at, sample_parts, sample_values
from gaitwire.core.motion.phrase import Phrase, PhraseCourse, PhraseUse
from gaitwire.core.motion.ready import READY, phrase_of
from gaitwire.core.puppet.counterpart import OwnerMark
from gaitwire.core.timing.channel import NODE_PROPERTIES, PART_PROPERTIES, Channel
from gaitwire.core.timing.clip import ClipRow

ARM = puppet([bone("arm", length=10.0, role="upper arm", side="near")], [part("sleeve", "arm")])


def mark(owner="arm", kind="bone", **more):
    return OwnerMark(kind=kind, owner_id=owner, name=owner, **more)


def phrase(points, prop="turn", owner=None, length=None, **more):
    row = ClipRow(owner=owner or mark(), property=prop, keys=tuple(key(t, v) for t, v in points))
    return Phrase(id="ph", name="bow", length=length or points[-1][0], rows=(row,), **more)


def use(of, start=10.0, **more):
    return PhraseUse(id="u", scene_id="s", instance_id="i", phrase=of, start=start, **more)


def compiled(*uses, tracks=None, frames=48, loop=False, who=ARM, **place):
    made = scene(tracks or {}, frames=frames, loop=loop, **place)
    return compile_scene(made.model_copy(update={"phrase_uses": uses}), {"p": who})


def seen(made, frames, owner="arm", prop="turn"):
    compiled_puppet = made.compiled_puppets[0]
    row = [k[1] for k in compiled_puppet.nodes.owners].index(owner)
    return sample_values(compiled_puppet, np.asarray(frames, float))[row, NODE_PROPERTIES.index(prop)].tolist()


RISE = phrase([(0, 5), (4, 25), (8, 5)])
"""By 20 up and down again, from wherever it begins."""
STEP = phrase([(0, 0), (4, 10)])


def test_a_phrase_lies_on_top_of_keys_and_goes_back():
    made = compiled(use(RISE), tracks={("arm", "turn"): [(0, 100), (20, 140)]})
    assert seen(made, [9, 10, 12, 14, 18, 19]) == pytest.approx([118, 120, 134, 148, 136, 138])


def test_it_may_count_from_rest():
    made = compiled(use(RISE.model_copy(update={"counts_from": "rest"})))
    assert seen(made, [9, 10, 14, 18, 19]) == pytest.approx([0, 5, 25, 5, 0])


def test_amount_pace_and_side_of_time():
    made = compiled(use(RISE, amount=-0.5, pace=2.0))
    assert seen(made, [10, 14, 18, 22, 26, 27]) == pytest.approx([0, -5, -10, -5, 0, 0])


def test_repeats_start_anew_or_go_on_from_where_they_are():
    assert seen(compiled(use(STEP, repeats=2)), [10, 13, 14, 16, 18, 19]) == pytest.approx([0, 7.5, 0, 5, 10, 0])
    onward = compiled(use(STEP, repeats=2, goes_on=True))
    assert seen(onward, [10, 13, 14, 16, 18, 30]) == pytest.approx([0, 7.5, 10, 15, 20, 20])


def test_from_here_on_it_is_played_until_the_scene_ends():
    made = compiled(use(STEP, repeats=0), frames=30)
    assert seen(made, [13, 17, 21, 29]) == pytest.approx([7.5, 7.5, 7.5, 7.5])
    course = PhraseCourse(use(STEP, repeats=0), 4.0, 30, None)
    assert course.stop == 29 and course.cut == 0
    assert PhraseCourse(use(STEP, repeats=6), 4.0, 30, None).cut == 5


def test_trimmed_it_plays_what_lies_between_and_counts_from_its_own_first_pose():
    made = compiled(use(RISE, begins=2.0, ends=6.0))
    assert seen(made, [9, 10, 12, 14, 15]) == pytest.approx([0, 10, 20, 10, 0])


def test_fades_are_half_a_wave():
    flat = phrase([(0, 8), (12, 8)], counts_from="rest")
    made = compiled(use(flat, fade_in=4.0, fade_out=6.0))
    assert seen(made, [10, 12, 14, 16, 19, 22, 23]) == pytest.approx([0, 4, 8, 8, 4, 0, 0])


def test_what_goes_on_passes_over_into_the_next_key():
    made = compiled(use(STEP, goes_on=True), tracks={("arm", "turn"): [(0, 50), (22, 50)]})
    assert seen(made, [14, 18, 22, 40]) == pytest.approx([60, 55, 50, 50])
    assert seen(compiled(use(STEP, goes_on=True)), [14, 47]) == pytest.approx([10, 10])


def test_ratios_multiply():
    wide = phrase([(0, 2.0), (4, 3.0)], prop="stretch")
    made = compiled(use(wide, goes_on=True, repeats=2), tracks={("arm", "stretch"): [(0, 1.2)]})
    assert seen(made, [9, 12, 14, 18], prop="stretch") == pytest.approx([1.2, 1.5, 1.8, 2.7])


def test_a_phrase_goes_across_the_seam_of_a_loop():
    made = compiled(use(RISE, start=20.0, around=True), loop=True, frames=24)
    assert seen(made, [19, 22, 0, 2, 4, 5]) == pytest.approx([0, 10, 20, 10, 0, 0])


@pytest.mark.parametrize(
    "more",
    [
        {}, {"goes_on": True}, {"goes_on": True, "change_in": 0.0}, {"goes_on": True, "change_in": 3.0},
        {"repeats": 5}, {"repeats": 0}, {"still": 1.0, "goes_on": True},
    ],
)  # fmt: skip
def test_unless_it_is_told_to_nothing_of_it_reaches_before_its_start(more):
    """In a loop of 96 a look that does not go back, laid on 48, looked on frames 0 to 47 already."""
    keys = {("arm", "turn"): [(0, 50), (30, 20), (90, 40)]}
    bare, made = compiled(tracks=keys, frames=96, loop=True), compiled(
        use(RISE, start=48.0, **more), tracks=keys, frames=96, loop=True
    )  # fmt: skip
    before = range(48)
    assert seen(made, before) == pytest.approx(seen(bare, before))
    assert seen(made, [52])[0] == pytest.approx(seen(bare, [52])[0] + 20) or more.get("still")


def test_what_it_leaves_stays_until_the_next_key_and_changes_at_once_or_over_frames():
    keys = {("arm", "turn"): [(0, 50), (30, 50)]}

    def after(change_in):
        made = compiled(use(STEP, goes_on=True, change_in=change_in), tracks=keys, frames=48)
        return seen(made, [14, 22, 26, 28, 29, 30, 40])

    assert after(0.0) == pytest.approx([60, 60, 60, 60, 60, 50, 50])
    assert after(4.0) == pytest.approx([60, 60, 60, 55, 50 + 10 * (1 - np.cos(np.pi / 4)) / 2, 50, 50])
    assert after(None)[1] == pytest.approx(55)


def test_what_lies_beneath_can_be_held_still():
    keys = {("arm", "turn"): [(0, 0), (48, 96)]}
    made = compiled(use(RISE, still=1.0), tracks=keys)
    assert seen(made, [10, 14, 18, 20]) == pytest.approx([20, 40, 20, 40])
    half = compiled(use(RISE, still=0.5), tracks=keys)
    assert seen(half, [14, 18]) == pytest.approx([24 + 20, 28])


def test_of_two_phrases_the_later_holds_still_only_the_keys():
    made = compiled(use(STEP, start=0.0, goes_on=True), use(RISE, still=1.0).model_copy(update={"id": "v"}))
    assert seen(made, [6, 14]) == pytest.approx([10, 20])


def part_channel(prop, *points):
    """A channel of the sleeve, with its keys."""
    channel = Channel(id=prop, scene_id="s", instance_id="i", owner_kind="part", owner_id="sleeve", property=prop)
    return channel, tuple(key(t, v, "hold", prop) for t, v in points)


def shown(made, frames, prop="place"):
    return sample_parts(made.compiled_puppets[0], np.asarray(frames, float))[0, PART_PROPERTIES.index(prop)].tolist()


@pytest.mark.parametrize(("goes_on", "after"), [(False, [0, 0, 7]), (True, [3, 3, 7])])
def test_drawings_and_order_show_while_it_is_played_and_after_it_until_the_next_key(goes_on, after):
    steps = phrase([(0, 2), (4, 3)], prop="place", owner=mark("sleeve", "part"), goes_on=goes_on)
    channel, keys = part_channel("place", (0, 0), (30, 7))
    base = scene({}, frames=48, loop=False).model_copy(
        update={"channels": (channel,), "keys": keys, "phrase_uses": (use(steps, goes_on=goes_on),)}
    )
    made = compile_scene(base, {"p": ARM})
    assert shown(made, [9, 10, 13, 14]) == [0, 2, 2, 3]
    assert shown(made, [15, 29, 30]) == after


def test_it_is_fitted_to_another_puppet_by_size_side_and_place():
    own = {"owner": OwnerMark(kind="seat", owner_id="", name=""), "prop": "shift_x"}
    hop = phrase([(0, 0), (4, 30)], size=15.0, seat=2.0, **own)
    tall = puppet([bone("root"), bone("top", "root", y=-60.0)])
    # Half the height of its bones is 30, twice the size; its pixels are half as large, and it is turned round.
    made = compiled(use(hop), who=tall, scale=1.0, turned=True)
    assert seen(made, [14], owner="i", prop="shift_x") == pytest.approx([-30.0])
    reach = phrase([(0, 0), (4, 6)], prop="shift_y", owner=mark("top"), size=15.0)
    assert seen(compiled(use(reach), who=tall), [14], owner="top", prop="shift_y") == pytest.approx([12.0])


def test_near_and_far_trade_places():
    arms = puppet([bone(f"{s} arm", length=9.0, role="upper arm", side=s) for s in ("near", "far")])
    raised = phrase([(0, 0), (4, 40)], owner=mark("near arm", role="upper arm", side="near"))
    made = compiled(use(raised, other_side=True), who=arms)
    assert seen(made, [14], "near arm") == [0.0] and seen(made, [14], "far arm") == pytest.approx([40.0])


def test_what_the_puppet_lacks_is_left_out_and_a_chest_may_be_a_torso():
    trunk = puppet([bone("body", role="torso"), bone("skull", "body", role="head")])
    made = compiled(use(phrase_of(READY["point"], {}), start=0.0), who=trunk)
    assert max(abs(v) for v in seen(made, range(40), "body")) > 3


def test_layers_tell_what_keys_have_to_say():
    made = compiled(
        use(RISE, still=0.5, amount=1.5), tracks={("arm", "turn"): [(0, 30), (48, 78)], ("arm", "stretch"): [(0, 2.0)]}
    )
    layers = layers_at(made.compiled_puppets[0], 13.0)
    assert set(layers) == {("arm", "turn")}
    found = layers["arm", "turn"]
    assert found.factor == pytest.approx(0.5) and found.by == "bow"
    assert found.factor * 43 + found.added == pytest.approx(seen(made, [13])[0])


def test_a_phrase_has_its_keys_in_order_and_within_it():
    with pytest.raises(ValidationError, match="in order"):
        phrase([(4, 0), (2, 1)], length=8)
    with pytest.raises(ValidationError, match="within"):
        phrase([(0, 0), (9, 1)], length=8)
    with pytest.raises(ValidationError, match="own motion"):
        use(None)
    with pytest.raises(ValidationError, match="ends after"):
        use(RISE, begins=5.0, ends=5.0)


READY_VALUES = st.sampled_from(list(READY)).flatmap(
    lambda name: st.tuples(
        st.just(name), st.fixed_dictionaries({s.name: st.floats(s.low, s.high) for s in READY[name].settings})
    )
)


@given(READY_VALUES)
def test_phrases_that_ship_begin_and_end_where_they_found_things_whatever_their_settings(found):
    name, values = found
    made = phrase_of(READY[name], values)
    for row in made.rows:
        rest = 1.0 if row.property == "widen" else 0.0
        assert row.keys[0].value == pytest.approx(rest) and row.keys[-1].value == pytest.approx(rest, abs=1e-9)
        assert row.keys[0].time == 0.0


def test_their_settings_have_bounds_and_names():
    with pytest.raises(InvalidInputError, match="goes from"):
        phrase_of(READY["nod"], {"depth": 400})
    with pytest.raises(InvalidInputError, match="has no “deep”"):
        phrase_of(READY["nod"], {"deep": 4})


@pytest.mark.parametrize("sway", [-20.0, 9.0, 25.0])
def test_a_shift_of_weight_leaves_straight_legs_on_their_feet(sway):
    legs = [
        one
        for side, x in (("near", 2.0), ("far", -2.0))
        for one in (
            bone(f"{side} thigh", "hips", x, 40.0, role="thigh", side=side, length=40.0, angle=90.0),
            bone(f"{side} shin", f"{side} thigh", x, 80.0, role="shin", side=side, length=40.0, angle=90.0),
            bone(f"{side} foot", f"{side} shin", x, 120.0, role="foot", side=side, length=14.0),
        )
    ]
    walker = puppet([bone("hips", y=40.0, role="pelvis"), *legs])
    made = compiled(use(phrase_of(READY["shift-weight"], {"sway": sway}), start=0.0), who=walker, frames=80)
    frames = evaluate(made, np.arange(80.0))
    names = [k[1] for k in frames.node_keys]
    feet = frames.nodes[:, [names.index("near foot"), names.index("far foot")]]
    assert np.abs(feet - feet[:1]).max() < 1e-6
    hips = frames.nodes[:, names.index("hips"), 4]
    assert np.abs(hips - hips[0]).max() == pytest.approx(abs(sway) / 100 * 80)
