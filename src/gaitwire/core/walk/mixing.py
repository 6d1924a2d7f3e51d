"""Two gait cards mixed by a share."""

from __future__ import annotations

from gaitwire.core.walk.card import GaitCard


def mixed_card(one: GaitCard, other: GaitCard, share: float) -> GaitCard:
    """A card that goes a share of the way from one to another; beyond 0 and 1 as far as settings go.

    Where only one of them runs, a share between has the stance that lies between: it walks until
    that falls below a half.
    """
    if share == 0:
        return one
    called = f"{one.name}, {share:.0%} {other.name}"[:60]
    held: dict[str, float] = {}
    for name in GaitCard.model_fields:
        if name != "name":
            low, high = GaitCard.bounds(name)
            a, b = getattr(one, name), getattr(other, name)
            held[name] = min(high, max(low, a + (b - a) * share))
    return one.model_copy(update={"name": called, **held})
