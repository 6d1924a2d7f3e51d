"""Markers of a walk, as a camera would see them."""

import numpy as np

from gaitwire.core.walk.stride import Stride

RATE = 100.0


def markers_of(card, strides=4.0, facing=1.0, size=870.0, noise=0.0):
    """Markers of a card's near leg as a camera would see them, in millimetres."""
    stride = Stride(card)
    seconds = card.frames / 24
    time = np.arange(0, strides * seconds, 1 / RATE) / seconds
    pose = stride.at(time)
    hip = pose.hips.hip_along[0] + 1j * pose.hips.hip_up[0]
    knee = hip + pose.leg.stretch[0] * stride.near.thigh * np.exp(1j * (pose.leg.thigh[0] - np.pi / 2))
    ankle = pose.ankle_along[0] + 1j * pose.ankle_up[0]
    turn = np.exp(1j * pose.pitch[0])
    heel, toe = ankle + (-0.05 - 0.06j) * turn, ankle + (0.2 - 0.06j) * turn
    shake = np.random.default_rng(3).normal(0, noise, (5, len(time), 2)) @ [1, 1j]
    places = (size * z for z in (hip, knee, ankle, heel, toe))
    named = zip(("hip", "knee", "ankle", "heel", "toe"), places, shake, strict=True)
    return {n: facing * (z + s).real + 1j * (z + s).imag for n, z, s in named}
