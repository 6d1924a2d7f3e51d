"""Which bones swing: to them, whatever else would make them swing leaves it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.tree import walk


def swinging_of(puppet: Puppet, drivers: Iterable[Driver]) -> frozenset[str]:
    """Ids of the bones of a puppet that swing with one of its loose ends."""
    return swinging_under(puppet, {d.owner_id: d.settings.bends for d in drivers if isinstance(d.settings, Loose)})


def swinging_under(puppet: Puppet, ends: Mapping[str, bool]) -> frozenset[str]:
    """The same by the ids of the ends, and whether each bone below one swings for itself."""
    found: set[str] = set()
    passed_on: set[str] = set()
    for bone, _ in walk(puppet.bones) if ends else ():
        if bone.id in ends or bone.parent_id in passed_on:
            found.add(bone.id)
            if ends.get(bone.id, True):
                passed_on.add(bone.id)
    return frozenset(found)
