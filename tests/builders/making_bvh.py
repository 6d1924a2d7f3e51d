"""A captured walk, made up: a skeleton whose legs do what a stride says, as the text of a BVH file."""

from __future__ import annotations

import re

import numpy as np

from gaitwire.core.walk.build import ADULT
from gaitwire.core.walk.stride import Stride

_LEG = """  JOINT {0}UpLeg {{ OFFSET {1} 0 0 CHANNELS 3 Zrotation Xrotation Yrotation
   JOINT {0}Leg {{ OFFSET 0 {2} 0 CHANNELS 3 Zrotation Xrotation Yrotation
    JOINT {0}Foot {{ OFFSET 0 {3} 0 CHANNELS 3 Zrotation Xrotation Yrotation
     JOINT {0}ToeBase {{ OFFSET 0 {4} {5} CHANNELS 3 Zrotation Xrotation Yrotation
      End Site {{ OFFSET 0 0 2 }} }} }} }} }}
"""


def bvh_text(
    stride: Stride, strides: float = 4.0, rate: float = 60.0, scale: float = 90.0, in_place: bool = False
) -> str:
    """A walk along z with y up, `scale` units a leg; each leg's hip is where the stride has it, with no depth."""
    frames = int(strides * stride.card.frames / 24 * rate)
    times = np.arange(frames) / rate * 24 / stride.card.frames
    pose = stride.at(times)
    build = ADULT
    head = (
        "HIERARCHY\nROOT Hips { OFFSET 0 0 0 CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n"
    )
    for side, across in (("Right", 9.0), ("Left", -9.0)):
        down = -scale * (build.ankle - build.hinge)
        numbers = (-scale * build.thigh, -scale * build.shank, down, scale * build.ball)
        head += _LEG.format(side, across, *(f"{v:.5f}" for v in numbers))
    along = pose.hips.along - (stride.length * times if in_place else 0)
    columns = [np.zeros(frames), scale * pose.hips.up, scale * along, *np.zeros((3, frames))]
    for side in range(2):
        thigh, shank = np.degrees(pose.leg.thigh[side]), np.degrees(pose.leg.shank[side])
        foot = np.degrees(pose.pitch[side])
        # About x, y to z: forward is a turn the other way.
        for turn in (-thigh, thigh - shank, shank - foot, np.zeros(frames)):
            columns += [np.zeros(frames), turn, np.zeros(frames)]
    rows = "\n".join(" ".join(f"{v:.6f}" for v in row) for row in np.array(columns).T)
    head = re.sub(r" *([{}]|OFFSET|CHANNELS)", r"\n\1", head) + "\n}"
    return f"{head}\nMOTION\nFrames: {frames}\nFrame Time: {1 / rate:.8f}\n{rows}\n"
