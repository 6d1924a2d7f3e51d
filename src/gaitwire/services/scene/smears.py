"""Smears on the Floor: a drawing for one frame, made of the way that a part comes, as a replacement to be edited."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal, NamedTuple, get_args

import numpy as np
import shapely

from gaitwire.core.addresses import Address, Node
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import CompiledScene, Frames, compile_scene, evaluate
from gaitwire.core.geometry import affine
from gaitwire.core.geometry.mesh import rim
from gaitwire.core.ids import new_id
from gaitwire.core.motion.smear import Cutout, drawn_out_art, farthest, pictures_in, swept_art, way_of
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.drawings import made_drawing
from gaitwire.core.puppet.model import Part, Puppet, Replacement
from gaitwire.core.puppet.outline import art_region, mask_outline
from gaitwire.core.puppet.soften import art_points, with_points
from gaitwire.core.puppet.tree import descendants
from gaitwire.core.timing.edit import key_at, set_key
from gaitwire.core.tolerances import TIME
from gaitwire.services.library.art_in import put_art
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.kept_poses import course_of
from gaitwire.services.session.naming import unlike
from gaitwire.services.session.pictures import main_colour
from gaitwire.services.session.skins import WHOLE, soft_name
from gaitwire.store.documents import scenes_with

SmearKind = Literal["swept", "drawn out"]
SMEARS: tuple[SmearKind, ...] = get_args(SmearKind)
LEAST = 6.0
"""Pixels of a part that it comes at least, for a smear of it to be made."""
_STEP = 10.0
"""Pixels between the times at which it is looked at."""
_FEWEST, _MOST = 5, 17
_STAIRS = 1.5
"""Pixels by which a picture's outline is made simpler: it goes in steps."""
_LONGEST = 12.0
"""Frames."""


class Smear(NamedTuple):
    """What smear is wanted: over how many frames up to this one; `tail` is its size where it came from (swept), `keep`
    how much of its area it keeps (drawn out); with or without what hangs from the bones."""

    kind: SmearKind = "swept"
    frames: float = 1.0
    tail: float = 0.3
    keep: float = 0.5
    hangers: bool = True


class _Made(NamedTuple):
    """A smear of a part: its art, the number of the drawing that it is made of, and the smear it showed before."""

    art: Art
    base: int
    earlier: Replacement | None


@gesture("smear")
def smear_parts(draft: Draft, nodes: Sequence[Node], frame: float, wanted: Smear) -> list[str]:
    """Show smears of all that hangs from some bones on a frame, and after it what would have been shown.

    Names of the parts that come far enough for one. Raises InvalidInputError where none does.
    """
    _refuse(wanted)
    names: list[str] = []
    for instance_id in dict.fromkeys(i for i, _ in nodes):
        owners = {o for i, o in nodes if i == instance_id}
        names += _smear_puppet(draft, instance_id, owners, frame, wanted)
    if not names:
        raise InvalidInputError(
            "Nothing that is chosen comes far enough here.",
            "Choose a frame in the middle of a quick move, and the bones that make it.",
        )
    return names


def _smear_puppet(draft: Draft, instance_id: str, owners: set[str], frame: float, wanted: Smear) -> list[str]:
    instance = draft.instance(instance_id)
    puppet = draft.workspace.puppet(instance.puppet_id)
    time = instance.exposed(frame)
    way = _Way(draft, instance_id, puppet, time, wanted.frames * instance.exposure)
    names = []
    for part in _parts_of(puppet, owners, instance_id, wanted.hangers):
        made = way.smeared(part, wanted)
        if made is not None:
            draft.refuse_locked([(instance_id, part.id)])
            _show(draft, part, made, instance_id, time)
            names.append(part.name)
    if names and puppet.id not in draft.documents:
        draft.documents.append(puppet.id)
    return names


def _show(draft: Draft, part: Part, made: _Made, instance_id: str, time: float) -> None:
    """Key a smear for one exposed frame; one that was made for this very frame is drawn anew."""
    digest = put_art(draft.workspace, made.art)
    if made.earlier is not None and _only_here(draft, part, made.earlier):
        draft.put([made.earlier.model_copy(update={"art_hash": digest})])
        return
    puppet = draft.workspace.puppet(part.puppet_id)
    # The same puppet may stand in the scene twice: the gesture may have drawn this part already.
    written = tuple(r for r in draft.changes.written(Replacement).values() if r and r.number > 0)
    puppet = puppet.model_copy(update={"replacements": (*puppet.replacements, *written)})
    name = unlike(f"{part.name[:60]} smear", [d.name for d in puppet.drawings(part)])
    drawing = made_drawing(puppet, part.id, new_id(), name, digest, smear=True)
    draft.put([drawing])
    _key_once(draft, (instance_id, part.id, "drawing"), time, drawing.number, made)


def _key_once(draft: Draft, address: Address, time: float, number: int, made: _Made) -> None:
    """Key a drawing for one exposed frame only."""
    scene, instance = draft.scene, draft.instance(address[0])
    channel = next((c for c in scene.channels if (c.instance_id, c.owner_id, c.property) == address), None)
    channel = channel or draft.new_channel(address)
    draft.put([channel])
    keys = list(scene.keys_by_channel().get(channel.id, []))
    loop, after = scene.loop_length, time + instance.exposure
    draft.means(address[:2], time, after - 1)
    shown = course_of(scene, channel, keys).value(after % loop if loop else after)
    if key_at(keys, after % loop if loop else after) is None and (loop or after < scene.frames - 1 + TIME):
        was_it = made.earlier is not None and shown == made.earlier.number
        keys += set_key(keys, channel.id, after, made.base if was_it else shown, loop, new_id, "hold").put
    changed = set_key(keys, channel.id, time, number, loop, new_id, "hold").put
    draft.put({k.id: k for k in (*keys, *changed)}.values())


def _only_here(floor: SceneState, part: Part, smear: Replacement) -> bool:
    """Whether a smear is keyed once, and in no other scene."""
    shown = 0
    for scene_id in scenes_with(floor.workspace.store, part.puppet_id):
        scene = floor.workspace.scene(scene_id)
        channels = {c.id for c in scene.channels if (c.owner_id, c.property) == (part.id, "drawing")}
        shown += sum(k.channel_id in channels and round(k.value) == smear.number for k in scene.keys)
    return shown == 1


def _refuse(wanted: Smear) -> None:
    """Raise InvalidInputError for a smear that cannot be."""
    if wanted.kind not in SMEARS:
        raise InvalidInputError("There is no such smear.", f"Known: {', '.join(SMEARS)}.")
    if not 0 < wanted.frames <= _LONGEST:
        raise InvalidInputError(f"A smear covers up to {_LONGEST:.0f} frames.", "Type 1, say.")
    if not (0 <= wanted.tail <= 1 and 0 <= wanted.keep <= 1):
        raise InvalidInputError("That is a share from 0 to 100 %.", "Type 30, say.")


def _parts_of(puppet: Puppet, owners: set[str], instance_id: str, hangers: bool) -> Iterator[Part]:
    """Visible parts that are chosen or hang from chosen bones; no shadows, and none whose drawings a pad chooses."""
    bones = {b.id for b in puppet.bones if instance_id in owners or b.id in owners}
    for bone_id in list(bones) if hangers else ():
        bones |= descendants(puppet.bones, bone_id)
    led = {r.owner_id for e in puppet.entries for r in e.rows if r.property == "drawing"}
    for part in puppet.parts:
        wanted = part.bone_id in bones or part.id in owners
        if wanted and part.id not in led and not part.hidden and not part.shadow:
            yield part


class _Way:
    """How the parts of a puppet come to where they are on a frame, seen from there."""

    def __init__(self, floor: SceneState, instance_id: str, puppet: Puppet, time: float, frames: float) -> None:
        self.workspace, self.puppet, self.instance_id = floor.workspace, puppet, instance_id
        scene = floor.scene
        plain = tuple(i.model_copy(update={"exposure": 1}) for i in scene.instances)
        cast, phrases = self.workspace.cast(scene), self.workspace.phrases(scene)
        skins = self.workspace.skins.of(cast.values())
        self.compiled: CompiledScene = compile_scene(
            scene.model_copy(update={"instances": plain}), cast, skins, self.workspace.compiled(scene.id), phrases
        )
        self.times = time - frames * np.linspace(1.0, 0.0, _MOST)
        self.shown: Frames = evaluate(self.compiled, self.times)

    def smeared(self, part: Part, wanted: Smear) -> _Made | None:
        """A part's smear; None for one that does not come far enough, is not seen, or cannot be drawn out."""
        index = self.shown.part_keys.index((self.instance_id, part.id))
        if self.shown.opacity[-1, index] <= 0:
            return None
        drawings = self.puppet.drawings(part)
        now = drawings[int(self.shown.drawing[-1, index])]
        base = now
        if now.smear:
            before = drawings[int(self.shown.drawing[0, index])]
            base = drawings[0] if before.smear else before
        art, points = self._points(part, index, drawings.index(base))
        cutouts = self._cutouts(part, index, art)
        seen = np.concatenate([points, *(c.ring for c in cutouts.values())], axis=1)
        come = farthest(seen) * self._scale(index)
        if come < LEAST:
            return None
        if wanted.kind == "swept":
            count = int(np.clip(np.ceil(come / _STEP), _FEWEST, _MOST))
            some = np.rint(np.linspace(0, _MOST - 1, count)).astype(int)
            cut = {n: c._replace(ring=c.ring[some]) for n, c in cutouts.items()}
            rigid = index not in self.shown.soft
            made: Art | None = swept_art(art, points[some], wanted.tail, cut, keep_pictures=rigid)
        else:
            made = self._drawn_out(part, index, with_points(art, points[-1]), way_of(seen), wanted.keep)
        return _Made(made, base.number, now if now.smear else None) if made else None

    def _scale(self, index: int) -> float:
        """Pixels of the stage for each of a part, as it stands."""
        a, b, c, d, _, _ = self.shown.matrices[-1, index]
        return float(np.sqrt(abs(a * d - b * c)))

    def _seen_from_now(self, index: int, points: FloatArray) -> FloatArray:
        """Points (T, K, 2) of a part's own pixels at each time, in those of the last one."""
        matrices = self.shown.matrices[:, index].T
        home = affine.compose(affine.invert(matrices[:, -1:]), matrices)
        x, y = affine.apply(home[:, :, None], points[..., 0], points[..., 1])
        return np.stack([x, y], axis=-1)

    def _points(self, part: Part, index: int, drawing: int) -> tuple[Art, FloatArray]:
        """A drawing of a part, softened, and where its points are at each time (T, K, 2)."""
        soft = self.shown.soft.get(index)
        if soft is not None:
            art = self.workspace.art(self.workspace.drawings(self.puppet, part, True)[drawing])
            own = self.shown.points[:, soft.drawing(drawing)].astype(float)
        else:
            art = self.workspace.art(soft_name(self.puppet.drawings(part)[drawing].art_hash, WHOLE))
            own = np.repeat(art_points(art)[None], len(self.times), axis=0)
        return art, self._seen_from_now(index, own)

    def _cutouts(self, part: Part, index: int, art: Art) -> dict[int, Cutout]:
        """How each picture of a drawing is swept: along its outline, or, where it bends, the rim of its mesh."""
        found = {}
        soft = self.shown.soft.get(index)
        for place, picture in pictures_in(art).items():
            if soft is not None:
                mesh = self.compiled.skins[part.id].body.mesh
                own = self.shown.points[:, soft.mesh][:, rim(mesh)].astype(float)
            else:
                outline = mask_outline(self.workspace.skins.mask(picture.hash))
                largest = max(shapely.get_parts(outline), key=lambda p: float(p.area))
                line = shapely.get_coordinates(shapely.simplify(largest.exterior, _STAIRS))[:-1]
                x, y = affine.apply(np.array(picture.matrix)[:, None], *line.T)
                own = np.repeat(np.stack([x, y], axis=-1)[None], len(self.times), axis=0)
            alone = Art(nodes=(picture,), box=art.box)
            colour = main_colour(self.workspace, alone, art.bounds) or "#808080"
            found[place] = Cutout(self._seen_from_now(index, own), colour)
        return found

    def _drawn_out(self, part: Part, index: int, art: Art, way: complex, keep: float) -> Art | None:
        if index in self.shown.soft and pictures_in(art):
            raise InvalidInputError(f"“{part.name}” is a picture that bends.", "It can be swept, not drawn out.")
        if abs(way) * self._scale(index) < LEAST:
            return None
        return drawn_out_art(art, art_region([art], self.workspace.skins.mask), way, keep)
