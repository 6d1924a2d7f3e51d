"""What is spoken of in a scene: things, their properties, and the keys of a thing at one time."""

from __future__ import annotations

from typing import NamedTuple

Node = tuple[str, str]
"""A thing in a scene: (instance id, owner id), a puppet as a whole being owned by itself."""

Address = tuple[str, str, str]
"""A property of a thing in a scene: (instance id, owner id, property)."""

OwnAddress = tuple[str, str]
"""A property of a thing of one puppet: (owner id, property)."""


class Bead(NamedTuple):
    """All keys of one wire at one time."""

    instance_id: str
    owner_id: str
    time: float
