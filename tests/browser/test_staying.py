"""What is shown, turned round, closed and asked, by hand on the Floor's card; each is one step, and undone by one."""

import numpy as np
import pytest

from browser.hands import act, pick, seek, unfold
from gaitwire.services.scene.floor import add_puppet, make_scene, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_course
from gaitwire.services.scene.timing import repeat_channels
from gaitwire.services.scene.visibility import shown_spans
from gaitwire.store.documents import list_documents


class Trial:
    """Pip and Tamsin in a loop of 48."""

    def __init__(self, program):
        self.program, self.page, workspace = program, program.page, program.workspace
        self.floor = Floor(workspace, make_scene(workspace, "Trial", frames=48, loop=True, ground=648.0))
        ids = {e.name: e.id for e in list_documents(workspace.store, "puppet")}
        self.pip = add_puppet(self.floor, ids["Pip"], x=420.0, y=648.0)
        self.who = add_puppet(self.floor, ids["Tamsin"], x=820.0, y=648.0, scale=0.7)
        program.floor("Trial")
        unfold(self.page)

    def press(self, name):
        act(self.program, self.page.locator("#card").get_by_role("button", name=name, exact=True).click)

    def fill(self, label, value):
        box = self.page.get_by_label(label, exact=True)
        box.fill(str(value))
        return box

    def spans(self, who):
        return shown_spans(self.floor, (who, who))

    def undo(self):
        act(self.program, lambda: self.page.keyboard.press("Control+z"))


@pytest.fixture
def trial(program):
    return Trial(program)


def test_a_whole_puppet_fades_is_shown_on_spans_and_gives_its_place_to_another(trial):
    page, program = trial.page, trial.program
    seek(page, 10)
    pick(program, "Pip, whole")
    box = trial.fill("Opacity of all of it", 40)
    act(program, lambda: box.press("Enter"))
    frames = program.workspace.frames(trial.floor.scene_id, np.array([0.0, 10.0]))
    own = next(n for n, key in enumerate(frames.part_keys) if key[0] == trial.pip)
    assert frames.fade[:, own].tolist() == pytest.approx([1.0, 0.4])
    trial.fill("Frames on which Pip, whole is shown", "3-5, 9")
    trial.press("only on")
    assert trial.spans(trial.pip) == ((3, 5), (9, 9))
    trial.fill("Frames on which Pip, whole is shown", "3 to")
    trial.press("only on")
    assert "are no frames" in page.inner_text("#remarks") and trial.spans(trial.pip) == ((3, 5), (9, 9))
    program.page.complaints.clear()  # the browser tells of the answer 422 by itself
    trial.undo()
    trial.undo()
    seek(page, 20)
    pick(program, "Pip, whole")
    page.get_by_label("What takes the place of Pip", exact=True).select_option(label="Tamsin")
    trial.press("swap with")
    assert trial.spans(trial.pip) == ((0, 19),) and trial.spans(trial.who) == ((20, 47),)


def test_a_puppet_turns_round_in_stages_or_as_one(trial):
    page, program = trial.page, trial.program
    seek(page, 8)
    pick(program, "Tamsin, whole")
    trial.press("here")
    (turn,) = trial.floor.scene.turns
    assert (turn.time, turn.frames, turn.manner) == (8, 10, "stages")
    act(program, lambda: page.get_by_label("How it turns", exact=True).select_option("whole"))
    assert trial.floor.scene.turns[0].manner == "whole"


def test_a_hop_in_a_loop_asks_and_a_seam_is_eased_closed_from_the_card(trial):
    page, program = trial.page, trial.program
    update_scene(trial.floor, frames=120)
    set_course(
        trial.floor, {0.0: {(trial.who, trial.who, "shift_x"): 0.0}, 25.0: {(trial.who, trial.who, "shift_x"): 100.0}}
    )
    repeat_channels(trial.floor, [(trial.who, trial.who)], "there and back")
    program.floor("Trial")
    seek(page, 30)
    pick(program, "Pip, whole")
    page.locator("#card [data-act=hop]").click()
    page.get_by_role("button", name="the loop travels: each round begins where the last one ended").click()
    program.settled()
    page.complaints.clear()  # the browser tells of the answer 428 by itself
    assert {c.repeat for c in trial.floor.scene.channels if c.owner_id == trial.pip and c.property == "shift_x"} == {
        "onward"
    }
    pick(program, "Tamsin, whole")
    assert "it would meet the loop at 30 f a round, or a loop of 100 f" in page.inner_text("#card .seams")
    keys = trial.floor.scene.keys
    trial.press("ease closed")
    assert trial.floor.scene.keys == keys and len(trial.floor.scene.offsets) == 1
