"""Gait Wire: rig flat puppets, keyframe them, and send off looping pictures."""

__version__ = "0.1.0"
