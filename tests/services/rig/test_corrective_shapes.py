"""Bend fixes, pads and gauges on puppets of art: stored, blended, keyed, mirrored, taken back."""

import numpy as np
import pytest

from builders.rigs import ARMS, Rig
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.geometry import affine
from gaitwire.core.puppet.corrective_shapes import NO_DRAWING, rivals, undrawn
from gaitwire.formats.archive import SUFFIX
from gaitwire.services.library.archives import pack_puppet
from gaitwire.services.library.bringing_in import bring_in
from gaitwire.services.rig.art_renewal import ArtAgain
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.corrective_shapes import Drag
from gaitwire.services.rig.drawings import Drawings
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.scene.clips import clip_of_beads, paste_clip
from gaitwire.services.scene.floor import update_scene
from gaitwire.services.scene.phrases import make_phrase
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.rides import PointerPlace, record_control
from gaitwire.services.views.notes import scene_notes
from gaitwire.store.history import take_step


@pytest.fixture
def rig(workspace):
    return Rig(workspace)


FIX = {"turn": 8.0, "shift_x": 3.0, "shift_y": -2.0, "stretch": 1.2, "widen": 0.9, "skew": 4.0}


def placed(rig, part, bone, share):
    """A part's matrix straight from the definition: its bone's, its correction by a share, back from the pivot."""
    frames = rig.seen()
    whole = frames.nodes[0, frames.node_keys.index((rig.who, rig.ids[bone]))]
    own = rig.puppet.bone(rig.ids[bone])
    v = {p: (1 + share * (x - 1)) if p in ("stretch", "widen") else share * x for p, x in FIX.items()}
    local = affine.bone_matrix(v["shift_x"], v["shift_y"], v["turn"], v["skew"], v["stretch"], v["widen"], own.angle)
    back = affine.identity()
    back[4], back[5] = -own.x, -own.y
    return affine.compose(affine.compose(whole, local), back)


@pytest.mark.parametrize(
    ("turn", "share"), [(0, 0), (-30, 1 / 3), (-90, 1), (-130, 1), (-90 - 720, 1), (20, 0.0), (45, 0.0)]
)
def test_a_fix_shows_its_stored_correction_at_its_angle_and_a_share_on_the_way(rig, turn, share):
    entry = rig.add_fix(rig.ids["near lower"], -90.0)
    rig.say(entry, *(("part", rig.parts["near lower"], p, v) for p, v in FIX.items()))
    rig.key(0, rig.ids["near lower"], "turn", turn)
    assert rig.matrix("near lower") == pytest.approx(placed(rig, "near lower", "near lower", share), abs=1e-9)


def test_fixes_of_several_joints_add_up_and_each_has_more_than_one_angle(rig):
    part = rig.parts["near lower"]
    rig.say(rig.add_fix(rig.ids["near lower"], -90.0), ("part", part, "shift_x", 6.0))
    rig.say(rig.add_fix(rig.ids["near lower"], 60.0), ("part", part, "shift_x", 12.0))
    rig.say(rig.add_fix(rig.ids["near upper"], 40.0), ("part", part, "shift_x", 5.0), ("part", part, "stretch", 2.0))
    plain = rig.matrix("near lower")[4]
    found = []
    for lower, upper in ((0, 0), (30, 0), (-45, 0), (30, 40), (0, 20)):
        rig.key(0, rig.ids["near lower"], "turn", lower)
        rig.key(0, rig.ids["near upper"], "turn", upper)
        frames = rig.seen()
        bone = frames.nodes[0, frames.node_keys.index((rig.who, rig.ids["near lower"]))]
        own = rig.puppet.bone(rig.ids["near lower"])
        # Where the bone's own pivot went, in its space.
        x, y = affine.apply(affine.invert(bone), *affine.apply(rig.matrix("near lower"), own.x, own.y))
        assert y == pytest.approx(0, abs=1e-9)
        found.append(float(x))
    assert found == pytest.approx([0, 6, 3, 11, 2.5], abs=1e-9) and plain == pytest.approx(0)


def test_a_fix_reads_what_a_limb_is_solved_to(rig):
    limbs = Limbs(rig.workspace, rig.puppet_id)
    limb = limbs.add(rig.ids["near lower"])
    limbs.update(limb, {"whole": True})
    rig.say(rig.add_fix(rig.ids["near lower"], 90.0), ("part", rig.parts["near lower"], "shift_y", 9.0))
    rig.say(rig.add_fix(rig.ids["near lower"], -90.0), ("part", rig.parts["near lower"], "shift_y", -9.0))
    set_values(rig.floor, 0, {(rig.who, limb, p): v for p, v in (("mix", 1.0), ("tip_x", 30.0), ("tip_y", 20.0))})
    frames = rig.seen()
    rows = [frames.node_keys.index((rig.who, rig.ids[n])) for n in ("near upper", "near lower")]
    upper, lower = (frames.nodes[0, r] for r in rows)
    bend = np.degrees(np.arctan2(lower[1], lower[0]) - np.arctan2(upper[1], upper[0]))
    assert 30 < abs(bend) < 90
    own = rig.puppet.bone(rig.ids["near lower"])
    _, y = affine.apply(affine.invert(lower), *affine.apply(rig.matrix("near lower"), own.x, own.y))
    assert float(y) == pytest.approx(9 * bend / 90, abs=1e-6)


def test_order_and_drawings_switch_at_the_nearest_entry(rig):
    entry = rig.add_fix(rig.ids["near lower"], -80.0)
    rig.say(entry, ("part", rig.parts["near lower"], "place", -4.0), ("part", rig.parts["nose"], "drawing", 1.0))
    seen = []
    for turn in (-39, -41):
        rig.key(0, rig.ids["near lower"], "turn", turn)
        frames = rig.seen()
        place = frames.order[0].tolist().index(frames.part_keys.index((rig.who, rig.parts["near lower"])))
        seen.append((place, rig.number("nose")))
    assert seen == [(5, 0), (1, 1)]


def test_pins_of_a_soft_part_are_fixed_and_the_art_follows(rig):
    soft = Softening(rig.workspace, rig.puppet_id)
    soft.soften([rig.parts["near lower"]])
    (lead,) = soft.place_pin(rig.parts["near lower"], "lead", 30, 100)
    soft.place_pin(rig.parts["near lower"], "anchor", 55, 100)
    entry = rig.add_fix(rig.ids["near lower"], -60.0)
    rig.say(entry, ("pin", lead, "shift_y", 10.0))
    rig.key(0, rig.ids["near lower"], "turn", -60)
    frames, still = rig.seen(), evaluate(rig.workspace.compiled_puppet(rig.puppet_id), np.zeros(1))
    pin = frames.nodes[0, frames.node_keys.index((rig.who, lead))]
    home = frames.nodes[0, frames.node_keys.index((rig.who, rig.ids["near lower"]))]
    own = rig.puppet.bone(rig.ids["near lower"])
    assert affine.apply(home, 30 - own.x, 110 - own.y) == pytest.approx(pin[4:], abs=1e-6)
    assert frames.points[0, 0] - still.points[0, 0] == pytest.approx((0, 10), abs=1e-3)
    with pytest.raises(InvalidInputError, match="anchor"):
        anchor = next(p for p in rig.puppet.pins if p.kind == "anchor")
        rig.say(entry, ("pin", anchor.id, "shift_y", 1.0))


def test_points_of_a_rigid_part_move_with_the_angle_and_take_their_handles_along(rig):
    entry = rig.add_fix(rig.ids["near lower"], -90.0)
    part = rig.parts["near lower"]
    corner = rig.anchors(entry, part)[0]
    compiled, was = rig.compiled(entry), rig.puppet.entry(entry)
    to = (corner[1] + 4.0, corner[2] - 6.0)
    moved = rig.dragged(was, compiled, Drag("points", (("part", part),), corner[1:], to, (corner[0],)))
    rig.put_rows(entry, (), moved.reshapes)
    assert rig.anchors(entry, part)[0] == pytest.approx((corner[0], *to))
    rig.key(0, rig.ids["near lower"], "turn", -90)
    full = rig.seen()
    index = full.part_keys.index((rig.who, part))
    at = full.points[0, full.soft[index].drawing(0)][corner[0]]
    assert affine.apply(full.matrices[0, index], *map(float, at)) == pytest.approx(to, abs=1e-3)
    rig.key(0, rig.ids["near lower"], "turn", -45)
    half = rig.seen().points[0, full.soft[index].drawing(0)]
    rest = evaluate(rig.workspace.compiled_puppet(rig.puppet_id), np.zeros(1)).points[0]
    assert half - rest == pytest.approx((full.points[0] - rest) / 2, abs=1e-4)
    # The sides next to the corner stay straight: a third of the way out, two thirds of the way it goes.
    away = full.points[0] - rest
    assert away[1] == pytest.approx(away[0] * 2 / 3, abs=1e-4) and away[2] == pytest.approx(away[0] / 3, abs=1e-4)


@pytest.mark.parametrize(("across", "sign"), [(True, -1), (False, 1)])
def test_the_mirrored_fix_mirrors_exactly(rig, across, sign):
    entry = rig.add_fix(rig.ids["near lower"], -90.0)
    rig.say(
        entry, *(("part", rig.parts["near lower"], p, v) for p, v in FIX.items()),
        ("part", rig.parts["near upper"], "place", 2.0), ("part", rig.parts["nose"], "shift_x", 1.5),
    )  # fmt: skip
    made = rig.mirror_fix(rig.puppet.controls[0].id, across)
    assert made == (1, ())
    near, far = rig.puppet.controls
    (one,), (other,) = rig.puppet.entries_of(near.id), rig.puppet.entries_of(far.id)
    assert far.bone_id == rig.ids["far lower"] and other.x == sign * one.x
    values = {(r.owner_id, r.property): r.value for r in other.rows}
    odd = ("turn", "shift_x", "skew")
    expected = {(rig.parts["far lower"], p): (sign if p in odd else 1) * v for p, v in FIX.items()}
    expected |= {(rig.parts["far upper"], "place"): 2.0, (rig.parts["nose"], "shift_x"): sign * 1.5}
    assert values == expected
    # Once more, and from the other side: nothing is made twice.
    rig.mirror_fix(near.id, across)
    rig.mirror_fix(far.id, across)
    assert len(rig.puppet.controls) == 2 and len(rig.puppet.entries) == 2
    again = rig.puppet.entries_of(near.id)[0]
    assert (again.x, {(r.owner_id, r.property): r.value for r in again.rows}) == (
        one.x, {(r.owner_id, r.property): r.value for r in one.rows},
    )  # fmt: skip


def test_a_mirrored_fix_shows_the_mirror_image(rig):
    entry = rig.add_fix(rig.ids["near lower"], -70.0)
    rig.say(entry, *(("part", rig.parts["near lower"], p, v) for p, v in FIX.items()))
    rig.mirror_fix(rig.puppet.controls[0].id, across=True)
    rig.key(0, rig.ids["near lower"], "turn", -50)
    rig.key(0, rig.ids["far lower"], "turn", 50)
    near, far = rig.matrix("near lower"), rig.matrix("far lower")
    for x, y in ((10, 92), (60, 108), (35, 100)):
        nx, ny = affine.apply(near, x, y)
        assert affine.apply(far, 300 - x, y) == pytest.approx((300 - nx, ny), abs=1e-9)


PAD = {(45.0, 0.0): (10.0, 0.0), (90.0, 0.0): (18.0, 1.0), (0.0, 40.0): (0.0, -8.0), (50.0, 30.0): (12.0, -9.0)}


def make_pad(rig, name="facing"):
    pad = rig.add_control("pad", name)
    for (x, y), (dx, dy) in PAD.items():
        entry = rig.add_entry(pad, x, y)
        rig.say(entry, ("bone", rig.ids["nose"], "shift_x", dx), ("bone", rig.ids["nose"], "shift_y", dy))
    return pad


def nose(rig, frame=0.0):
    frames = rig.seen(frame)
    return frames.nodes[0, frames.node_keys.index((rig.who, rig.ids["nose"]))][4:] - (150, 40)


def test_a_pad_blends_what_is_stored_by_the_surrounding_triangle(rig):
    pad = make_pad(rig)
    for place, there in {**PAD, (0.0, 0.0): (0.0, 0.0), (22.5, 0.0): (5.0, 0.0), (0.0, 90.0): (0.0, -8.0)}.items():
        set_values(rig.floor, 0, {(rig.who, pad, "x"): place[0], (rig.who, pad, "y"): place[1]})
        assert nose(rig) == pytest.approx(there, abs=1e-9)
    # In the middle of the triangle of three entries, a third of each.
    corners = [(45.0, 0.0), (90.0, 0.0), (50.0, 30.0)]
    middle = np.mean(corners, axis=0)
    set_values(rig.floor, 0, {(rig.who, pad, "x"): middle[0], (rig.who, pad, "y"): middle[1]})
    assert nose(rig) == pytest.approx(np.mean([PAD[c] for c in corners], axis=0), abs=1e-6)


def test_pads_add_to_keys_and_a_drag_on_top_of_one_keys_what_is_seen(rig):
    pad = make_pad(rig)
    rig.key(0, pad, "x", 45.0)
    rig.key(0, rig.ids["nose"], "shift_x", 25.0)
    assert nose(rig) == pytest.approx((25, 0), abs=1e-6)
    keyed = {c.id for c in rig.floor.scene.channels if c.owner_id == rig.ids["nose"]}
    assert [k.value for k in rig.floor.scene.keys if k.channel_id in keyed] == pytest.approx([15.0])
    rig.key(12, pad, "x", 90.0)
    assert nose(rig, 12) == pytest.approx((33, 1), abs=1e-6)
    assert nose(rig, 6)[0] == pytest.approx(29, abs=1e-6)


def test_a_new_place_begins_with_what_is_seen_there(rig):
    pad = make_pad(rig)
    made_id = rig.add_entry(pad, 30.0, 12.0)
    made = rig.puppet.entry(made_id)
    values = {r.property: r.value for r in made.rows}
    rig.remove_entries([made.id])
    set_values(rig.floor, 0, {(rig.who, pad, "x"): 30.0, (rig.who, pad, "y"): 12.0})
    assert nose(rig) == pytest.approx((values["shift_x"], values["shift_y"]), abs=1e-6)


def test_the_later_control_decides_about_a_drawing_unless_it_is_keyed(rig):
    drawings, part = Drawings(rig.workspace, rig.puppet_id), rig.parts["nose"]
    drawings.copy(part)
    first, second = rig.add_control("gauge", "one"), rig.add_control("gauge", "two")
    for gauge, number in ((first, 1.0), (second, 2.0)):
        rig.say(rig.add_entry(gauge, 100.0, 0.0), ("part", part, "drawing", number))
        rig.key(0, gauge, "x", 100.0)
    assert rig.number("nose") == 2
    assert [(name, c.id) for name, c in rivals(rig.puppet, rig.puppet.control(first))] == [("nose", second)]
    rig.step_control(second, -1)
    assert rig.number("nose") == 1
    rig.key(0, first, "x", 49.0)
    assert rig.number("nose") == 2
    rig.key(0, part, "drawing", 0.0)
    assert rig.number("nose") == 0


def test_a_pad_is_reflected_with_its_drawings(rig):
    part = rig.parts["nose"]
    pad = make_pad(rig)
    side = next(e for e in rig.puppet.entries_of(pad) if e.x == 90)
    rig.say(side.id, ("part", part, "drawing", 1.0), ("bone", rig.ids["near upper"], "turn", 20.0))
    assert rig.reflect(pad) == (3, ())
    places = {(e.x, e.y) for e in rig.puppet.entries_of(pad)}
    assert places == set(PAD) | {(-45, 0), (-90, 0), (-50, 30)}
    other = next(e for e in rig.puppet.entries_of(pad) if e.x == -90)
    values = {(r.owner_id, r.property): r.value for r in other.rows}
    number = values.pop((part, "drawing"))
    assert values == {
        (rig.ids["nose"], "shift_x"): -18, (rig.ids["nose"], "shift_y"): 1, (rig.ids["far upper"], "turn"): -20,
    }  # fmt: skip
    known = {d.number: d for d in rig.puppet.drawings(rig.puppet.part(part))}
    box, back = (rig.workspace.art(known[n].art_hash).bounds for n in (1, round(number)))
    assert (back.x0, back.x1) == pytest.approx((300 - box.x1, 300 - box.x0)) and (box.y0, box.y1) == (back.y0, back.y1)
    rig.reflect(pad)
    assert len(rig.puppet.entries_of(pad)) == 7 and len(rig.puppet.drawings(rig.puppet.part(part))) == len(known)


def test_what_is_asked_for_and_not_drawn_is_told(rig):
    pad = rig.add_control("pad")
    entry = rig.add_entry(pad, 45.0, 0.0)
    rig.say(entry, ("part", rig.parts["nose"], "drawing", 1.0))
    assert undrawn(rig.puppet, rig.puppet.entry(entry)) == []
    Drawings(rig.workspace, rig.puppet_id).remove(rig.parts["nose"], [1])
    assert undrawn(rig.puppet, rig.puppet.entry(entry)) == ["nose"]
    rig.reflect(pad)
    other = next(e for e in rig.puppet.entries_of(pad) if e.x < 0)
    assert [r.value for r in other.rows] == [NO_DRAWING] and undrawn(rig.puppet, other) == ["nose"]


def test_places_are_refused_where_none_can_be(rig):
    pad, gauge = rig.add_control("pad"), rig.add_control("gauge")
    entry = rig.add_entry(pad, 170.0, 10.0)
    before = rig.puppet
    for work, said in (
        (lambda: rig.add_entry(pad, 0.2, 0.1), "at rest"),
        (lambda: rig.add_entry(pad, 200.0, 0.0), "lies within 180"),
        (lambda: rig.add_entry(gauge, -120.0, 0.0), "within 100%"),
        (lambda: rig.add_entry(pad, 170.3, 10.0), "already"),
        (lambda: rig.set_entry(entry, {"x": 0.0, "y": 0.0}), "at rest"),
        (lambda: rig.add_fix(rig.ids["nose"], 0.0), "at rest"),
        (lambda: rig.set_control(gauge, {"wraps": True}), "Only a pad"),
        (lambda: rig.say(rig.add_fix(rig.ids["nose"], 30.0), ("bone", rig.ids["body"], "turn", 3.0)), "never bones"),
    ):
        with pytest.raises(InvalidInputError, match=said):
            work()
    assert rig.puppet.entries_of(pad) == before.entries_of(pad) and rig.puppet.control(gauge) == before.control(gauge)


def test_a_joint_that_goes_takes_its_fix_along_and_undo_brings_both_back(rig):
    rig.say(rig.add_fix(rig.ids["near lower"], -90.0), ("part", rig.parts["near upper"], "turn", 3.0))
    before = rig.puppet
    Bench(rig.workspace, rig.puppet_id).remove_bones([rig.ids["near lower"]])
    assert rig.puppet.controls == rig.puppet.entries == ()
    take_step(rig.workspace.store, rig.puppet_id, "undo")
    assert (rig.puppet.controls, rig.puppet.entries) == (before.controls, before.entries)


def test_controls_travel_in_an_archive(rig):
    pad = make_pad(rig)
    entry = rig.add_fix(rig.ids["near lower"], -90.0)
    part = rig.parts["near lower"]
    corner = rig.anchors(entry, part)[0]
    move = Drag("points", (("part", part),), (0.0, 0.0), (3.0, 5.0), (corner[0],))
    rig.put_rows(entry, (), rig.dragged(rig.puppet.entry(entry), rig.compiled(entry), move).reshapes)
    data = pack_puppet(rig.workspace, rig.puppet_id)
    twin = rig.workspace.puppet(bring_in(rig.workspace, data, f"arms{SUFFIX}").puppet_id)
    assert [(c.kind, c.name) for c in twin.controls] == [(c.kind, c.name) for c in rig.puppet.controls]
    names = {b.id: b.name for p in (rig.puppet, twin) for b in (*p.bones, *p.parts)}

    def said(puppet):
        return [
            (e.x, e.y, [(r.kind, names[r.owner_id], r.property, r.value) for r in e.rows],
             [(names[r.part_id], r.points) for r in e.reshapes])
            for c in puppet.controls for e in puppet.entries_of(c.id)
        ]  # fmt: skip

    assert said(twin) == said(rig.puppet) and len(said(twin)) == 5
    assert pad not in {c.id for c in twin.controls}


def test_pads_are_copied_with_beads_ridden_noted_and_laid_by_phrases(rig):
    pad, gauge = make_pad(rig), rig.add_control("gauge", "talk")
    side = next(e for e in rig.puppet.entries_of(pad) if e.x == 90)
    rig.say(side.id, ("part", rig.parts["near lower"], "place", -4.0))
    rig.say(rig.add_entry(gauge, 100.0, 0.0), ("bone", rig.ids["nose"], "stretch", 2.0))
    update_scene(rig.floor, frames=48)
    beads = []
    for frame, x, open_ in ((0, 0.0, 0.0), (10, 90.0, 100.0), (20, 0.0, 0.0)):
        set_values(rig.floor, frame, {(rig.who, pad, "x"): x, (rig.who, gauge, "x"): open_})
        beads += [Bead(rig.who, pad, float(frame)), Bead(rig.who, gauge, float(frame))]
    clip = clip_of_beads(rig.floor, beads)
    paste_clip(rig.floor, clip, rig.who, 24.0, way="across")
    values = rig.floor.values_at(np.array([10.0, 34.0]))
    assert values[rig.who, pad, "x"].tolist() == [90, -90] and values[rig.who, gauge, "x"].tolist() == [100, 100]

    found = [n for n in scene_notes(rig.workspace, rig.scene) if n.kind == "order"]
    keys = {n.frame: n.said for n in found}
    assert len(found) == 2 and all("near lower" in said for said in keys.values())
    # Half way between the places at 45 and 90 degrees the nearest one changes.
    for frame in keys:
        here, before = (rig.floor.values_at(np.array([f]))[rig.who, pad, "x"][0] for f in (frame, frame - 1))
        assert min(here, before) < 67.5 <= max(here, before) + 1e-9

    ridden = record_control(rig.floor, rig.who, pad, [PointerPlace(f, 3.0 * f, -f) for f in range(0, 31, 5)])
    assert ridden.keys < 12 and ridden.error <= 1
    assert rig.floor.values_at(np.array([15.0]))[rig.who, pad, "x"][0] == pytest.approx(45, abs=1.5)
    assert rig.floor.values_at(np.array([15.0]))[rig.who, pad, "y"][0] == pytest.approx(-15, abs=1.5)

    keyed = [Bead(rig.who, gauge, f) for f in (0.0, 10.0, 20.0)]
    make_phrase(rig.floor, keyed, "A word", put=True)
    assert rig.floor.values_at(np.array([10.0]))[rig.who, gauge, "x"][0] == pytest.approx(100)
    left = {c.id for c in rig.floor.scene.channels if c.owner_id == gauge}
    assert 10.0 not in [k.time for k in rig.floor.scene.keys if k.channel_id in left]


def test_moved_points_say_nothing_of_a_drawing_that_has_others(rig):
    entry = rig.add_fix(rig.ids["near lower"], -90.0)
    part = rig.parts["near lower"]
    corner = rig.anchors(entry, part)[0]
    move = Drag("points", (("part", part),), (0.0, 0.0), (3.0, 5.0), (corner[0],))
    rig.put_rows(entry, (), rig.dragged(rig.puppet.entry(entry), rig.compiled(entry), move).reshapes)
    rig.key(0, rig.ids["near lower"], "turn", -90)

    def away():
        frames = rig.seen()
        index = frames.part_keys.index((rig.who, part))
        rest = rig.outline(rig.puppet.part(part), 0).points
        return np.abs(frames.points[0, frames.soft[index].drawing(0)] - rest).max()

    assert away() == pytest.approx(5, abs=1e-3)
    other = ARMS.replace(b"M10 92 H60 V108 H10 Z", b"M10 92 H60 V108 H40 V112 H10 Z")
    ArtAgain(rig.workspace, rig.puppet_id).renew(other, "arms.svg")
    assert away() < 1e-4
    assert rig.anchors(entry, part)[0][0] == corner[0] and len(rig.anchors(entry, part)) == 6
