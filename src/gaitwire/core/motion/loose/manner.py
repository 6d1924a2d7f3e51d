"""How links swing: their springs, what damps them, and how heavily they hang."""

from __future__ import annotations

from typing import NamedTuple

from gaitwire.core.conventions import FloatArray


class Manner(NamedTuple):
    """Each (n,), in pixels and by the second."""

    stiffness: FloatArray
    """Swings a second of all that hangs together, without weight; 0 is a string."""
    damping: FloatArray
    """A share of critical, of the swing that stiffness and weight make together."""
    weight: FloatArray
    """Pixels a second, each second, by which it hangs down; 0 where nothing pulls it while its carrier is upright."""
    air: FloatArray
    """What the air takes of the speed against it, a second."""
    limit: FloatArray
    """Radians between a link and the one above."""
    floor: FloatArray
    """The height of the stage beneath which its tip does not come; endless where nothing keeps it up."""
