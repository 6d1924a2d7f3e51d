"""Chains that swing, apart from any puppet."""

import numpy as np

from gaitwire.core.motion.loose.links import links_of
from gaitwire.core.motion.loose.manner import Manner
from gaitwire.core.motion.loose.states import Drive
from gaitwire.core.motion.loose.swing import Swing

RATE = 24.0


def chain(count=1, length=100.0, leans=0.0, fall=2400j, **manner):
    """A chain of links that hangs, or leans by some degrees, and how it is driven while nothing moves (10n,)."""
    along = length * 1j * np.exp(-1j * np.radians(leans))
    pivots = along * np.arange(count)
    every = {
        "stiffness": 0.0,
        "damping": 0.0,
        "weight": abs(fall),
        "air": 0.0,
        "limit": np.inf,
        "floor": np.inf,
        **manner,
    }
    rows = (np.full(count, value) for value in every.values())
    links = links_of(range(-1, count - 1), pivots, pivots + along)
    ones = np.ones(count)
    return Swing(links, Manner(*rows), RATE), Drive(pivots, pivots + along, 0j * ones, fall * ones, ones, ones).rows


def moved(drive, places):
    """The drive (10n, F) of a chain whose carrier goes to places (F,), complex, as it is."""
    n = len(drive) // 10
    found = np.repeat(drive[:, None], len(places), axis=1)
    for first, part in ((0, places.real), (n, places.imag), (2 * n, places.real), (3 * n, places.imag)):
        found[first : first + n] += part
    return found


def let_go(swing, drive, frames, turns=None):
    """Turns (n, frames) of a chain from the first frame on, at rest there or turned by some radians."""
    at = drive if drive.ndim == 2 else np.repeat(drive[:, None], frames, axis=1)
    state = swing.settled(at[:, 0]) if turns is None else swing.begun(np.asarray(turns, float), at[:, 0])
    states = [state]
    for frame in range(frames - 1):
        states.append(swing.step(states[-1], at[:, frame], at[:, frame + 1]))
    return np.stack(states, axis=1)[: swing.links.count]
