"""Skins of soft parts, made from the art and kept while neither art, bones nor pins change."""

from __future__ import annotations

import io
import json
from collections.abc import Callable, Iterable

import numpy as np
from PIL import Image

from gaitwire.core.deform.skin import (
    Body,
    Brushed,
    Skin,
    bending_bones,
    fitting_grain,
    make_skin,
    part_body,
    reshaped_skin,
)
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.puppet.outline import Mask
from gaitwire.core.puppet.soften import has_pictures
from gaitwire.services.session.bounded_cache import BoundedCache

SOFT = "~"
"""Between the hash of art and the grain it was made ready to bend for."""

WHOLE = 1000.0
"""The grain of art whose points move one by one: wider than any curve, so that none is cut."""

_ROOM = 64_000_000
"""Bytes of each kind that are kept at most."""

WEIGHTS_MEDIA_TYPE = "application/vnd.gaitwire.weights+json"


def soft_name(digest: str, grain: float) -> str:
    """The name of art made ready to bend."""
    return f"{digest}{SOFT}{grain:g}"


def read_grain(text: str) -> float:
    """The grain in such a name; raises NotFoundError for anything else."""
    try:
        grain = float(text)
    except ValueError:
        grain = 0.0
    if not 0.1 <= grain <= 1000:
        raise NotFoundError("There is no such art.")
    return grain


def write_brushed(brushed: Brushed) -> bytes:
    """Brushed weights as they are stored."""
    return json.dumps(
        {
            "bones": brushed.bones,
            "vertices": np.round(brushed.vertices, 3).tolist(),
            "triangles": brushed.triangles.tolist(),
            "weights": np.round(brushed.weights, 4).tolist(),
        }
    ).encode()


def read_brushed(data: bytes) -> Brushed:
    """The reverse of `write_brushed`."""
    found = json.loads(data)
    return Brushed(
        tuple(found["bones"]),
        np.array(found["vertices"], float).reshape(-1, 2),
        np.array(found["triangles"], np.int64).reshape(-1, 3),
        np.array(found["weights"], float).reshape(-1, len(found["bones"])),
    )


class SkinCaches:
    """What was made of art and rigs, known by these alone: several workspaces may share it."""

    def __init__(self) -> None:
        self.blobs, self.grains = BoundedCache(most_bytes=_ROOM), BoundedCache(500)
        self.bodies, self.skins = BoundedCache(most_bytes=_ROOM), BoundedCache(most_bytes=_ROOM)


class SkinShelf:
    """Makes skins. `art` gives art by its name, `blob` bytes by their hash."""

    def __init__(self, art: Callable[[str], Art], blob: Callable[[str], bytes], caches: SkinCaches) -> None:
        self._art, self._blob = art, blob
        self._blobs, self._grains = caches.blobs, caches.grains
        self._bodies, self._skins = caches.bodies, caches.skins

    def mask(self, digest: str) -> Mask:
        """Where a picture shows something."""

        def work() -> Mask:
            with Image.open(io.BytesIO(self._blob(digest))) as picture:
                return np.asarray(picture.convert("RGBA").getchannel("A")) > 8

        return self._blobs.get(digest, work)

    def grain(self, puppet: Puppet, part: Part) -> float:
        """Pixels between the points of the part's mesh: its own, or what suits its art; of a rigid one, any."""
        if not part.soft:
            return WHOLE
        if part.grain > 0:
            return part.grain
        hashes = tuple(d.art_hash for d in puppet.drawings(part) if not d.smear)
        return self._grains.get(hashes, lambda: fitting_grain([self._art(h) for h in hashes], self.mask))

    def body(self, puppet: Puppet, part: Part) -> Body:
        """The part's mesh; raises InvalidInputError for art or pins that cannot be used."""
        grain = self.grain(puppet, part)
        names = tuple(soft_name(d.art_hash, grain) for d in puppet.drawings(part))
        smears = tuple(d.smear for d in puppet.drawings(part))
        places = tuple((p.x, p.y) for p in puppet.pins_of(part.id))
        return self._bodies.get(
            (names, smears, places), lambda: part_body(puppet, part, [self._art(n) for n in names], self.mask, grain)
        )

    def brushed(self, part: Part) -> Brushed | None:
        """Weights set by hand, if there are any."""
        if not part.weights_hash:
            return None
        return self._blobs.get(part.weights_hash, lambda: read_brushed(self._blob(part.weights_hash)))

    def skin(self, puppet: Puppet, part: Part) -> Skin:
        """The part's skin; raises InvalidInputError for art or pins that cannot be used."""
        hashes = tuple(d.art_hash for d in puppet.drawings(part))
        tree = tuple((b.id, b.parent_id) for b in puppet.bones)
        if not part.soft:
            bone = next(b for b in puppet.bones if b.id == part.bone_id)
            arts = [self._art(soft_name(h, WHOLE)) for h in hashes]
            return self._skins.get((part, hashes, bone), lambda: reshaped_skin(part, arts, bone))
        key = (part, hashes, tree, tuple(bending_bones(puppet, part)), puppet.pins_of(part.id))
        return self._skins.get(key, lambda: make_skin(puppet, part, self.body(puppet, part), self.brushed(part)))

    def of(self, puppets: Iterable[Puppet], loose: bool = False) -> dict[str, Skin]:
        """Skins of all soft parts that can bend and of rigid ones with points that move. Others are shown rigid.

        `loose`: those of all rigid parts that have points to move.
        """
        found = {}
        for puppet in puppets:
            reshaped = {r.part_id for e in puppet.entries for r in e.reshapes}
            if loose:
                reshaped |= {p.id for p in puppet.parts if not has_pictures(self._art(p.art_hash).nodes)}
            for part in puppet.parts:
                if part.soft or part.id in reshaped:
                    try:
                        found[part.id] = self.skin(puppet, part)
                    except InvalidInputError:
                        continue
        return found
