"""Phrases that ship: bits of motion by role, each with a few settings. One registry; a new one adds one line."""

from __future__ import annotations

from gaitwire.core.motion.ready.arms import POINT, URGE, WAVE
from gaitwire.core.motion.ready.bearing import BREATHE, SHIFT, SHRUG
from gaitwire.core.motion.ready.heads import DOUBT, LISTEN, LOOK, NOD
from gaitwire.core.motion.ready.making import Param, Ready, phrase_of

__all__ = ["READY", "Param", "Ready", "phrase_of"]

READY: dict[str, Ready] = {r.name: r for r in (NOD, LOOK, LISTEN, DOUBT, POINT, WAVE, URGE, SHRUG, BREATHE, SHIFT)}
"""Every phrase that ships, by name."""
