"""Regions, sides and roles, and how they are guessed from names."""

from __future__ import annotations

import re
from typing import Literal, NamedTuple, get_args

Region = Literal["head", "body", "arm", "leg", "tail", "prop"]
Side = Literal["near", "centre", "far"]

REGIONS: tuple[Region, ...] = get_args(Region)
SIDES: tuple[Side, ...] = get_args(Side)

ROLES: dict[str, Region] = {
    "head": "head",
    "neck": "head",
    "jaw": "head",
    "eye": "head",
    "brow": "head",
    "mouth": "head",
    "hair": "head",
    "hat": "head",
    "ear": "head",
    "pelvis": "body",
    "waist": "body",
    "chest": "body",
    "torso": "body",
    "shoulder": "arm",
    "upper arm": "arm",
    "forearm": "arm",
    "hand": "arm",
    "wing": "arm",
    "thigh": "leg",
    "shin": "leg",
    "foot": "leg",
    "toe": "leg",
    "fore thigh": "leg",
    "fore shin": "leg",
    "fore foot": "leg",
    "tail": "tail",
    "wheel": "prop",
    "axle": "prop",
    "rope": "prop",
    "cloth": "prop",
    "load": "prop",
}
"""Every role and the region it belongs to."""

_LIMB = "thigh|leg|upper|shin|cannon|lower|foot|hoof|paw"
_FORE = "fore"
"""What a foreleg's bones are called by; of an arm, `fore` is its near side or a part of it."""

_SYNONYMS: tuple[tuple[str, str], ...] = (
    # Longer expressions first: 'upper arm' must be met before 'arm'.
    (rf"{_FORE} ?(thigh|leg|upper)", "fore thigh"),
    (rf"{_FORE} ?(shin|cannon|lower)", "fore shin"),
    (rf"{_FORE} ?(foot|hoof|paw)", "fore foot"),
    (r"hind ?leg", "thigh"),
    (r"upper ?arm|sleeve|bicep", "upper arm"),
    (r"fore ?arm|lower ?arm|elbow", "forearm"),
    (r"upper ?leg|thigh", "thigh"),
    (r"lower ?leg|shin|calf|knee|cannon", "shin"),
    (r"hand|palm|fist|glove|mitten", "hand"),
    (r"toes?", "toe"),
    (r"foot|feet|boot|shoe|paw|hoof|ankle", "foot"),
    (r"pelvis|hips?", "pelvis"),
    (r"waist|belly", "waist"),
    (r"chest|ribs?|breast", "chest"),
    (r"torso|trunk|body|shirt|coat", "torso"),
    (r"neck|collar|scarf", "neck"),
    (r"jaw|chin", "jaw"),
    (r"mouth|lips?|beak|bill", "mouth"),
    (r"eyes?|pupil|lid", "eye"),
    (r"brows?|eyebrows?", "brow"),
    (r"hair|plait|fringe|ponytail", "hair"),
    (r"hat|cap|bandana|hood", "hat"),
    (r"ears?", "ear"),
    (r"head|face|skull", "head"),
    (r"shoulder", "shoulder"),
    (r"wing", "wing"),
    (r"tail", "tail"),
    (r"wheel", "wheel"),
    (r"axle", "axle"),
    (r"rope|cord|string", "rope"),
    (r"cloth|tarp|tarpaulin|flag|apron", "cloth"),
    (r"crates?|load|barrel|box", "load"),
)

_NEAR = rf"near|front|fore(?! ?(?:{_LIMB}))|r|right|rt"
_FAR = r"far|back|rear|l|left|lt"


class Guess(NamedTuple):
    """What a name suggests; an empty role when it suggests nothing."""

    region: Region
    side: Side
    role: str


def guess_from_name(name: str) -> Guess:
    """Region, side and role that a bone's or part's name suggests.

    >>> guess_from_name("Near shin")
    Guess(region='leg', side='near', role='shin')
    """
    text = " ".join(re.findall(r"[a-z]+", re.sub(r"([a-z])([A-Z])", r"\1 \2", name).lower()))
    side: Side = "centre"
    if re.search(rf"\b({_NEAR})\b", text):
        side = "near"
    elif re.search(rf"\b({_FAR})\b", text):
        side = "far"
    for pattern, role in _SYNONYMS:
        if re.search(rf"\b({pattern})\b", text):
            return Guess(ROLES[role], side, role)
    if re.search(r"\barms?\b", text):
        return Guess("arm", side, "")
    if re.search(r"\blegs?\b", text):
        return Guess("leg", side, "")
    return Guess("prop" if side == "centre" else "body", side, "")
