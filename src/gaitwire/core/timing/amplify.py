"""Keys drawn out in value: more or less of the same movement, or the opposite of it."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from gaitwire.core.timing.edit import KeyChange, rise_of
from gaitwire.core.timing.key import Key, steeper


def amplify_keys(
    keys: Sequence[Key], chosen: Collection[str], factor: float, base: float, ratio: bool, loop: float | None
) -> KeyChange:
    """Let the chosen of a channel's keys depart by `factor` times as much from a base; below 0, to the other side.

    A `ratio` departs by its powers, so that twice as long becomes half as long. Curves and excerpts rise and bend as
    much more as their segments do; stays go on repeating.
    """

    def departed(value: float) -> float:
        if ratio:
            return float(base * (value / base) ** factor)
        return base + factor * (value - base)

    moved = {k.id: k.model_copy(update={"value": departed(k.value)}) for k in keys if k.id in chosen and not k.stay}
    after = [moved.get(k.id, k) for k in keys]
    put = []
    for key in after:
        was, now = rise_of(keys, key.id, loop), rise_of(after, key.id, loop)
        bent = key.curve is not None or key.excerpt is not None
        if bent and (abs(was) > 0 or key.id in moved):
            key = steeper(key, now / was if abs(was) > 0 else factor)
        if key.id in moved or (bent and now != was):
            put.append(key)
    return KeyChange(tuple(put))
