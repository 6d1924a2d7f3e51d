"""The timeline's rows: which wires, in which groups, with which beads, ghosts and sleepers."""

import pytest

from builders.making import bone, puppet, scene
from gaitwire.services.views.wires import build_timeline, front_to_back

PUPPET = puppet([
    bone("pelvis", region="body"), bone("thigh", "pelvis", region="leg", side="near"),
    bone("shin", "thigh", region="leg", side="near"), bone("other", "pelvis", region="leg", side="far", locked=True),
    bone("eye", "pelvis", region="head"),
])  # fmt: skip
TRACKS = {
    ("thigh", "turn"): [(0, 1), (6, 2)], ("thigh", "skew"): [(6, 2), (9.5, 1)], ("shin", "turn"): [(3, 0)],
    ("other", "turn"): [(30, 5)], ("i", "shift_x"): [(0, 0)],
}  # fmt: skip


def timeline(**more):
    made = scene(TRACKS, frames=24, **more)
    return build_timeline(made, {"p": PUPPET}, {})


def group(found, label):
    return next(g for g in found.cast[0].groups if g.head.group == label)


def test_wires_are_grouped_by_region_and_side_in_the_body_order():
    labels = [g.head.group for g in timeline().cast[0].groups]
    assert labels == ["seat", "Head", "Body", "Near leg", "Far leg"]
    assert [w.name for w in group(timeline(), "Near leg").wires] == ["thigh", "shin"]


def test_a_bead_is_all_keys_of_a_wire_at_one_time_and_a_group_shows_its_bones():
    near = group(timeline(), "Near leg")
    assert near.wires[0].times == (0, 6, 9.5)
    assert near.head.times == (0, 3, 6, 9.5)
    assert group(timeline(), "seat").head.times == (0,)


def test_a_loop_shows_its_beads_again_as_ghosts():
    near = group(timeline(), "Near leg")
    assert timeline().span == 36
    assert near.wires[0].ghosts == (24, 30, 33.5)
    assert group(timeline(loop=False), "Near leg").wires[0].ghosts == ()


def test_beads_beyond_the_end_of_a_loop_sleep():
    far = group(timeline(), "Far leg").wires[0]
    assert (far.times, far.asleep, far.locked) == ((), (30,), True)
    assert group(timeline(loop=False), "Far leg").wires[0].times == (30,)


def test_only_some_puppets_may_be_asked_for():
    made = scene(TRACKS)
    assert build_timeline(made, {"p": PUPPET}, {}, only={"i"}).cast
    assert build_timeline(made, {"p": PUPPET}, {}, only=set()).cast == ()


def test_a_puppet_that_is_gone_keeps_its_seat():
    assert [g.head.group for g in build_timeline(scene(TRACKS), {}, {}).cast[0].groups] == ["seat"]


def test_numbers_begin_where_the_scene_says_and_seconds_where_one_begins():
    ticks = {frame: (number, second) for frame, number, second in timeline().ticks}
    assert ticks[0] == ("0", "") and ticks[23] == ("23", "") and ticks[24] == ("24", "1 s")
    assert ticks[25] == ("1", "")  # the loop again
    late = build_timeline(scene({}, frames=30).model_copy(update={"first_number": 1}), {}, {})
    assert late.ticks[0][1] == "1" and late.ticks[24] == (24, "25", "1 s")


@pytest.mark.parametrize("rate", [(12, 1), (24, 1), (30000, 1001), (25, 2)])
def test_every_second_is_marked_once(rate):
    made = scene({}, frames=200, loop=False).model_copy(update={"rate_num": rate[0], "rate_den": rate[1]})
    marks = [second for _, _, second in build_timeline(made, {}, {}).ticks if second]
    assert marks == [f"{n} s" for n in range(1, len(marks) + 1)]
    assert len(marks) == int(212 / (rate[0] / rate[1]))


def test_the_puppet_in_front_comes_first():
    made = scene({})
    behind = made.instances[0].model_copy(update={"id": "j", "depth": -1})
    both = made.model_copy(update={"instances": (behind, *made.instances)})
    assert [i.id for i in front_to_back(both)] == ["i", "j"]


def test_a_long_scene_has_no_more_ticks_than_a_page_can_bear():
    for frames in (600, 3000, 20_000):
        ticks = build_timeline(scene({}, frames=frames, loop=False), {}, {}).ticks
        assert len(ticks) < 2600
        assert {0, 12, 24} <= {frame for frame, _, _ in ticks}
