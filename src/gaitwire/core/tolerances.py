"""Named tolerances, so that no bare small number stands in a comparison."""

from __future__ import annotations

TIME = 1e-6
"""Frames. Two keys nearer than this are one key."""

DETERMINANT = 1e-12
"""A matrix whose determinant is smaller squashes everything onto a line."""

LENGTH = 1e-9
"""Pixels. A bone that is shorter has no direction."""

SHARE = 1e-9
"""Two shares nearer than this are one."""

VALUE_DIGITS = 6
"""Digits behind the point with which the value of a key is written by hand."""
