"""Gait cards of one's own: kept, changed, mixed, taken to files and back; those that ship stay as they are."""

import numpy as np
import pytest

from builders.making_bvh import bvh_text
from builders.named import id_of
from gaitwire.core.errors import ConflictError, InvalidInputError, NotFoundError
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.settings import GROUPS, SETTINGS
from gaitwire.core.walk.stride import Stride
from gaitwire.services.gait import gait_cards as cards
from gaitwire.services.gait.desk_curves import panels
from gaitwire.services.gait.preview import preview, walkers
from gaitwire.services.gait.put_in_scene import put_in_scene
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.store.documents import list_documents
from gaitwire.store.history import SHELF, take_step


@pytest.fixture
def tamsin(orchard):
    return id_of(orchard, "puppet", "Tamsin")


def test_the_first_change_of_a_card_that_ships_makes_one_of_ones_own(orchard):
    made = cards.CardDesk(orchard, "weary").set({"lean": 14.0, "stance_share": 70.0})
    own = cards.card_at(orchard, made)
    assert (own.name, own.lean, own.stance_share) == ("weary 2", 14.0, 0.7)
    assert own.model_copy(update={"name": "weary", "lean": 9, "stance_share": 0.66}) == CHARACTERS["weary"]
    desk = cards.CardDesk(orchard, made)
    assert desk.set({"lean": 20.0}) == made and desk.rename("  Tired  Tom ") == made
    assert [c.card.name for c in cards.list_cards(orchard)[:2]] == ["Tired Tom", "plain"]
    take_step(orchard.store, made, "undo")
    take_step(orchard.store, made, "undo")
    assert desk.card.lean == 14.0
    with pytest.raises(ConflictError):
        cards.CardDesk(orchard, made, revision=1).set({"lean": 1.0})
    desk.take_off()
    with pytest.raises(NotFoundError, match="no gait card"):
        cards.card_at(orchard, made)
    take_step(orchard.store, SHELF, "undo")
    assert cards.card_at(orchard, made).lean == 14.0


def test_a_card_goes_through_a_file_unchanged_and_a_mix_is_kept(orchard):
    made = cards.CardDesk(orchard, "plain").set({"bounce": 3.125})
    text, name = cards.export_card(orchard, made)
    again = cards.card_at(orchard, cards.bring_card(orchard, text.encode()))
    assert again.model_copy(update={"name": "plain 2"}) == cards.card_at(orchard, made)
    assert again.name == "plain 2 2" and name == "plain 2.gait.json"
    mixed = cards.card_at(orchard, cards.CardDesk(orchard, "plain").mix("proud", 0.5))
    assert mixed.lean == pytest.approx((2 - 7) / 2)
    with pytest.raises(InvalidInputError, match="with itself"):
        cards.CardDesk(orchard, "plain").mix("plain", 0.5)


@pytest.mark.parametrize(
    ("shown", "said"), [({"lean": 99.0}, "goes from -40 to 60"), ({"wobble": 1.0}, "no setting"), ({"stride": -1}, "0 to")]
)  # fmt: skip
def test_what_does_not_fit_is_refused_by_name(orchard, shown, said):
    with pytest.raises(InvalidInputError, match=said):
        cards.CardDesk(orchard, "plain").set(shown)
    assert not list_documents(orchard.store, "card")


def test_every_setting_of_a_card_is_shown_and_read_back_as_it_is():
    assert SETTINGS.keys() == GaitCard.model_fields.keys() - {"name"}
    for card in CHARACTERS.values():
        for setting in SETTINGS.values():
            stored = getattr(card, setting.name)
            assert setting.read(setting.shown(card)) == pytest.approx(
                stored, abs=0.6 / 10**setting.decimals / setting.factor
            )
            low, high = GaitCard.bounds(setting.name)
            assert low <= setting.low / setting.factor < setting.high / setting.factor <= high
    assert all(s.tip.endswith(".") for group in GROUPS.values() for s in group)


def test_the_preview_is_one_stride_whose_last_picture_leads_to_its_first(orchard, tamsin):
    shown = preview(orchard, tamsin, CHARACTERS["weary"])
    assert shown.pictures == 32 and shown.rate == 24
    along = shown.frames.nodes[..., 4:]
    steps = np.abs(np.diff(np.concatenate([along, along[:1]]), axis=0)).max(axis=(1, 2))
    assert steps[-1] < 1.5 * steps[:-1].max()
    assert [(p.name, p.side) for p in shown.poses()] == [
        (name, side) for side in ("near", "far") for name in ("contact", "down", "passing", "up")
    ]
    far = preview(orchard, tamsin, CHARACTERS["weary"], travels=True)
    assert len(far.frames) == 64 and not any(far.way())


@pytest.mark.parametrize("name", ["plain", "weary", "limping", "run"])
def test_footprints_lie_under_feet_that_are_down(orchard, tamsin, name):
    shown = preview(orchard, tamsin, CHARACTERS[name], travels=True)
    frames, owners = shown.frames, [k[1] for k in shown.frames.node_keys]
    stride, (near, far) = shown.gait.stride, shown.walker.legs
    phase = stride.phase_of(shown.times / CHARACTERS[name].frames)
    for side, foot in enumerate((near.foot, far.foot)):
        build, step = stride.sides[side], stride.steps[side]
        share = np.mod(phase - stride.lands[side], 1.0)
        flat = (share > step.flat) & (share < step.heel_off)
        ankles = frames.nodes[flat, owners.index(foot.id), 4]
        heels = [p.heel for p in shown.prints() if p.side == ("near", "far")[side]]
        behind = build.heel * shown.walker.length
        assert all(min(abs(a - behind - h) for h in heels) < 0.05 for a in ankles) and len(ankles) > 1


def test_panels_tell_what_is_measured(orchard, tamsin):
    plain = panels(preview(orchard, tamsin, CHARACTERS["plain"]))
    told = dict(plain.figures)
    assert told["steps a minute"] == "120" and told["stance"].endswith("%") and "," not in told["stance"]
    assert [(f.name, len(f.spans)) for f in plain.feet] == [("near", 1), ("far", 2)] and [
        p.joint for p in plain.plots
    ] == ["hip", "knee", "ankle"]
    run = dict(panels(preview(orchard, tamsin, CHARACTERS["run"])).figures)
    assert run["in the air"] == "14 % twice"
    assert "," in dict(panels(preview(orchard, tamsin, CHARACTERS["limping"])).figures)["stance"]


def test_puppets_that_can_walk_come_first_and_others_say_what_they_lack(orchard):
    found = walkers(orchard)
    able = [one for one in found if not one.lacks]
    assert {one.name for one in able} == {"Bramble", "Tamsin", "Tamsin, front", "Gander"} and able == found[: len(able)]
    assert all("cannot walk yet" in one.lacks for one in found[len(able) :])


@pytest.mark.parametrize("as_keys", [False, True])
def test_a_walk_goes_into_a_new_scene_or_onto_the_puppet_that_stands_there(orchard, tamsin, as_keys):
    desk = cards.CardDesk(orchard, "brisk")
    scene = orchard.scene(put_in_scene(desk, tamsin, "", travels=False, as_keys=as_keys))
    assert scene.loop and scene.frames == 18 and bool(scene.keys) == as_keys == (not scene.gaits)
    there = Floor(orchard, make_scene(orchard, "There", frames=60, loop=False))
    who = add_puppet(there, tamsin)
    assert put_in_scene(desk, tamsin, there.scene_id, travels=True, as_keys=as_keys) == there.scene_id
    assert [i.id for i in there.scene.instances] == [who]
    moved = orchard.frames(there.scene_id, np.array([0.0, 59.0])).nodes[:, 0, 4]
    assert moved[1] - moved[0] > 300


def test_a_walk_of_a_scene_is_changed_on_the_desk(orchard, tamsin):
    scene = put_in_scene(cards.CardDesk(orchard, "brisk"), tamsin, "", travels=False, as_keys=False)
    gait = orchard.scene(scene).gaits[0]
    desk = cards.desk_of(orchard, f"{scene}{cards.BETWEEN}{gait.id}")
    assert desk.card == CHARACTERS["brisk"] and desk.set({"lean": 12}) == desk.ref
    assert orchard.scene(scene).gaits[0].card.lean == 12 and not list_documents(orchard.store, "card")
    desk.mix("weary", 1.0)
    assert orchard.scene(scene).gaits[0].card.lean == CHARACTERS["weary"].lean
    copy = cards.card_at(orchard, desk.copy())
    assert copy.lean == CHARACTERS["weary"].lean


def test_a_card_is_fitted_to_a_skeleton_and_keeps_what_it_was_fitted_to(orchard, tamsin):
    stride = Stride(CHARACTERS["weary"].model_copy(update={"dwell": 0.0}))
    ref, found = cards.fit_walk(orchard, bvh_text(stride).encode(), "Old Tom.bvh")
    assert max(found.fit.off.values()) < 2.5 and found.walk.strides >= 4
    card = cards.card_at(orchard, ref)
    assert card.name == "Old Tom" and card.stride == pytest.approx(stride.length, abs=0.2)
    assert card.frames_a_step == pytest.approx(16, abs=0.3)
    curves = cards.measured_at(orchard, ref)
    assert len(curves["knee"]) == 101 and cards.measured_at(orchard, "plain") is None
    plots = panels(preview(orchard, tamsin, card), curves).plots
    assert all(p.measured and p.off is not None for p in plots)
    assert cards.measured_at(orchard, cards.CardDesk(orchard, ref).copy()) == curves
    assert cards.CardDesk(orchard, ref).set({"lean": 3}) == ref and cards.measured_at(orchard, ref) == curves
    with pytest.raises(InvalidInputError, match="no BVH"):
        cards.fit_walk(orchard, b"nothing", "nothing.bvh")
