"""Rides: what a hand did while the scene played comes back as few keys, on top of what moved there already."""

import numpy as np
import pytest

from builders.acting import Alone
from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.scene.floor import update_instance
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.rides import PointerPlace, record_ride, record_setting
from gaitwire.services.scene.walks import find_gait, make_walks_own, put_gait, remove_gait, set_gait
from gaitwire.store.history import take_step


class Riding(Alone):
    """Tamsin, and a hand."""

    def __init__(self, workspace, loop=False):
        super().__init__(workspace, place={"x": 400.0, "y": 640.0}, frames=60, loop=loop, ground=640.0)

    def value(self, owner, prop, *frames):
        return self.seen(owner, frames, prop)

    def pivot(self, bone, frame):
        frames = self.at(frame)
        at = [k[1] for k in frames.node_keys].index(self.ids[bone])
        return frames.nodes[0, at, 4:]

    def swing(self, bone, degrees, first=6):
        """A hand that goes round a bone's pivot, a frame for each of some turns from where it took hold."""
        pivot = self.pivot(bone, first)
        turns = np.radians(degrees)
        places = [
            PointerPlace(first + n, *(pivot + 100 * np.array([np.cos(t), np.sin(t)]))) for n, t in enumerate(turns)
        ]
        return record_ride(
            self.floor, "turn", [(self.who, self.ids[bone])], (float(pivot[0] + 100), float(pivot[1])), places
        )


@pytest.fixture
def riding(orchard):
    return Riding(orchard)


def test_a_turn_is_recorded_within_what_is_told_and_with_fewer_keys(orchard, riding):
    degrees = 30 * np.sin(np.arange(36) / 7)
    found = riding.swing("near upper arm", degrees)
    told = riding.value("near upper arm", "turn", *np.arange(6, 42))
    assert np.abs(told - degrees).max() < found.error + 0.5 and found.error <= 1.0 and found.unit == "°"
    assert found.keys + 1 == len(riding.floor.scene.keys) < 16  # and the one that keeps what was before
    take_step(orchard.store, riding.floor.scene_id, "undo")
    assert not riding.floor.scene.keys


def test_a_second_pass_goes_on_top_of_the_first(riding):
    riding.swing("near upper arm", np.linspace(0, 40, 20))
    riding.swing("near upper arm", np.linspace(0, -15, 20))
    assert riding.value("near upper arm", "turn", 25)[0] == pytest.approx(25, abs=2.0)
    riding.swing("basket", np.linspace(0, 200, 20))  # beyond half a turn it goes on
    assert riding.value("basket", "turn", 25)[0] == pytest.approx(200, abs=1.5)


def test_what_was_before_a_ride_stays_as_it_was(riding):
    slot = (riding.who, riding.ids["near forearm"], "turn")
    set_values(riding.floor, 0.0, {slot: -10.0})
    set_values(riding.floor, 30.0, {slot: -40.0})
    before = riding.value("near forearm", "turn", *range(12))
    riding.swing("near upper arm", np.linspace(20, 40, 20))  # the hand had moved before time did
    riding.swing("near forearm", np.linspace(-15, -25, 10), first=12)
    assert riding.value("near upper arm", "turn", *range(6)) == pytest.approx(0, abs=1e-9)
    assert riding.value("near forearm", "turn", *range(12)) == pytest.approx(before, abs=0.1)


def test_the_puppet_itself_is_ridden_over_a_walk_beneath(riding):
    put_gait(riding.floor, riding.who, CHARACTERS["plain"])
    before = riding.value(riding.who, "shift_x", *range(60))
    places = [PointerPlace(10 + n, 400.0 + 5 * n, 600.0) for n in range(31)]
    found = record_ride(riding.floor, "shift", [(riding.who, riding.who)], (400.0, 600.0), places)
    after = riding.value(riding.who, "shift_x", 10, 25, 40)
    assert after - before[[10, 25, 40]] == pytest.approx([0, 75, 150], abs=1.01) and found.keys <= 8
    chest = [PointerPlace(n, 500.0, 400.0 + n) for n in range(5, 30)]
    walked = riding.value("chest", "turn", 29)[0]
    record_ride(riding.floor, "turn", [(riding.who, riding.ids["chest"])], (500.0, 405.0), chest)
    assert abs(riding.value("chest", "turn", 29)[0] - walked) > 2


def test_what_cannot_be_ridden_is_refused_and_nothing_is_kept(riding):
    node = [(riding.who, riding.ids["chest"])]
    with pytest.raises(InvalidInputError, match="too short"):
        record_ride(riding.floor, "turn", node, (0, 0), [PointerPlace(3, 0, 0)])
    with pytest.raises(InvalidInputError, match="too short"):
        record_ride(riding.floor, "turn", node, (0, 0), [PointerPlace(50, 0, 0), PointerPlace(70, 9, 9)])
    with pytest.raises(InvalidInputError, match="no ride"):
        record_ride(riding.floor, "wobble", node, (0, 0), [PointerPlace(3, 0, 0), PointerPlace(9, 9, 9)])
    update_instance(riding.floor, riding.who, locked=True)
    with pytest.raises(LockedError):
        record_ride(riding.floor, "turn", node, (500, 0), [PointerPlace(3, 500, 0), PointerPlace(9, 500, 90)])
    assert not riding.floor.scene.keys


def test_a_setting_of_a_walk_is_ridden_and_feet_stay(orchard, riding):
    floor = riding.floor
    gait = put_gait(floor, riding.who, CHARACTERS["plain"], travels=True)
    before = riding.value("chest", "turn", *range(60))
    feet = riding.value("near foot", "turn", *range(60))
    leans = [(float(f), 2.0 + 25 * np.sin((f - 10) / 12)) for f in range(10, 48)]
    found = record_setting(floor, find_gait(floor, gait), "lean", leans)
    assert found.error <= 0.5 and found.keys < 12
    after = riding.value("chest", "turn", *range(60))
    assert after[29] - before[29] == pytest.approx(25, abs=3) and after[5] == pytest.approx(before[5], abs=0.6)
    assert np.abs(riding.value("near foot", "turn", *range(60)) - feet).max() < 1e-9
    (channel,) = floor.scene.channels
    assert (channel.owner_kind, channel.owner_id, channel.property) == ("walk", gait, "lean")
    set_gait(floor, gait, {"card": CHARACTERS["weary"]})  # the ride goes on top of another card, at its phase
    assert max(k.time for k in floor.scene.keys) > 55
    record_setting(floor, find_gait(floor, gait), "sink", [(5.0, 6.0), (30.0, 14.0)])
    assert riding.value("pelvis", "shift_y", 30)[0] > 5
    with pytest.raises(InvalidInputError, match="feet would slide"):
        record_setting(floor, find_gait(floor, gait), "stride", leans)
    with pytest.raises(InvalidInputError, match="goes from"):
        record_setting(floor, find_gait(floor, gait), "lean", [(5.0, 6.0), (30.0, 400.0)])
    shown = riding.value("chest", "turn", *range(60))
    make_walks_own(floor, riding.who)
    assert not [c for c in floor.scene.channels if c.owner_kind == "walk"]
    assert np.abs(riding.value("chest", "turn", *range(60)) - shown).max() < 1e-6
    take_step(orchard.store, floor.scene_id, "undo")
    remove_gait(floor, gait)
    assert not floor.scene.channels and not floor.scene.keys


def test_a_walk_from_standing_to_standing_is_ridden_too(riding):
    gait = put_gait(riding.floor, riding.who, CHARACTERS["plain"], travels=True, pace="stands")
    before = riding.value("near upper arm", "turn", *range(60))
    record_setting(riding.floor, find_gait(riding.floor, gait), "shoulder_rest", [(0.0, 0.0), (40.0, 45.0)])
    after = riding.value("near upper arm", "turn", *range(60))
    assert after[40] - before[40] == pytest.approx(-45, abs=1) and after[0] == pytest.approx(before[0], abs=0.6)
