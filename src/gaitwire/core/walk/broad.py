"""Breadth: how far a walk departs from standing still."""

from __future__ import annotations

from gaitwire.core.walk.card import GaitCard

_MOST = {
    "stride": 3.2, "heel_roll": 40.0, "toe_roll": 80.0, "clearance": 0.2, "heel_kick": 0.4, "sink": 0.25,
    "bounce": 0.07, "surge": 0.05, "limp_bounce": 0.05, "hip_turn": 0.12, "sway": 4.0, "lean": 45.0, "back_curl": 60.0,
    "back_twist": 30.0, "arm_swing": 80.0, "elbow_swing": 50.0, "nod": 25.0,
}  # fmt: skip
"""What departs with it, and the bounds that it softly nears beyond its own size."""


def broadened(card: GaitCard) -> GaitCard:
    """The card with its breadth laid on; at 1 the card itself, at 0 one that stands."""
    if card.breadth == 1.0:
        return card
    values = {name: getattr(card, name) * card.breadth for name in _MOST}
    if card.breadth > 1.0:
        values = {n: v / (1 + abs(v / _MOST[n]) ** 4) ** 0.25 if v else 0.0 for n, v in values.items()}
    return card.model_copy(update=values)
