"""Phrases in a scene: made from beads, laid, edited through, renewed, untied, made into keys."""

import numpy as np
import pytest

from builders.acting import Alone
from builders.named import id_of
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import HistoryError, InvalidInputError, LockedError, NotFoundError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.library.phrases import drop_phrase, keep_phrase, list_phrases, set_phrase
from gaitwire.services.scene.beads import delete_beads
from gaitwire.services.scene.floor import add_puppet, remove_instance, update_instance
from gaitwire.services.scene.phrase_keys import make_phrase_own
from gaitwire.services.scene.phrases import (
    copy_use,
    course_of_use,
    drag_use,
    find_use,
    fit_phrase_to_loop,
    keep_use,
    make_phrase,
    put_phrase,
    renew_phrase,
    set_use,
    untie_use,
)
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.views.notes import scene_notes
from gaitwire.services.views.phrase_card import use_card
from gaitwire.store.documents import list_documents, revision_of
from gaitwire.store.history import SHELF, take_step

FRAMES = range(60)


class Stage(Alone):
    """Tamsin on a floor of her own; her arm is keyed, and what her face shows."""

    def __init__(self, workspace, frames=60, loop=False):
        super().__init__(workspace, place={"x": 300.0, "y": 640.0}, frames=frames, loop=loop)
        self.arm, self.head = self.ids["near upper arm"], self.ids["face"]

    def key(self, owner, prop, *points):
        for time, value in points:
            set_values(self.floor, float(time), {(self.who, owner, prop): value})

    def beads(self, owner, *times):
        return [Bead(self.who, owner, float(t)) for t in times]

    def seen(self, owner, prop="turn", frames=FRAMES):
        return super().seen(owner, frames, prop)

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
    update_instance(stage.floor, stage.who, locked=True)
    with pytest.raises(LockedError):
        make_phrase(stage.floor, stage.beads(stage.arm, 0, 10), "Hail", put=True)
    assert [p.name for p in list_phrases(orchard)] == before and not stage.floor.scene.phrase_uses


def test_beads_that_become_a_phrase_leave_the_picture_as_it_was(stage):
    before = stage.seen(stage.arm)
    make_phrase(stage.floor, stage.beads(stage.arm, 0, 10, 20), "Hail", put=True, tags=("arm", "greet"))
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
    ref = make_phrase(stage.floor, stage.beads(part.id, 4, 8), "Fades")
    delete_beads(stage.floor, stage.beads(part.id, 4, 8))
    put_phrase(stage.floor, stage.who, ref, 20.0)
    assert stage.seen(part.id, "place", [19, 20, 23, 24, 25]).tolist() == [0, 3, 3, -2, 0]
    assert stage.seen(part.id, "opacity", [19, 20, 24, 25]) == pytest.approx([1, 1, 0.25, 1])
    with pytest.raises(LockedError, match="Fades"):
        set_values(stage.floor, 22.0, {(stage.who, part.id, "place"): 1.0})


def test_what_is_keyed_under_a_phrase_is_what_is_seen(stage):
    put_phrase(stage.floor, stage.who, "point", 8.0, still=0.5)
    set_values(stage.floor, 24.0, {(stage.who, stage.arm, "turn"): -33.0})
    assert stage.seen(stage.arm, frames=[24]) == pytest.approx([-33.0])
    set_use(stage.floor, stage.floor.scene.phrase_uses[0].id, {"still": 1.0, "fade_in": 0.0, "fade_out": 0.0})
    with pytest.raises(LockedError, match="“Point” decides"):
        set_values(stage.floor, 24.0, {(stage.who, stage.arm, "turn"): -40.0})
    assert [k.time for k in stage.floor.scene.keys] == [0, 10, 20, 24, 40]


def test_what_is_tied_follows_its_source_and_what_is_untied_does_not(stage):
    ref = make_phrase(stage.floor, stage.beads(stage.arm, 0, 10), "Hail")
    delete_beads(stage.floor, stage.beads(stage.arm, 10, 20, 40))
    tied = put_phrase(stage.floor, stage.who, ref, 0.0).use
    untied = copy_use(stage.floor, tied, 30.0)
    untie_use(stage.floor, untied)
    stage.key(stage.head, "turn", (50, 0), (55, 40))
    stamp = stage.floor.scene.revision
    renew_phrase(stage.floor, ref, stage.beads(stage.head, 50, 55))
    assert stage.floor.scene.revision > stamp and revision_of(stage.workspace.store, ref) == 2
    assert stage.seen(stage.head, frames=[0, 5, 6]) == pytest.approx([0, 40, 0])
    assert stage.seen(stage.arm, frames=[5, 10, 40]) == pytest.approx([5, 5, -60])
    take_step(stage.workspace.store, stage.floor.scene_id, "undo")
    assert stage.seen(stage.arm, frames=[10, 40]) == pytest.approx([-60, -60])


def test_a_use_sleeps_while_its_phrase_is_gone_and_wakes_when_it_is_back(stage):
    ref = make_phrase(stage.floor, stage.beads(stage.arm, 0, 10), "Hail", put=True)
    use = stage.floor.scene.phrase_uses[0].id
    there = stage.seen(stage.arm, frames=[10])
    drop_phrase(stage.workspace, ref)
    assert stage.seen(stage.arm, frames=[10]) == pytest.approx([5.0])
    assert use_card(stage.floor, use).phrase is None
    with pytest.raises(NotFoundError, match="is gone"):
        untie_use(stage.floor, use)
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
    use = put_phrase(stage.floor, stage.who, "urge", start, **more).use
    before = stage.picture()
    found = make_phrase_own(stage.floor, use)
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
    ref = make_phrase(stage.floor, stage.beads(part.id, 4, 8), "Shuffled")
    delete_beads(stage.floor, stage.beads(part.id, 4, 8))
    use = put_phrase(stage.floor, stage.who, ref, 20.0).use
    before = stage.seen(part.id, "place")
    make_phrase_own(stage.floor, use)
    assert stage.seen(part.id, "place").tolist() == before.tolist()


def test_over_a_walk_a_phrase_is_keyed_on_top(orchard):
    stage = Stage(orchard)
    put_gait(stage.floor, stage.who, CHARACTERS["plain"])
    use = put_phrase(stage.floor, stage.who, "wave", 6.0, pace=0.6).use
    before = stage.picture()[0]
    make_phrase_own(stage.floor, use)
    assert stage.floor.scene.gaits and np.abs(stage.picture()[0][..., :4] - before[..., :4]).max() < 0.02


def test_a_bar_is_moved_trimmed_and_repeated(stage):
    use = put_phrase(stage.floor, stage.who, "nod", 4.0).use
    long = course_of_use(stage.floor, find_use(stage.floor, use)).span
    drag_use(stage.floor, use, 9.0, 9.0 + long)
    assert find_use(stage.floor, use).start == 9 and find_use(stage.floor, use).ends is None
    drag_use(stage.floor, use, 9.0, 19.0)
    assert find_use(stage.floor, use).ends == pytest.approx(10.0)
    drag_use(stage.floor, use, 12.0, 19.0)
    assert (find_use(stage.floor, use).start, find_use(stage.floor, use).begins) == (12.0, pytest.approx(3.0))
    drag_use(stage.floor, use, 12.0, 12.0 + 2 * (long - 3))
    found = find_use(stage.floor, use)
    assert (found.ends, found.repeats) == (None, 2)


def test_settings_of_a_phrase_that_ships(stage):
    use = put_phrase(stage.floor, stage.who, "nod", 0.0).use
    shallow = np.abs(stage.seen(stage.head)).max()
    set_use(stage.floor, use, {"settings": {"depth": 32.0}})
    assert np.abs(stage.seen(stage.head)).max() == pytest.approx(2 * shallow, rel=0.05)
    for values, said in (({"settings": {"depth": 400.0}}, "goes from"), ({"repeats": -1}, "Type 0"),
                         ({"begins": 400.0}, "Nothing is left")):  # fmt: skip
        with pytest.raises(InvalidInputError) as error:
            set_use(stage.floor, use, values)
        assert said in f"{error.value} {error.value.hint}"
    keep_use(stage.floor, use, "Grave nod")
    with pytest.raises(InvalidInputError, match="that ship"):
        set_use(stage.floor, use, {"settings": {"depth": 3.0}})
    assert np.abs(stage.seen(stage.head)).max() == pytest.approx(2 * shallow, rel=0.05)


def test_what_cannot_be_made_or_laid_is_refused_with_nothing_stored(stage):
    floor = stage.floor
    known = list_documents(stage.workspace.store, "phrase")
    barrel = add_puppet(floor, id_of(stage.workspace, "puppet", "Cider barrel"))
    with pytest.raises(InvalidInputError, match="Nothing on “Cider barrel” answers to “Nod”"):
        put_phrase(floor, barrel, "nod", 0.0)
    with pytest.raises(NotFoundError):
        put_phrase(floor, stage.who, "no-such", 0.0)
    set_values(floor, 0.0, {(barrel, barrel, "shift_x"): 4.0})
    with pytest.raises(InvalidInputError, match="several puppets"):
        make_phrase(floor, [*stage.beads(stage.arm, 0), Bead(barrel, barrel, 0.0)], "Both")
    with pytest.raises(InvalidInputError, match="name"):
        make_phrase(floor, stage.beads(stage.arm, 0, 10), "  ")
    with pytest.raises(InvalidInputError, match="that ship"):
        renew_phrase(floor, "nod", stage.beads(stage.arm, 0, 10))
    update_instance(floor, stage.who, locked=True)
    with pytest.raises(LockedError):
        put_phrase(floor, stage.who, "nod", 0.0)
    assert not floor.scene.phrase_uses and list_documents(stage.workspace.store, "phrase") == known


def test_a_puppet_taken_out_takes_its_phrases_along_and_undo_brings_them_back(stage):
    put_phrase(stage.floor, stage.who, "nod", 0.0)
    remove_instance(stage.floor, stage.who)
    assert not stage.floor.scene.phrase_uses
    take_step(stage.workspace.store, stage.floor.scene_id, "undo")
    assert len(stage.floor.scene.phrase_uses) == 1


def test_phrases_on_the_shelf_are_named_tagged_and_found(stage):
    workspace = stage.workspace
    ref = make_phrase(stage.floor, stage.beads(stage.arm, 0, 10), "Nod")
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
    use = put_phrase(stage.floor, stage.who, "breathe", 0.0).use
    jumped = [n for n in scene_notes(orchard, stage.floor.scene_id) if n.kind == "seam"]
    count = fit_phrase_to_loop(stage.floor, use)
    fitted = find_use(stage.floor, use)
    assert fitted.repeats == count and course_of_use(stage.floor, fitted).round * count == pytest.approx(96)
    assert [n for n in scene_notes(orchard, stage.floor.scene_id) if n.kind == "seam"] == []
    assert jumped or count * course_of_use(stage.floor, fitted).round == 96
    alone = Stage(orchard)
    laid = put_phrase(alone.floor, alone.who, "breathe", 0.0).use
    with pytest.raises(InvalidInputError, match="does not loop"):
        fit_phrase_to_loop(alone.floor, laid)


def test_keys_of_a_phrase_are_written_only_where_it_plays_something(stage):
    use = put_phrase(stage.floor, stage.who, "nod", 12.0).use
    set_use(stage.floor, use, {"amount": 0.0})
    before = stage.floor.scene.channels
    assert make_phrase_own(stage.floor, use).keys == 0 and stage.floor.scene.channels == before
