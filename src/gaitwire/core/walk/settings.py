"""How a card's settings are shown: in which group, by which name, in which unit, and what they do for character."""

from __future__ import annotations

from typing import NamedTuple


class Setting(NamedTuple):
    """One setting: what is shown is what is stored times `factor`, with so many decimals."""

    name: str
    group: str
    label: str
    unit: str
    factor: float
    decimals: int
    tip: str


SETTINGS = (
    Setting("frames_a_step", "Footing", "frames a step", "f", 1, 1,
            "Twelve is a plain walk; more is heavier, sadder or more stately, fewer is brisk."),
    Setting("stride", "Footing", "stride", "legs", 1, 2,
            "How far two steps go. Long strides are sure of themselves; short ones are old, shy or small."),
    Setting("stance_share", "Footing", "stance share", "%", 100, 0,
            "How long a foot is down. More is careful or burdened; below half it runs."),
    Setting("clearance", "Footing", "clearance", "%", 100, 1,
            "How high the foot passes over the floor. High is wary or proud, low is tired."),
    Setting("heel_kick", "Footing", "heel kick", "%", 100, 1, "How far the heel flies up behind. More is lively."),
    Setting("heel_roll", "Footing", "heel roll", "°", 1, 0,
            "How far the toes are up when the heel lands. Below nothing the ball lands first, as when one sneaks."),
    Setting("toe_roll", "Footing", "toe roll", "°", 1, 0,
            "How far the foot rolls up over its ball as it pushes off. Little is flat and weary."),
    Setting("scuff", "Footing", "scuff", "", 1, 2, "The foot hardly leaves the floor, and at 1 it drags."),
    Setting("sink", "Weight", "sink", "%", 100, 1, "How low the hips are carried: bent knees, a load, stealth."),
    Setting("bounce", "Weight", "bounce", "%", 100, 1, "How far the body goes up and down with each step."),
    Setting("bounce_phase", "Weight", "bounce at", "%", 100, 0,
            "When in a step the body is highest: later is springier."),
    Setting("surge", "Weight", "surge", "%", 100, 1, "How the body hurries and waits within a step."),
    Setting("lean", "Weight", "lean", "°", 1, 0, "The whole trunk leans: forward into the wind, back when proud."),
    Setting("back_curl", "Weight", "back curl", "°", 1, 0, "The back is rounded: age, sorrow, a load."),
    Setting("back_twist", "Weight", "back twist", "°", 1, 0, "The shoulders turn against the hips."),
    Setting("sway", "Weight", "sway", "×", 1, 1, "How far the hips tilt from leg to leg."),
    Setting("dwell", "Weight", "dwell", "", 1, 2, "A pose lingers, and the rest is done in what time is left."),
    Setting("dwell_phase", "Weight", "dwell at", "%", 100, 0, "The pose that lingers: 0 the contact, 25 the passing."),
    Setting("arm_swing", "Counter-swing", "arm swing", "°", 1, 0, "How far the arms swing against the legs."),
    Setting("shoulder_rest", "Counter-swing", "shoulder rest", "°", 1, 0, "Where the arms hang: forward or back."),
    Setting("elbow_fold", "Counter-swing", "elbow fold", "°", 1, 0, "How far the elbows are bent."),
    Setting("elbow_swing", "Counter-swing", "elbow swing", "°", 1, 0,
            "How much more they bend as the arm comes forward."),
    Setting("arm_lag", "Counter-swing", "arm lag", "%", 100, 0, "How late the arms come after the legs."),
    Setting("gaze_height", "Counter-swing", "gaze height", "°", 1, 0, "Where it looks: up when proud, down when sad."),
    Setting("nod", "Counter-swing", "nod", "°", 1, 1, "How the head nods with each step."),
    Setting("nod_lag", "Counter-swing", "nod lag", "%", 100, 0, "How late the nod comes."),
    Setting("breadth", "Whole", "breadth", "×", 1, 2, "How far everything departs from standing still."),
    Setting("pace", "Whole", "pace", "×", 1, 2, "The same walk, faster or slower."),
    Setting("limp", "Whole", "limp", "", 1, 2, "The near leg is spared, or below nothing the far one."),
)  # fmt: skip
"""The settings that an animator turns, in the order in which they are shown."""
