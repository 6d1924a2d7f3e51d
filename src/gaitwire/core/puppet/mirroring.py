"""A limb, a side, a pin made again on the other side, with names and sides turned over."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_bone, refuse_locked
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet, Replacement
from gaitwire.core.puppet.roles import Side
from gaitwire.core.puppet.tree import descendants, walk

_PAIRS = (("near", "far"), ("left", "right"), ("front", "back"), ("fore", "hind"), ("l", "r"), ("lt", "rt"))
_OVER = {a: b for pair in _PAIRS for a, b in (pair, pair[::-1])}
_SIDE_WORD = re.compile(rf"(?<![a-z])({'|'.join(sorted(_OVER, key=len, reverse=True))})(?![a-z])", re.IGNORECASE)

OTHER_SIDE: dict[Side, Side] = {"near": "far", "far": "near", "centre": "centre"}


def turned_over(name: str) -> str:
    """The name with its side exchanged; unchanged when it names none.

    >>> turned_over("Near upper arm"), turned_over("hand_L")
    ('Far upper arm', 'hand_R')
    """

    def other(match: re.Match[str]) -> str:
        word = match[1]
        found = _OVER[word.lower()]
        return found.upper() if word.isupper() else found.capitalize() if word[0].isupper() else found

    return _SIDE_WORD.sub(other, name, count=1)


@dataclass(frozen=True)
class Mirror:
    """How things come to lie on the other side: reflected in an upright line, or (None) where they are."""

    axis: float | None = None

    def x(self, x: float) -> float:
        return x if self.axis is None else round(2 * self.axis - x, 4)

    def angle(self, angle: float) -> float:
        return angle if self.axis is None else 180.0 - angle

    def limits(self, low: float | None, high: float | None) -> tuple[float | None, float | None]:
        if self.axis is None:
            return low, high
        return (None if high is None else -high), (None if low is None else -low)


@dataclass
class _Copier:
    """Makes what is missing on the other side, and sets what is there."""

    puppet: Puppet
    mirror: Mirror
    new_id: Callable[[], str]
    with_art: bool
    art: Mapping[str, str]  # hash of each drawing's art to that of its reflection
    ids: dict[str, str] = field(default_factory=dict)

    def bones(self, chosen: Sequence[Bone]) -> list[Bone]:
        known = {b.name.lower(): b for b in self.puppet.bones}
        taken = {b.id for b in chosen}
        made = []
        for bone in chosen:
            name = turned_over(bone.name)
            twin = known.get(name.lower())
            if twin is not None and twin.id in taken:
                twin = None
            self.ids[bone.id] = twin.id if twin else self.new_id()
            made.append(self._bone(bone, twin, name if name != bone.name else f"{bone.name} mirrored"))
        return made

    def _bone(self, bone: Bone, twin: Bone | None, name: str) -> Bone:
        low, high = self.mirror.limits(bone.low, bone.high)
        parent = self.ids.get(bone.parent_id or "", bone.parent_id)
        update = {
            "id": self.ids[bone.id], "name": name, "parent_id": parent, "x": self.mirror.x(bone.x),
            "angle": self.mirror.angle(bone.angle), "side": OTHER_SIDE[bone.side], "low": low, "high": high,
            "locked": False,
        }  # fmt: skip
        if twin is not None:
            update |= {"name": twin.name, "rank": twin.rank, "hidden": twin.hidden, "tag": twin.tag or bone.tag}
        return bone.model_copy(update=update)

    def parts(self) -> list[Part]:
        """Copies of the parts on the chosen bones, behind everything, in their own order turned round."""
        homes = set(self.ids)
        theirs = {self.ids[i] for i in homes}
        if not self.with_art or any(p.bone_id in theirs - homes for p in self.puppet.parts):
            return []  # the other side has art of its own
        chosen = sorted((p for p in self.puppet.parts if p.bone_id in homes), key=lambda p: -p.rank)
        lowest = min((p.rank for p in self.puppet.parts), default=0)
        made = []
        for n, part in enumerate(chosen, start=1):
            self.ids[part.id] = self.new_id()
            update = {
                "id": self.ids[part.id], "bone_id": self.ids[part.bone_id], "name": turned_over(part.name),
                "rank": lowest - n, "art_hash": self.art.get(part.art_hash, part.art_hash), "weights_hash": "",
                "bends_with": tuple(self.ids.get(b, b) for b in part.bends_with),
            }  # fmt: skip
            made.append(part.model_copy(update=update))
        return made

    def drawings(self) -> list[Replacement]:
        return [
            r.model_copy(
                update={
                    "id": self.new_id(), "part_id": self.ids[r.part_id],
                    "art_hash": self.art.get(r.art_hash, r.art_hash),
                }
            )
            for r in self.puppet.replacements
            if r.part_id in self.ids
        ]  # fmt: skip

    def pins(self) -> list[Pin]:
        return [
            p.model_copy(
                update={
                    "id": self.new_id(), "part_id": self.ids[p.part_id], "name": turned_over(p.name),
                    "x": self.mirror.x(p.x), "bone_id": self.ids.get(p.bone_id or "", p.bone_id),
                }
            )
            for p in self.puppet.pins
            if p.part_id in self.ids
        ]  # fmt: skip

    def limbs(self) -> list[Limb]:
        tips = {limb.tip_id: limb for limb in self.puppet.limbs}
        made = []
        for limb in self.puppet.limbs:
            chain = chain_of(self.puppet, limb)
            if limb.tip_id in self.ids and all(b.id in self.ids for b in chain):
                twin = tips.get(self.ids[limb.tip_id])
                update = {
                    "id": twin.id if twin else self.new_id(), "tip_id": self.ids[limb.tip_id],
                    "name": twin.name if twin else turned_over(limb.name),
                    "bend": limb.bend if self.mirror.axis is None else -limb.bend,
                }  # fmt: skip
                made.append(limb.model_copy(update=update))
        return made


def with_all_below(puppet: Puppet, bone_ids: Sequence[str]) -> list[Bone]:
    """The bones and all that hang from them, parents first."""
    wanted = {find_bone(puppet, i).id for i in bone_ids}
    wanted |= {d for i in bone_ids for d in descendants(puppet.bones, i)}
    return [row.bone for row in walk(puppet.bones) if row.bone.id in wanted]


def mirror_bones(
    puppet: Puppet,
    bone_ids: Sequence[str],
    mirror: Mirror,
    new_id: Callable[[], str],
    with_art: bool = True,
    art: Mapping[str, str] | None = None,
) -> PuppetChange:
    """Bones with all that hangs from them, made again on the other side.

    A bone there that goes by the turned-over name is set to mirror its twin; those that are missing
    are made, with copies of the art (behind everything) unless the other side has some already.
    Raises InvalidInputError when nothing is chosen, LockedError for a bone to be set.
    """
    if not bone_ids:
        raise InvalidInputError("Nothing is chosen to mirror.", "Choose the limb's first bone.")
    chosen = with_all_below(puppet, bone_ids)
    copier = _Copier(puppet, mirror, new_id, with_art, art or {})
    bones = copier.bones(chosen)
    known = {b.id: b for b in puppet.bones}
    refuse_locked(known[b.id] for b in bones if b.id in known)
    parts = copier.parts()
    return PuppetChange(
        tuple(bones), tuple(parts), tuple(copier.drawings()), tuple(copier.pins()), tuple(copier.limbs())
    )
