"""Shadows on the ground, added on the Bench."""

from __future__ import annotations

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.ids import new_id
from gaitwire.core.puppet import sketch
from gaitwire.core.puppet.art import Art, Group
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.sketch import Style
from gaitwire.core.puppet.tree import walk
from gaitwire.services.library.art_in import put_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.session.naming import unlike

_INK = "#2e2a25"
_STRENGTH = 0.32
_WIDE, _FLAT = 0.8, 0.18
"""Its width against the puppet's, and its height against its width."""


class Shadowing(Bench):
    """A gesture that lays a shadow."""

    def add_shadow(self) -> str:
        """A shadow under the body, behind all parts; the part's id. Raises InvalidInputError for an empty puppet."""
        puppet = self.puppet
        box = union(self.workspace.art(p.art_hash).bounds for p in puppet.parts if not p.hidden and not p.shadow)
        body = _body_of(puppet)
        if box is None or body is None:
            raise InvalidInputError("There is nothing yet that could throw a shadow.", "Bring in some art first.")
        digest = put_art(self.workspace, _ellipse(puppet, box))
        made = new_id()

        def work(before: Puppet) -> PuppetChange:
            name = unlike("shadow", (p.name for p in before.parts))
            rise = max(before.base_y - body.y, box.height / 3, 1.0)
            shadow = Part(
                id=made, puppet_id=before.id, bone_id=body.id, name=name, art_hash=digest, shadow=round(rise, 1)
            )
            ordered = [shadow, *sorted(before.parts, key=lambda p: p.rank)]
            return PuppetChange(parts=tuple(p.model_copy(update={"rank": n}) for n, p in enumerate(ordered)))

        self.commit("lay a shadow", work)
        return made


def _body_of(puppet: Puppet) -> Bone | None:
    """The bone that carries the body: the pelvis, else the first of all."""
    rows = [row.bone for row in walk(puppet.bones)]
    return next((b for b in rows if b.role == "pelvis"), rows[0] if rows else None)


def _ellipse(puppet: Puppet, box: Box) -> Art:
    half = box.width * _WIDE / 2
    x, y = puppet.base_x, puppet.base_y
    corners = [(x - half, y - half * _FLAT), (x + half, y + half * _FLAT)]
    shape = sketch.make_shape(sketch.sketched("ellipse", corners, True), Style(_INK, "", 0.0))
    drawn = sketch.art_of(shape)
    return drawn.model_copy(update={"nodes": (Group(children=drawn.nodes, opacity=_STRENGTH),)})
