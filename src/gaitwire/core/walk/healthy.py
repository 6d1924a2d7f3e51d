"""A measured healthy walk to hold a stride against: the mean of one adult's strides, and how far people differ.

From the markers of Fukuchi, Fukuchi and Duarte 2018 (PeerJ 6:e4640, data CC BY 4.0): the strides of one
subject that are whole in the excerpt which the registry package gaitkit ships. How far healthy adults
differ from each other, some five degrees at each joint, is from memory of textbooks.
"""

from __future__ import annotations

import numpy as np

SPREAD = 5.0
"""Degrees to either side within which most healthy adults lie."""

_EVERY = 4
"""Percent of the stride between values."""

_MEAN = {
    "hip": (20.4, 21.1, 22.1, 20.3, 15.6, 11.4, 6.8, 2.7, -0.9, -4.0, -7.4, -10.8, -13.2, -14.4, -13.5,
            -8.5, -1.0, 6.6, 13.4, 19.0, 23.0, 25.1, 25.0, 23.1, 20.7, 20.9),
    "knee": (0.7, 8.5, 16.7, 20.2, 18.0, 16.1, 13.1, 10.7, 9.4, 9.1, 8.6, 8.6, 10.6,
             15.2, 22.9, 36.6, 52.5, 63.0, 67.0, 66.2, 60.4, 49.7, 34.4, 16.3, 1.5, 1.4),
    "ankle": (0.4, -3.4, -3.9, -1.1, 1.0, 2.9, 4.0, 4.9, 6.1, 7.2, 7.5, 7.5, 7.0,
              5.3, -0.7, -10.8, -15.7, -12.2, -8.3, -3.7, -0.3, 2.0, 2.2, 1.6, 0.2, 0.7),
}  # fmt: skip


def healthy(joint: str) -> tuple[np.ndarray, np.ndarray]:
    """Percent of the stride from contact, and degrees there, (26,) each; the ankle without its mean."""
    values = np.array(_MEAN[joint])
    return np.arange(len(values)) * float(_EVERY), values
