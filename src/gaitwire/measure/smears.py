"""What a smear takes: an outline swept over a quarter of a turn."""

from __future__ import annotations

import numpy as np

from gaitwire.core.motion.smear import outline_runs, swept
from gaitwire.measure.beside import MeasuredFigure, middle, turned_about

POINTS, SWING, STEPS = 60, 90.0, 13
_TIMES = 21


def smear_figures() -> dict[str, MeasuredFigure]:
    """Milliseconds for an outline of sixty points about a pivot beyond its end, simplified to be edited."""
    t = np.linspace(0, 2 * np.pi, POINTS, endpoint=False)
    ring = (100 + 90 * np.cos(t)) + 1j * (14 + 4 * np.cos(3 * t)) * np.sin(t)
    turned = ring * np.exp(1j * np.radians(np.linspace(-SWING, 0, STEPS)))[:, None]
    rings = np.stack([turned.real, turned.imag], axis=-1)
    times = turned_about(lambda _: outline_runs(swept(rings, 0.3)), _TIMES)
    return {"smear_60_ms": middle(times, lambda ms: round(ms, 1))}
