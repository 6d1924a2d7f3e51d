"""Time code: frames as hours, minutes, seconds and frames.

Source: SMPTE ST 12-1. At 29.97 and 59.94 frames a second frame numbers are dropped (never frames):
the first two, or four, of every minute but each tenth, so that the code keeps up with the clock;
then the last colon is a semicolon. Every other rate counts by its nearest whole number.
"""

from __future__ import annotations

from fractions import Fraction

_DROPPED = {Fraction(30000, 1001): 2, Fraction(60000, 1001): 4}


def timecode(frame: int, rate: Fraction) -> str:
    """The time code of a frame, counted from 0; after 24 hours it begins again.

    >>> timecode(38, Fraction(24)), timecode(1800, Fraction(30000, 1001))
    ('00:00:01:14', '00:01:00;02')
    """
    base = round(rate)
    dropped = _DROPPED.get(rate, 0)
    if dropped:
        per_minute, per_ten = 60 * base - dropped, 600 * base - 9 * dropped
        tens, rest = divmod(frame, per_ten)
        minutes = 0 if rest < 60 * base else 1 + (rest - 60 * base) // per_minute
        frame += dropped * (9 * tens + minutes)
    seconds, frames = divmod(frame, base)
    hours, minute, second = seconds // 3600 % 24, seconds // 60 % 60, seconds % 60
    return f"{hours:02}:{minute:02}:{second:02}{';' if dropped else ':'}{frames:02}"
