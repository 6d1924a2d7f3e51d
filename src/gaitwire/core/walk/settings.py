"""How a card's settings are shown: in which group, by which name, in which unit, and what they do for character."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.card import GaitCard


class Setting(NamedTuple):
    """One setting: what is shown is what is stored times `factor`, with so many decimals.

    A slider goes from `low` to `high`, in what is shown; a typed number may go on to the card's bounds.
    """

    name: str
    label: str
    unit: str
    factor: float
    decimals: int
    low: float
    high: float
    tip: str

    def shown(self, card: GaitCard) -> float:
        """A card's value as it is shown."""
        return round(float(getattr(card, self.name)) * self.factor, self.decimals)

    def read(self, shown: float) -> float:
        """A shown value as it is stored; raises InvalidInputError beyond the card's bounds."""
        low, high = GaitCard.bounds(self.name)
        value = shown / self.factor
        if not low - 1e-9 <= value <= high + 1e-9:
            raise InvalidInputError(
                f"“{self.label}” goes from {low * self.factor:g} to {high * self.factor:g} {self.unit}".rstrip() + ".",
                "Type a number between.",
            )
        return min(high, max(low, value))


_FOOTING = (
    Setting("frames_a_step", "frames a step", "f", 1, 2, 4, 32,
            "Twelve is a plain walk; more is heavier, sadder or more stately, fewer is brisk."),
    Setting("stride", "stride", "legs", 1, 3, 0, 2.6,
            "How far two steps go. Long strides are sure of themselves; short ones are old, shy or small."),
    Setting("stance_share", "stance share", "%", 100, 1, 30, 80,
            "How long a foot is down. More is careful or burdened; below half it runs, with both feet in the air."),
    Setting("clearance", "clearance", "%", 100, 1, 0, 25,
            "How high the foot passes over the floor. High is wary or proud, low is tired."),
    Setting("heel_kick", "heel kick", "%", 100, 1, 0, 40, "How far the heel flies up behind. More is lively."),
    Setting("heel_roll", "heel roll", "°", 1, 1, -25, 35,
            "How far the toes are up when the heel lands. Below nothing the ball lands first, as when one sneaks."),
    Setting("toe_roll", "toe roll", "°", 1, 1, 0, 80,
            "How far the foot rolls up over its ball as it pushes off. Little is flat and weary."),
    Setting("stance_width", "stance width", "%", 100, 1, -10, 60,
            "How far apart the feet are set, where the view shows it: wide is heavy or unsure, none on a line."),
    Setting("scuff", "scuff", "%", 100, 0, 0, 100, "The foot hardly leaves the floor, and at 100 it drags."),
)  # fmt: skip
_WEIGHT = (
    Setting("sink", "sink", "%", 100, 2, -2, 20, "How low the hips are carried: bent knees, a load, stealth."),
    Setting("bounce", "bounce", "%", 100, 2, -3, 6, "How far the body goes up and down with each step."),
    Setting("bounce_phase", "bounce at", "%", 100, 1, 0, 50,
            "When the body is highest: 25 in passing, 40 in the up pose after it. Later is springier."),
    Setting("surge", "surge", "%", 100, 2, -4, 4, "How the body hurries and waits within a step."),
    Setting("lean", "lean", "°", 1, 1, -30, 45, "The whole trunk leans: forward into the wind, back when proud."),
    Setting("back_curl", "back curl", "°", 1, 1, -30, 45, "The back is rounded: age, sorrow, a load."),
    Setting("back_twist", "back twist", "°", 1, 1, -20, 20, "The shoulders turn against the hips."),
    Setting("sway", "sway", "×", 1, 2, 0, 4, "How far the hips tilt from leg to leg."),
    Setting("dwell", "dwell", "%", 100, 0, 0, 80, "A pose lingers, and the rest is done in what time is left."),
    Setting("dwell_phase", "dwell at", "%", 100, 1, 0, 50, "The pose that lingers: 0 the contact, 25 the passing."),
)  # fmt: skip
_COUNTER_SWING = (
    Setting("arm_swing", "arm swing", "°", 1, 1, -20, 70, "How far the arms swing against the legs."),
    Setting("shoulder_rest", "shoulder rest", "°", 1, 1, -45, 60, "Where the arms hang: forward or back."),
    Setting("elbow_fold", "elbow fold", "°", 1, 1, 0, 130, "How far the elbows are bent."),
    Setting("elbow_swing", "elbow swing", "°", 1, 1, -30, 40, "How much more they bend as the arm comes forward."),
    Setting("arm_lag", "arm lag", "%", 100, 1, -20, 20, "How late the arms come after the legs, in strides."),
    Setting("gaze_height", "gaze height", "°", 1, 1, -45, 40, "Where it looks: up when proud, down when sad."),
    Setting("nod", "nod", "°", 1, 1, -15, 15, "How far the head nods."),
    Setting("nod_rate", "nod rate", "a step", 1, 1, 0.5, 4,
            "How often it nods: 1 with each step, 0.5 with each stride, more for a pecking bird or a shaky head."),
    Setting("nod_lag", "nod lag", "%", 100, 1, -30, 30, "How late the nod comes, in strides."),
)  # fmt: skip
_WHOLE = (
    Setting("breadth", "breadth", "×", 1, 2, 0, 2, "How far everything departs from standing still."),
    Setting("pace", "pace", "×", 1, 2, 0.2, 3, "The same walk, faster or slower."),
    Setting("limp", "limp", "", 1, 2, -1, 1, "The near leg is spared, or below nothing the far one."),
    Setting("limp_bounce", "limp bounce", "%", 100, 2, -3, 3, "How much deeper the body goes over one leg."),
    Setting("limp_phase", "limp bounce at", "%", 100, 1, -50, 50, "When in a stride a limp carries the body highest."),
)  # fmt: skip
_FOUR_LEGS = (
    Setting("fore_phase", "forefeet after", "%", 100, 1, 0, 100,
            "How long after the hind foot of its side a forefoot lands, in strides: 25 walks, 50 trots, 0 paces."),
    Setting("fore_lift", "forefeet lift", "×", 1, 2, 0, 3, "How much higher than the hind feet they are lifted."),
    Setting("fore_sink", "shoulders sink", "%", 100, 1, -10, 20, "How much lower than the hips they are carried."),
)  # fmt: skip
_SHAPE = (
    Setting("roll_sharpness", "roll sharpness", "", 1, 2, 3, 6.5, "How late and suddenly the heel comes up."),
    Setting("flat_from", "flat from", "%", 100, 1, 5, 30, "When the sole has come down, in shares of the stance."),
    Setting("heel_off", "heel off", "%", 100, 1, 5, 50, "When the heel begins to rise, in shares of a stride."),
    Setting("pitch_peak", "pitch peak", "%", 100, 1, 8, 30, "When the foot points down most, after it has left."),
    Setting("pitch_follow", "pitch follow", "%", 100, 1, 0, 60, "How far the foot goes on pitching as it leaves."),
    Setting("kick_at", "kick at", "%", 100, 1, 12, 50, "When in its swing the heel is highest."),
    Setting("swing_start", "swing start", "%", 100, 1, 10, 60, "How softly a foot sets out."),
    Setting("swing_end", "swing end", "%", 100, 1, 10, 60, "How softly it comes to its next place."),
    Setting("lift_start", "lift start", "%", 100, 1, 10, 60, "How softly the clearance comes."),
    Setting("lift_end", "lift end", "%", 100, 1, 10, 60, "How softly it goes."),
    Setting("hip_ahead", "hips behind", "%", 100, 1, 8, 35, "How far the landing heel is before the hips."),
    Setting("surge_phase", "surge at", "%", 100, 1, -50, 50, "When the body has hurried furthest ahead."),
    Setting("hip_turn", "hip turn", "%", 100, 2, -10, 15, "How far the hips turn with the legs."),
    Setting("hip_turn_phase", "hip turn at", "%", 100, 1, -50, 50, "When the near hip is furthest ahead."),
)  # fmt: skip

GROUPS: dict[str, tuple[Setting, ...]] = {
    "Footing": _FOOTING, "Weight": _WEIGHT, "Counter-swing": _COUNTER_SWING, "Whole": _WHOLE,
    "On all fours": _FOUR_LEGS, "Shape": _SHAPE,
}  # fmt: skip
"""The settings as they are shown, by group; those of the last shape the model and are seldom turned."""

SETTINGS = {setting.name: setting for group in GROUPS.values() for setting in group}
"""Every setting by its name."""


RIDEABLE = (
    "lean", "back_curl", "back_twist", "arm_swing", "shoulder_rest", "elbow_fold", "elbow_swing", "gaze_height", "nod",
    "sink",
)  # fmt: skip
"""Settings that may change while a walk goes on: none of them moves a foot that is down."""


def changed_card(card: GaitCard, shown: Mapping[str, float]) -> GaitCard:
    """The card with some settings as they are shown; raises InvalidInputError that names the one which does not fit."""
    held = {}
    for name, value in shown.items():
        setting = SETTINGS.get(name)
        if setting is None:
            raise InvalidInputError(f"A card has no setting “{name:.40}”.")
        held[name] = setting.read(value)
    return card.model_copy(update=held)
