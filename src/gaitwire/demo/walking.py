"""The demo's walks: Tamsin in place, and two of her side by side who could not be less alike."""

from __future__ import annotations

from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.demo.scenes import set_stage
from gaitwire.services.workspace import Workspace


def make_walk_scenes(workspace: Workspace, tamsin: str, orchard_id: str) -> None:
    """A plain walk in place that loops, and a proud and a weary one that travel."""
    plain = set_stage(workspace, "Tamsin walks", round(CHARACTERS["plain"].frames), orchard_id)
    plain.put_walk(plain.add_puppet(tamsin, x=640.0, y=648.0, scale=0.95), CHARACTERS["plain"])
    both = set_stage(workspace, "Proud and weary", 120, orchard_id)
    both.update(loop=False)
    for name, x, y, depth in (("weary", 560.0, 636.0, 2), ("proud", 200.0, 664.0, 3)):
        who = both.add_puppet(tamsin, x=x, y=y, scale=0.72, name=name.capitalize(), depth=depth)
        both.put_walk(who, CHARACTERS[name], travels=True)
