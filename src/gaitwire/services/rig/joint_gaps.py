"""Joints that hold together: what opens at each, and remedies, each one step of history."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from typing import Literal, NamedTuple, get_args

from shapely.geometry.base import BaseGeometry

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.geometry.bounds import Box
from gaitwire.core.ids import new_id
from gaitwire.core.puppet import sketch
from gaitwire.core.puppet.art import Art, Shape, Solid, leaves
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_bone, refuse_locked
from gaitwire.core.puppet.gaps import Joint, disc, joint_of, pieces_of
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.puppet.outline import art_region
from gaitwire.core.puppet.sketch import Style
from gaitwire.services.library.art_in import put_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.session.naming import unlike
from gaitwire.services.session.pictures import main_colour

RemedyKind = Literal["pivot", "patch", "round"]
REMEDIES: dict[RemedyKind, str] = {
    "pivot": "move the pivot", "patch": "a patch behind", "round": "make its end round",
}  # fmt: skip
OPEN = 6.0
"""Square pixels from which on a joint counts as opening."""
_INSIDE = 1.5
"""Pixels by which a patch stays within the outline."""


class Gap(NamedTuple):
    """A joint and the widest that it opens: square pixels, and at which angle in degrees."""

    bone_id: str
    name: str
    area: float
    angle: float


class GapRemedy(NamedTuple):
    """What can be done about a joint, and the widest gap after it; `said` is how it would change."""

    kind: RemedyKind
    label: str
    area: float
    angle: float
    said: str


class Mending(Bench):
    """Gestures that keep joints together."""

    def joint(self, bone_id: str) -> Joint | None:
        """A bone's joint between rigid pieces of art; None where there are none on either side."""
        puppet = self.puppet
        bone = find_bone(puppet, bone_id)
        pieces = pieces_of(puppet, bone)
        if pieces is None:
            return None
        upper, lower = ([self._region(p) for p in side] for side in pieces)
        return joint_of(bone, upper, lower)

    def _region(self, part: Part) -> BaseGeometry:
        return art_region([self._art(part)], self.workspace.skins.mask)

    def _art(self, part: Part) -> Art:
        """What a part shows at rest."""
        drawing = next((d for d in self.puppet.drawings(part) if d.number == part.shows), None)
        return self.workspace.art(drawing.art_hash if drawing else part.art_hash)

    def gaps(self) -> list[Gap]:
        """Every joint between rigid pieces that lie over each other, the one that opens most first."""
        found = []
        for bone in self.puppet.bones:
            joint = self.joint(bone.id)
            if joint is not None and joint.reach > 0:
                found.append(Gap(bone.id, bone.name, *joint.worst(2.0)))
        return sorted(found, key=lambda g: -g.area)

    def remedies(self, bone_id: str) -> list[GapRemedy]:
        """What can be done about a joint, with the gap that is left, the best first; none where nothing opens."""
        joint = self._meeting(bone_id)
        if joint.worst()[0] <= OPEN:
            return []
        found = []
        for kind in get_args(RemedyKind):
            mended, said = self._mended(bone_id, joint, kind)
            if mended is not None:
                found.append(GapRemedy(kind, REMEDIES[kind], *mended.worst(), said))
        return sorted(found, key=lambda r: r.area)

    def _meeting(self, bone_id: str) -> Joint:
        joint = self.joint(bone_id)
        if joint is None or joint.reach <= 0:
            raise InvalidInputError(
                "There are no two rigid pieces here that lie over each other.", "Choose the bone below a joint."
            )
        return joint

    def _mended(self, bone_id: str, joint: Joint, kind: RemedyKind) -> tuple[Joint | None, str]:
        """The joint after a remedy, and what would change; None where it cannot be done."""
        if kind == "pivot":
            place = joint.better_pivot()
            way = place - joint.pivot
            if not way:
                return None, ""
            return joint.moved(place), f"by {abs(way):.1f} px, to {place.real:.1f}, {place.imag:.1f}"
        radius = joint.inscribed() - _INSIDE
        if radius < 1:
            return None, ""
        patch = disc(joint.pivot, radius)
        if kind == "patch":
            return joint.patched(patch), f"a disc of {radius:.1f} px, in the colour of the art there"
        if not self._shapes(self._end(bone_id)):
            return None, ""
        rounded = replace(joint, lower=joint.lower.union(disc(joint.pivot, joint.inscribed())))
        return rounded, f"by a disc of {joint.inscribed():.1f} px in its own art"

    def _end(self, bone_id: str) -> Part:
        """The largest of the rigid parts below a joint."""
        pieces = pieces_of(self.puppet, find_bone(self.puppet, bone_id))
        return max(pieces[1] if pieces else (), key=lambda p: self._region(p).area)

    def _shapes(self, part: Part) -> list[Shape]:
        return [leaf for leaf in leaves(self._art(part).nodes) if isinstance(leaf, Shape)]

    def mend(self, bone_id: str, kind: RemedyKind) -> tuple[float, float]:
        """Apply a remedy; the widest gap before and after it. Raises InvalidInputError where it cannot be done."""
        joint = self._meeting(bone_id)
        if kind not in get_args(RemedyKind) or self._mended(bone_id, joint, kind)[0] is None:
            raise InvalidInputError("This cannot be done here.", "Choose another remedy.")
        before = joint.worst()[0]
        work = {"pivot": self._move_pivot, "patch": self._put_patch, "round": self._round_end}[kind]
        work(bone_id, joint)
        after = self._meeting(bone_id)
        # Measured on what the joint had to cover before, as the remedy was offered.
        return before, (replace(joint, upper=after.upper, lower=after.lower) if kind != "pivot" else after).worst()[0]

    def _move_pivot(self, bone_id: str, joint: Joint) -> None:
        place = joint.better_pivot()
        self.move_joint(bone_id, "pivot", round(place.real, 2), round(place.imag, 2), alone=True)

    def _put_patch(self, bone_id: str, joint: Joint) -> None:
        """A disc behind both pieces, in the colour of the lower one about the joint, on the bone above."""
        shape = self._disc(joint, joint.inscribed() - _INSIDE, bone_id, outlined=False)
        digest = put_art(self.workspace, sketch.art_of(shape))
        made = new_id()

        def work(puppet: Puppet) -> PuppetChange:
            bone = find_bone(puppet, bone_id)
            upper, lower = pieces_of(puppet, bone) or ([], [])
            refuse_locked([*upper, *lower])
            name = unlike(f"{bone.name[:70]} patch", (p.name for p in puppet.parts))
            patch = Part(id=made, puppet_id=puppet.id, bone_id=upper[0].bone_id, name=name, art_hash=digest)
            return PuppetChange(parts=_with_behind(puppet, patch, [*upper, *lower]))

        self.commit("patch a joint", work)

    def _round_end(self, bone_id: str, joint: Joint) -> None:
        """A disc in the art of the lower piece, behind all else of it, with its own outline."""
        part = self._end(bone_id)
        shape = self._disc(joint, joint.inscribed(), bone_id, outlined=True)
        digest = put_art(self.workspace, sketch.with_shape_behind(self._art(part), shape))

        def work(puppet: Puppet) -> PuppetChange:
            refuse_locked([part])
            if part.shows:
                drawing = next(d for d in puppet.drawings(part) if d.number == part.shows)
                return PuppetChange(replacements=(drawing.model_copy(update={"art_hash": digest}),))
            return PuppetChange(parts=(part.model_copy(update={"art_hash": digest}),))

        self.commit("round an end", work)

    def _disc(self, joint: Joint, radius: float, bone_id: str, outlined: bool) -> Shape:
        x, y = joint.pivot.real, joint.pivot.imag
        corners = [(x - radius, y - radius), (x + radius, y + radius)]
        part = self._end(bone_id)
        outline = self._outline(part) if outlined else Style("", "", 0.0)
        if outline.stroke:  # the outline's outer edge is the disc's
            half = outline.width / 2
            corners = [(x - radius + half, y - radius + half), (x + radius - half, y + radius - half)]
        fill = self._colour(part, joint.pivot, radius)
        return sketch.make_shape(sketch.sketched("ellipse", corners, True), outline._replace(fill=fill))

    def _outline(self, part: Part) -> Style:
        """The outline that most of a part's shapes have, without a fill."""
        found = Counter(
            (s.stroke.paint.color, s.stroke.width)
            for s in self._shapes(part)
            if s.stroke is not None and s.fill is not None and isinstance(s.stroke.paint, Solid)
        )
        colour, width = found.most_common(1)[0][0] if found else ("", 0.0)
        return Style("", colour, width)

    def _colour(self, part: Part, place: complex, radius: float) -> str:
        """The colour that a part mostly has about a place, #rrggbb."""
        x, y = place.real, place.imag
        found = main_colour(self.workspace, self._art(part), Box(x - radius, y - radius, x + radius, y + radius))
        if found is None:
            raise InvalidInputError("There is no colour at this joint to sample.", "Move the pivot onto the art.")
        return found


def _with_behind(puppet: Puppet, patch: Part, others: Sequence[Part]) -> tuple[Part, ...]:
    """All parts in order, with one more behind some of them."""
    first = min(p.rank for p in others)
    ordered = sorted(puppet.parts, key=lambda p: p.rank)
    at = next(n for n, p in enumerate(ordered) if p.rank == first)
    ordered.insert(at, patch)
    return tuple(p.model_copy(update={"rank": n}) for n, p in enumerate(ordered))
