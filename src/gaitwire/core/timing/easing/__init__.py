"""Easings: one registry, by name.

>>> from gaitwire.core.timing.easing import EASINGS, find_easing
>>> float(find_easing("quad-in")(0.5))
0.25
"""

from gaitwire.core.timing.easing.registry import EASINGS, Easing, find_easing

__all__ = ["EASINGS", "Easing", "find_easing"]
