"""Stays: keys that make a channel hold the value of the key before them, and have none of their own."""

from __future__ import annotations

from collections.abc import Sequence

from gaitwire.core.timing.key import WHOLE, Key
from gaitwire.core.tolerances import TIME


def valued(keys: Sequence[Key], loop: bool) -> list[Key]:
    """Keys of one channel in order of time, each stay with the value it repeats.

    On a loop a stay before the first key that has a value repeats the last one; elsewhere there is
    nothing to repeat, and it keeps the value it was stored with.
    """
    own = [k for k in keys if not k.stay]
    if len(own) == len(keys) or not own:
        return list(keys)
    value = own[-1].value if loop else None
    found = []
    for key in keys:
        if not key.stay:
            value = key.value
        elif value is not None and key.value != value:
            key = key.model_copy(update={"value": value})
        found.append(key)
    return found


def as_played(keys: Sequence[Key], loop: bool) -> list[Key]:
    """Keys as they play: what leads to a stay holds, whatever easing it would have without."""
    if not any(k.stay for k in keys):
        return list(keys)
    following = [*keys[1:], keys[0] if loop else None]
    return [
        k.model_copy(update={**WHOLE, "ease": "hold"}) if after is not None and after.stay else k
        for k, after in zip(keys, following, strict=True)
    ]


def moving_end(keys: Sequence[Key], key: Key) -> Key:
    """The key from which a channel moves on after `key`: itself, or the last of the stays that follow it."""
    after = [k for k in keys if k.time > key.time + TIME]
    for other in after:
        if not other.stay:
            break
        key = other
    return key
