"""What one segment plays, whatever its easing: named, a chart, an excerpt of either, or a free curve."""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.timing.easing.chart import chart_share
from gaitwire.core.timing.easing.cubic import cubic_value
from gaitwire.core.timing.easing.registry import CHART, EASINGS, FREE
from gaitwire.core.timing.key import Key


def eased_share(key: Key, shares: FloatArray) -> FloatArray:
    """Shares of the rise that the whole easing of a key, named or a chart, has reached at shares of its time."""
    return chart_share(key.chart, shares) if key.ease == CHART else EASINGS[key.ease](shares)


def risen(key: Key, rise: float, shares: FloatArray) -> FloatArray:
    """How much a key's segment, which rises by `rise` in all, has risen at shares of its time."""
    if key.ease == FREE and key.curve is not None:
        x1, dy1, x2, dy2 = (np.array(v) for v in key.curve)
        return cubic_value(shares, x1, dy1, x2, dy2, np.array(0.0), np.array(rise))
    if key.excerpt is None or key.ease == "hold":
        return rise * eased_share(key, shares)
    start, stop, whole = key.excerpt
    first, last = eased_share(key, np.array([start, stop])).tolist()
    risen = whole * (eased_share(key, start + shares * (stop - start)) - first)
    out: FloatArray = risen + shares * (rise - whole * (last - first))
    return out
