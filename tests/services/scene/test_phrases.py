"""Phrases in a scene: made from beads, laid, edited through, renewed, untied, made into keys."""

import numpy as np
import pytest

from gaitwire.core.addresses import Bead
from gaitwire.core.errors import HistoryError, InvalidInputError, LockedError, NotFoundError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.library.phrases import drop_phrase, keep_phrase, list_phrases, set_phrase
from gaitwire.services.scene.floor import Floor, make_scene
from gaitwire.services.views.notes import scene_notes
from gaitwire.services.views.phrase_card import use_card
from gaitwire.store.documents import list_documents, revision_of
from gaitwire.store.history import SHELF, take_step

FRAMES = range(60)


class Stage:
    """Tamsin, and beside her Stook, on a floor of their own; her arm is keyed, and what her face shows."""

    def __init__(self, workspace, frames=60, loop=False):
        self.workspace = workspace
        self.floor = Floor(workspace, make_scene(workspace, "Saying", frames=frames, loop=loop))
        self.ids = {e.name: e.id for e in list_documents(workspace.store, "puppet")}
        self.who = self.floor.add_puppet(self.ids["Tamsin"], x=300.0, y=640.0)
        self.puppet = workspace.puppet(self.ids["Tamsin"])
        self.bones = {b.name: b.id for b in self.puppet.bones}
        self.arm, self.head = self.bones["near upper arm"], self.bones["face"]

    def key(self, owner, prop, *points):
        for time, value in points:
            self.floor.set_values(float(time), {(self.who, owner, prop): value})

    def beads(self, owner, *times):
        return [Bead(self.who, owner, float(t)) for t in times]

    def seen(self, owner, prop="turn", frames=FRAMES):
        return self.floor.values_at(np.array(frames, float))[self.who, owner, prop]

    def picture(self):
        frames = evaluate(self.workspace.compiled(self.floor.scene_id), np.array(FRAMES, float))
        return frames.matrices, frames.drawing, frames.order


@pytest.fixture
def stage(orchard):
    found = Stage(orchard)
    found.key(found.arm, "turn", (0, 5), (10, -60), (20, -20), (40, 12))
    return found


def test_beads_of_a_locked_puppet_become_no_phrase_in_their_place(orchard, stage):
    before = [p.name for p in list_phrases(orchard)]
    stage.floor.update_instance(stage.who, locked=True)
    with pytest.raises(LockedError):
        stage.floor.make_phrase(stage.beads(stage.arm, 0, 10), "Hail", put=True)
    assert [p.name for p in list_phrases(orchard)] == before and not stage.floor.scene.phrase_uses


def test_beads_that_become_a_phrase_leave_the_picture_as_it_was(stage):
    before = stage.seen(stage.arm)
    stage.floor.make_phrase(stage.beads(stage.arm, 0, 10, 20), "Hail", put=True, tags=("arm", "greet"))
    assert stage.seen(stage.arm, frames=range(21)) == pytest.approx(before[:21])
    assert stage.seen(stage.arm, frames=range(40, 60)) == pytest.approx(before[40:])
    (use,) = stage.floor.scene.phrase_uses
    keys = [(k.time, k.value) for k in stage.floor.scene.keys]
    assert sorted(keys) == [(0, 5), (20, 5), (40, 12)] and use.source
    take_step(stage.workspace.store, stage.floor.scene_id, "undo")
    assert not stage.floor.scene.phrase_uses and stage.seen(stage.arm) == pytest.approx(before)
    assert "Hail" in [p.name for p in list_phrases(stage.workspace)]


def test_a_drawing_and_its_order_go_into_a_phrase(orchard):
    stage = Stage(orchard)
    part = next(p for p in stage.puppet.parts if p.name == "head" or p.bone_id == stage.head)
    stage.key(part.id, "place", (4, 3), (8, -2))
    stage.key(part.id, "opacity", (4, 1.0), (8, 0.25))
    ref = stage.floor.make_phrase(stage.beads(part.id, 4, 8), "Fades")
    stage.floor.delete_beads(stage.beads(part.id, 4, 8))
    stage.floor.put_phrase(stage.who, ref, 20.0)
    assert stage.seen(part.id, "place", [19, 20, 23, 24, 25]).tolist() == [0, 3, 3, -2, 0]
    assert stage.seen(part.id, "opacity", [19, 20, 24, 25]) == pytest.approx([1, 1, 0.25, 1])
    with pytest.raises(LockedError, match="Fades"):
        stage.floor.set_values(22.0, {(stage.who, part.id, "place"): 1.0})


def test_what_is_keyed_under_a_phrase_is_what_is_seen(stage):
    stage.floor.put_phrase(stage.who, "point", 8.0, still=0.5)
    stage.floor.set_values(24.0, {(stage.who, stage.arm, "turn"): -33.0})
    assert stage.seen(stage.arm, frames=[24]) == pytest.approx([-33.0])
    stage.floor.set_use(stage.floor.scene.phrase_uses[0].id, {"still": 1.0, "fade_in": 0.0, "fade_out": 0.0})
    with pytest.raises(LockedError, match="“Point” decides"):
        stage.floor.set_values(24.0, {(stage.who, stage.arm, "turn"): -40.0})
    assert [k.time for k in stage.floor.scene.keys] == [0, 10, 20, 24, 40]


def test_what_is_tied_follows_its_source_and_what_is_untied_does_not(stage):
    ref = stage.floor.make_phrase(stage.beads(stage.arm, 0, 10), "Hail")
    stage.floor.delete_beads(stage.beads(stage.arm, 10, 20, 40))
    tied = stage.floor.put_phrase(stage.who, ref, 0.0).use
    untied = stage.floor.copy_use(tied, 30.0)
    stage.floor.untie(untied)
    stage.key(stage.head, "turn", (50, 0), (55, 40))
    stamp = stage.floor.scene.revision
    stage.floor.renew_phrase(ref, stage.beads(stage.head, 50, 55))
    assert stage.floor.scene.revision > stamp and revision_of(stage.workspace.store, ref) == 2
    assert stage.seen(stage.head, frames=[0, 5, 6]) == pytest.approx([0, 40, 0])
    assert stage.seen(stage.arm, frames=[5, 10, 40]) == pytest.approx([5, 5, -60])
    take_step(stage.workspace.store, stage.floor.scene_id, "undo")
    assert stage.seen(stage.arm, frames=[10, 40]) == pytest.approx([-60, -60])


def test_a_use_sleeps_while_its_phrase_is_gone_and_wakes_when_it_is_back(stage):
    ref = stage.floor.make_phrase(stage.beads(stage.arm, 0, 10), "Hail", put=True)
    use = stage.floor.scene.phrase_uses[0].id
    there = stage.seen(stage.arm, frames=[10])
    drop_phrase(stage.workspace, ref)
    assert stage.seen(stage.arm, frames=[10]) == pytest.approx([5.0])
    assert use_card(stage.floor, use).phrase is None
    with pytest.raises(NotFoundError, match="is gone"):
        stage.floor.untie(use)
    take_step(stage.workspace.store, SHELF, "undo")
    assert stage.seen(stage.arm, frames=[10]) == pytest.approx(there)


@pytest.mark.parametrize(
    "more",
    [
        {},
        {"repeats": 2, "pace": 0.4, "amount": 0.7},
        {"goes_on": True, "ends": 20.0, "other_side": True},
        {"fade_in": 3.0, "begins": 4.0},
    ],
)
@pytest.mark.parametrize(("loop", "start"), [(False, 6.0), (True, 47.0), (False, 0.0)])
def test_a_phrase_made_into_keys_is_seen_as_before_and_nothing_else_changes(orchard, more, loop, start):
    stage = Stage(orchard, loop=loop)
    stage.key(stage.arm, "turn", (0, 5), (14, -20), (33, 18), (52, 0))
    stage.key(stage.head, "turn", (3, 10))
    use = stage.floor.put_phrase(stage.who, "urge", start, **more).use
    before = stage.picture()
    found = stage.floor.own_use(use)
    assert not stage.floor.scene.phrase_uses and found.keys > 10 and found.error <= 0.1
    matrices, drawing, order = stage.picture()
    # A tenth of a degree for each of some joints, at the end of an arm some hundred pixels long.
    assert np.abs(matrices[..., :4] - before[0][..., :4]).max() < 0.01
    assert (drawing == before[1]).all() and (order == before[2]).all()
    take_step(stage.workspace.store, stage.floor.scene_id, "undo")
    assert stage.floor.scene.phrase_uses


def test_steps_made_into_keys_go_back_to_what_showed_before(orchard):
    stage = Stage(orchard)
    part = next(p for p in stage.puppet.parts if p.bone_id == stage.head)
    stage.key(part.id, "place", (0, 1), (4, 3), (8, -2), (40, 5))
    ref = stage.floor.make_phrase(stage.beads(part.id, 4, 8), "Shuffled")
    stage.floor.delete_beads(stage.beads(part.id, 4, 8))
    use = stage.floor.put_phrase(stage.who, ref, 20.0).use
    before = stage.seen(part.id, "place")
    stage.floor.own_use(use)
    assert stage.seen(part.id, "place").tolist() == before.tolist()


def test_over_a_walk_a_phrase_is_keyed_on_top(orchard):
    stage = Stage(orchard)
    stage.floor.put_gait(stage.who, CHARACTERS["plain"])
    use = stage.floor.put_phrase(stage.who, "wave", 6.0, pace=0.6).use
    before = stage.picture()[0]
    stage.floor.own_use(use)
    assert stage.floor.scene.gaits and np.abs(stage.picture()[0][..., :4] - before[..., :4]).max() < 0.02


def test_a_bar_is_moved_trimmed_and_repeated(stage):
    use = stage.floor.put_phrase(stage.who, "nod", 4.0).use
    long = stage.floor.course(stage.floor.use(use)).span
    stage.floor.drag_use(use, 9.0, 9.0 + long)
    assert stage.floor.use(use).start == 9 and stage.floor.use(use).ends is None
    stage.floor.drag_use(use, 9.0, 19.0)
    assert stage.floor.use(use).ends == pytest.approx(10.0)
    stage.floor.drag_use(use, 12.0, 19.0)
    assert (stage.floor.use(use).start, stage.floor.use(use).begins) == (12.0, pytest.approx(3.0))
    stage.floor.drag_use(use, 12.0, 12.0 + 2 * (long - 3))
    found = stage.floor.use(use)
    assert (found.ends, found.repeats) == (None, 2)


def test_settings_of_a_phrase_that_ships(stage):
    use = stage.floor.put_phrase(stage.who, "nod", 0.0).use
    shallow = np.abs(stage.seen(stage.head)).max()
    stage.floor.set_use(use, {"settings": {"depth": 32.0}})
    assert np.abs(stage.seen(stage.head)).max() == pytest.approx(2 * shallow, rel=0.05)
    for values, said in (({"settings": {"depth": 400.0}}, "goes from"), ({"repeats": -1}, "Type 0"),
                         ({"begins": 400.0}, "Nothing is left")):  # fmt: skip
        with pytest.raises(InvalidInputError) as error:
            stage.floor.set_use(use, values)
        assert said in f"{error.value} {error.value.hint}"
    stage.floor.keep_use(use, "Grave nod")
    with pytest.raises(InvalidInputError, match="that ship"):
        stage.floor.set_use(use, {"settings": {"depth": 3.0}})
    assert np.abs(stage.seen(stage.head)).max() == pytest.approx(2 * shallow, rel=0.05)


def test_what_cannot_be_made_or_laid_is_refused_with_nothing_stored(stage):
    floor = stage.floor
    known = list_documents(stage.workspace.store, "phrase")
    barrel = floor.add_puppet(stage.ids["Cider barrel"])
    with pytest.raises(InvalidInputError, match="Nothing on “Cider barrel” answers to “Nod”"):
        floor.put_phrase(barrel, "nod", 0.0)
    with pytest.raises(NotFoundError):
        floor.put_phrase(stage.who, "no-such", 0.0)
    floor.set_values(0.0, {(barrel, barrel, "shift_x"): 4.0})
    with pytest.raises(InvalidInputError, match="several puppets"):
        floor.make_phrase([*stage.beads(stage.arm, 0), Bead(barrel, barrel, 0.0)], "Both")
    with pytest.raises(InvalidInputError, match="name"):
        floor.make_phrase(stage.beads(stage.arm, 0, 10), "  ")
    with pytest.raises(InvalidInputError, match="that ship"):
        floor.renew_phrase("nod", stage.beads(stage.arm, 0, 10))
    floor.update_instance(stage.who, locked=True)
    with pytest.raises(LockedError):
        floor.put_phrase(stage.who, "nod", 0.0)
    assert not floor.scene.phrase_uses and list_documents(stage.workspace.store, "phrase") == known


def test_a_puppet_taken_out_takes_its_phrases_along_and_undo_brings_them_back(stage):
    stage.floor.put_phrase(stage.who, "nod", 0.0)
    stage.floor.remove_instance(stage.who)
    assert not stage.floor.scene.phrase_uses
    take_step(stage.workspace.store, stage.floor.scene_id, "undo")
    assert len(stage.floor.scene.phrase_uses) == 1


def test_phrases_on_the_shelf_are_named_tagged_and_found(stage):
    workspace = stage.workspace
    ref = stage.floor.make_phrase(stage.beads(stage.arm, 0, 10), "Nod")
    assert workspace.phrase(ref).name == "Nod 2"
    set_phrase(workspace, ref, {"name": " Tips  her hat ", "tags": ("arm", "greet")})
    listed = list_phrases(workspace)[0]
    assert (listed.name, listed.tags, listed.own) == ("Tips her hat", ("arm", "greet"), True)
    with pytest.raises(InvalidInputError):
        set_phrase(workspace, ref, {"view": "from below"})
    with pytest.raises(InvalidInputError, match="ship"):
        set_phrase(workspace, "nod", {"name": "Mine"})
    with pytest.raises(HistoryError):
        take_step(workspace.store, ref, "undo")
    keep_phrase(workspace, workspace.phrase(ref))
    assert [p.name for p in list_phrases(workspace)][:2] == ["Tips her hat 2", "Tips her hat"]


def test_breathing_over_a_loop_is_fitted_so_that_its_seam_is_closed(orchard):
    stage = Stage(orchard, frames=96, loop=True)
    use = stage.floor.put_phrase(stage.who, "breathe", 0.0).use
    jumped = [n for n in scene_notes(orchard, stage.floor.scene_id) if n.kind == "seam"]
    count = stage.floor.fit_to_loop(use)
    fitted = stage.floor.use(use)
    assert fitted.repeats == count and stage.floor.course(fitted).round * count == pytest.approx(96)
    assert [n for n in scene_notes(orchard, stage.floor.scene_id) if n.kind == "seam"] == []
    assert jumped or count * stage.floor.course(fitted).round == 96
    alone = Stage(orchard)
    laid = alone.floor.put_phrase(alone.who, "breathe", 0.0).use
    with pytest.raises(InvalidInputError, match="does not loop"):
        alone.floor.fit_to_loop(laid)


def test_keys_of_a_phrase_are_written_only_where_it_plays_something(stage):
    use = stage.floor.put_phrase(stage.who, "nod", 12.0).use
    stage.floor.set_use(use, {"amount": 0.0})
    before = stage.floor.scene.channels
    assert stage.floor.own_use(use).keys == 0 and stage.floor.scene.channels == before
