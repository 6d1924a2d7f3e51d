"""Weight for a walk that was keyed by hand: when the body dips and rises, and how legs take it up."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray


class WeightBeat(NamedTuple):
    """A moment of a step, and how far down the body is there, in shares of the dip."""

    time: float
    name: str
    dip: float


_AFTER, _BEFORE = 0.45, 0.55
"""Shares of the way from contact to passing, and from passing to contact, at which the body is lowest and highest."""
_LIFT = -0.35
"""Of the dip, in passing."""


def beats_of(contacts: Sequence[float], passings: Sequence[float]) -> list[WeightBeat]:
    """Contacts, downs, passings and ups, from contacts and passings in order of time (*common practice*).

    A down comes between a contact and the passing after it, an up between a passing and the contact
    after it; two contacts without a passing between have it in the middle.
    """
    marks = sorted([(t, "contact") for t in contacts] + [(t, "passing") for t in passings])
    found: list[WeightBeat] = []
    for (time, name), (then, following) in pairwise(marks):
        whole = name != following
        middle = then if whole else (time + then) / 2
        if name == "contact":
            found += [WeightBeat(time, "contact", 0.0), WeightBeat(time + _AFTER * (middle - time), "down", 1.0)]
            if not whole:
                found += [
                    WeightBeat(middle, "passing", _LIFT),
                    WeightBeat(middle + _BEFORE * (then - middle), "up", -1.0),
                ]
        else:
            found += [WeightBeat(time, "passing", _LIFT), WeightBeat(time + _BEFORE * (then - time), "up", -1.0)]
    last, name = marks[-1] if marks else (0.0, "")
    return found + ([WeightBeat(last, name, 0.0 if name == "contact" else _LIFT)] if marks else [])


def steps_seen(apart: FloatArray) -> tuple[list[float], list[float]]:
    """Contacts and passings of a walk, in frames, from how far one foot is ahead of the other on each (F,).

    Feet are furthest apart as one comes down, and pass where neither is ahead.
    """
    passings = []
    for n in np.flatnonzero(np.diff(np.sign(apart)) != 0).tolist():
        a, b = apart[n], apart[n + 1]
        passings.append(float(n + (a / (a - b) if a != b else 0.0)))
    contacts = []
    for first, last in pairwise([0.0, *passings, len(apart) - 1.0]):
        span = np.arange(int(np.ceil(first)), int(np.floor(last)) + 1)
        if len(span) > 1:
            contacts.append(float(span[np.abs(apart[span]).argmax()]))
    return sorted(set(contacts) - set(passings)), passings


def taken_up(hip: complex, knee: complex, ankle: complex, lower: complex) -> tuple[float, float]:
    """Degrees by which thigh and shin turn on the stage so that the ankle stays when the hip goes by `lower`.

    Places are complex with y down; the knee keeps to its side. A leg that does not reach is stretched
    out towards its ankle.
    """
    thigh, shin = abs(knee - hip), abs(ankle - knee)
    line = ankle - (hip + lower)
    reach = float(np.clip(abs(line), abs(thigh - shin) + 1e-9, thigh + shin - 1e-9))
    side = 1.0 if ((knee - hip).conjugate() * (ankle - hip)).imag <= 0 else -1.0
    bend = np.arccos(np.clip((thigh**2 + reach**2 - shin**2) / (2 * thigh * reach), -1.0, 1.0))
    towards = np.angle(line) + side * bend
    turned = np.exp(1j * towards) * thigh
    before, after = np.angle(knee - hip), np.angle(ankle - knee)
    swung = np.degrees(np.angle(np.exp(1j * (towards - before))))
    bent = np.degrees(np.angle(np.exp(1j * (np.angle(line / abs(line) * reach - turned) - after))))
    return float(swung), float(bent)
