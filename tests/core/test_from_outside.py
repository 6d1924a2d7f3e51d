"""An easing and a kind of note, added by one line each: played, kept, listed and measured like those that ship."""

import numpy as np
import pytest

from builders.making import bone, key, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.notes import MEASURES, NoteScene, notes_of
from gaitwire.core.notes.note import Measured, Note
from gaitwire.core.timing.easing import EASINGS, Easing
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.formats.animated_svg.course import channel_course
from gaitwire.services.views.chosen import easing_families


@pytest.fixture
def falters(monkeypatch):
    """Half the way, a wait of a third of the time, and on."""
    easing = Easing("falters", "falters", "", lambda t: np.interp(t, [0, 1 / 3, 2 / 3, 1], [0, 0.5, 0.5, 1]))
    monkeypatch.setitem(EASINGS, "falters", easing)
    return easing


def test_an_easing_from_outside_is_sampled_written_and_listed(falters):
    keys = [key(0, 10, "falters"), key(12, 30, "sine-in-out"), key(24, 0, "falters")]
    played = sample(compile_keys([keys], None), np.array([0.0, 4.0, 6.0, 8.0, 12.0, 24.0]))[0]
    assert played.tolist() == pytest.approx([10, 20, 20, 20, 30, 0])
    written = channel_course(keys, None, 0.0, 12.0, sampled=False)
    assert [p.v1 for p in written.pieces][3:8] == pytest.approx([20] * 5)  # frame by frame, having no splines
    plain = dict(easing_families())["plain"]
    assert plain[-1].name == "falters" and len(plain[-1].points.split()) == 33


def test_a_kind_of_note_from_outside_is_measured_with_the_others(monkeypatch):
    def furthest(stage):
        """Where each seat is furthest to the right."""
        for who, owner in stage.places:
            if who == owner:
                x = stage.matrices(who, owner)[4]
                frame = float(stage.frames.frames[x.argmax()])
                yield Note(
                    "furthest", who, owner, who, frame, frame, frame, float(x.max()), "px", "furthest here", False
                )

    monkeypatch.setitem(MEASURES, "furthest", Measured("furthest", "furthest", "how far it goes", furthest))
    made = scene({("i", "shift_x"): [(0, 0), (9, 120), (20, 40)]}, frames=24, loop=False)
    compiled = compile_scene(made, {"p": puppet([bone("b", length=5.0)])})
    found = notes_of(NoteScene(compiled, evaluate(compiled, np.arange(24.0))))
    assert [(n.kind, n.frame, n.value) for n in found] == [("furthest", 9.0, 120.0)]
