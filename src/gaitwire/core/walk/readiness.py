"""Ready to walk? What a puppet lacks for a walk, or has only weakly, and what can be done about it."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import Literal, NamedTuple

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.geometry.bounds import Box
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.walk.walker import Walker, walker_of

RemedyName = Literal["", "roles", "feet", "limbs"]
"""How a weakness is mended: by roles guessed from names, feet as long as their art, limbs for all feet."""

_BESIDE = 0.15
"""Share of a part's size by which a joint may lie beside it: caps and round ends go over it a little."""


class Weakness(NamedTuple):
    """Something that keeps a puppet from walking, or walking well."""

    said: str
    remedy: RemedyName = ""


def weaknesses(puppet: Puppet, boxes: Mapping[str, Box]) -> list[Weakness]:
    """What a puppet lacks for a walk; `boxes` are of the art on each bone at rest, by the bone's id."""
    try:
        walker = walker_of(puppet)
    except InvalidInputError as error:
        return [Weakness(str(error), "roles")]
    return [*_feet(puppet, walker), *_arms(walker), *_joints(walker, boxes)]


def foot_along(foot: Bone, box: Box) -> tuple[float, float]:
    """The length in pixels and the angle in degrees of a foot bone that goes from its joint to the toe of its art."""
    ahead, behind = box.x1 - foot.x, foot.x - box.x0
    return (max(ahead, behind), 0.0 if ahead >= behind else 180.0)


def _feet(puppet: Puppet, walker: Walker) -> Iterator[Weakness]:
    legs = (*walker.legs, *(walker.fore.legs if walker.fore else ()))
    flat = [leg.foot.name for leg in legs if leg.foot.length <= 0]
    if flat:
        said = f"{_listed(flat)} {_has(flat)} no length: there is no heel and ball to roll over, so steps are short."
        yield Weakness(said, "feet")
    tips = {i.tip_id for i in puppet.limbs if len(chain_of(puppet, i)) > 1}
    loose = [leg.foot.name for leg in legs if leg.foot.id not in tips]
    if loose:
        yield Weakness(f"{_listed(loose)} {_has(loose)} no limb: it is not planted, pulled or braced.", "limbs")


def _arms(walker: Walker) -> Iterator[Weakness]:
    lacking = [side for side, arm in zip(("near", "far"), walker.arms, strict=True) if arm is None]
    if lacking and not walker.fore and walker.view == "side" and len(lacking) == 1:
        yield Weakness(f"The {lacking[0]} arm does not swing: it has no upper arm and forearm by role.", "roles")
    if walker.head is None:
        yield Weakness("It has no head by role: nothing stays level above the steps.", "roles")


def _joints(walker: Walker, boxes: Mapping[str, Box]) -> Iterator[Weakness]:
    """Joints that lie beside the art of both of the bones that meet there."""
    for leg in walker.legs:
        for upper, lower in ((leg.thigh, leg.shin), (leg.shin, leg.foot)):
            near = [b for b in (boxes.get(upper.id), boxes.get(lower.id)) if b is not None]
            if near and not any(_covers(box, lower) for box in near):
                yield Weakness(f"The joint of {lower.name} lies outside its drawing: the leg comes apart there.")


def _covers(box: Box, bone: Bone) -> bool:
    room = _BESIDE * math.hypot(box.width, box.height)
    return box.x0 - room <= bone.x <= box.x1 + room and box.y0 - room <= bone.y <= box.y1 + room


def _listed(names: list[str]) -> str:
    return f"{', '.join(names[:-1])} and {names[-1]}" if len(names) > 1 else names[0]


def _has(names: list[str]) -> str:
    return "have" if len(names) > 1 else "has"
