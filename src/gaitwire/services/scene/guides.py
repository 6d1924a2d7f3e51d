"""Work on guides: pictures laid under or over the stage, a stride of our wire figure, the grid."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import PurePosixPath
from typing import Any, NamedTuple

from gaitwire.core.conventions import Point
from gaitwire.core.errors import InvalidInputError, NotFoundError, UnreadableArtError
from gaitwire.core.guide import Guide
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.art import Art, Shape, Solid, Stroke
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.figure import HEAD, WalkFigure, walk_figure
from gaitwire.core.walk.stride import Stride
from gaitwire.formats.moving_pictures import is_film_name, read_film
from gaitwire.formats.picture_files import in_order
from gaitwire.formats.pictures import check_picture
from gaitwire.formats.raster import draw_art, picture_bytes
from gaitwire.formats.reading import Notes
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised
from gaitwire.services.session.workers import run_limited
from gaitwire.store.blobs import Blob, put_blob

MOST_PICTURES = 600
MOST_FILMED = 1200
"""Frames of a film that are kept: fifty seconds at 24 a second."""


class GuidePlace(NamedTuple):
    """A guide's id, and whether a film went on beyond what is kept of it."""

    id: str
    cut: bool


class _Run(NamedTuple):
    """Pictures in order, ready to be stored: (media type, bytes), and the size of the first."""

    pictures: list[tuple[str, bytes]]
    width: int
    height: int


def read_run(files: Mapping[str, bytes]) -> _Run:
    """Pictures by file name as a run; raises UnreadableArtError when there is none among them."""
    notes = Notes()
    names = in_order(files)
    if len(names) > MOST_PICTURES:
        raise InvalidInputError(f"These are more than {MOST_PICTURES} pictures.", "Bring in fewer.")
    found = [checked for name in names if (checked := check_picture(files[name], notes)) is not None]
    if not found:
        raise UnreadableArtError("There is no picture here.", "Choose PNG, JPEG or WebP files.")
    return _Run([(c[1], c[4]) for c in found], found[0][2], found[0][3])


@gesture()
def add_guide_files(draft: Draft, files: Mapping[str, bytes]) -> GuidePlace:
    """Lay a picture, a run of them by file name, or one film, in the middle of the stage."""
    films = [name for name in files if is_film_name(name)]
    if films and len(files) > 1:
        raise InvalidInputError("A film comes alone.", "Bring in one film, or pictures.")
    if films:
        film = run_limited(read_film, files[films[0]], draft.scene.rate, MOST_FILMED, seconds=180.0)
        run = _Run([("image/jpeg", p) for p in film.pictures], film.width, film.height)
        return GuidePlace(_lay(draft, run, films[0]), film.cut)
    return GuidePlace(_lay(draft, run_limited(read_run, dict(files)), min(files)), False)


def _lay(draft: Draft, run: _Run, file_name: str) -> str:
    name = PurePosixPath(file_name).stem[:60] or "guide"
    scene = draft.scene
    fits = min(1.0, 0.9 * scene.width / run.width, 0.9 * scene.height / run.height)
    return _add(draft, run, name, {"scale": round(fits, 4), "y": scene.height / 2})


@gesture()
def add_stride_guide(draft: Draft, frames: int, turned: bool = False, card: GaitCard | None = None) -> str:
    """Lay a stride of the wire figure over so many frames, on the ground, going round; the guide's id.

    It walks as a card says; without one, plainly.
    """
    if not 4 <= frames <= 240:
        raise InvalidInputError("A stride takes 4 to 240 frames.", "Type 24, say.")
    scene = draft.scene
    stride = Stride(card or GaitCard())
    pictures = [("image/png", _drawn(walk_figure(stride, n / frames))) for n in range(frames)]
    ground = scene.ground if scene.ground is not None else scene.height * 0.85
    scale = round(0.62 * scene.height / _TALL, 4)
    place = {"scale": scale, "y": ground - (_TALL / 2 - _BELOW) * scale, "loops": True, "turned": turned}
    return _add(draft, _Run(pictures, _WIDE, _TALL), f"{stride.card.name} stride of {frames}"[:60], place)


def _add(draft: Draft, run: _Run, name: str, values: Mapping[str, Any]) -> str:
    scene = draft.scene
    draft.labelled("lay a guide")
    hashes = tuple(put_blob(draft.workspace.store, Blob(kind, data)) for kind, data in run.pictures)
    made = Guide.model_validate(
        {
            "id": new_id(), "scene_id": scene.id, "pictures": hashes, "width": run.width,
            "height": run.height, "x": scene.width / 2, **values,
            "name": unlike(clean_name(name), (g.name for g in scene.guides)),
        }
    )  # fmt: skip
    draft.put([made])
    return made.id


@gesture("set a guide")
def update_guide(draft: Draft, guide_id: str, values: Mapping[str, Any]) -> None:
    """Change where a guide lies, how strongly it shows, or when its run begins."""
    draft.put([revised(_find_guide(draft, guide_id), values)])


@gesture("remove a guide")
def remove_guide(draft: Draft, guide_id: str) -> None:
    """Take a guide away."""
    draft.remove(Guide, [_find_guide(draft, guide_id).id])


def _find_guide(floor: SceneState, guide_id: str) -> Guide:
    found = next((g for g in floor.scene.guides if g.id == guide_id), None)
    if found is None:
        raise NotFoundError("This guide is not there any more.", "Choose another.")
    return found


_WIDE, _TALL, _BELOW = 420, 460, 20
"""The stride's pictures, in pixels, and the room below its ground."""


_LEG = 196.0
"""Pixels of a leg of the figure."""


def _drawn(frame: WalkFigure) -> bytes:
    """A frame of the wire figure as a PNG: the far limbs dashed, as on the stage."""
    nodes: list[Shape] = [_line(points, "#8a7a68", (9.0, 6.0)) for points in frame.far]
    nodes.append(_line(frame.spine, "#2e2a25"))
    nodes += [_line(points, "#2e2a25") for points in frame.near]
    x, y = (_LEG * v for v in frame.head)
    # Four cubics make a circle to a thousandth of its radius.
    r = _LEG * HEAD
    k = 0.5523 * r
    ring = (
        f"M{x - r:.2f} {y:.2f}C{x - r:.2f} {y - k:.2f} {x - k:.2f} {y - r:.2f} {x:.2f} {y - r:.2f}"
        f"C{x + k:.2f} {y - r:.2f} {x + r:.2f} {y - k:.2f} {x + r:.2f} {y:.2f}"
        f"C{x + r:.2f} {y + k:.2f} {x + k:.2f} {y + r:.2f} {x:.2f} {y + r:.2f}"
        f"C{x - k:.2f} {y + r:.2f} {x - r:.2f} {y + k:.2f} {x - r:.2f} {y:.2f}Z"
    )
    ink = Solid(color="#2e2a25")
    nodes.append(Shape(d=ring, stroke=Stroke(paint=ink, width=6.0)))
    nodes.append(_line(((-0.97, 0.015), (0.97, 0.015)), "#b5622b"))
    art = Art(nodes=tuple(nodes), box=(-_WIDE / 2, _BELOW - _TALL, _WIDE / 2, _BELOW))
    return picture_bytes(draw_art([art], (_WIDE, _TALL), (1, 0, 0, 1, _WIDE / 2, _TALL - _BELOW)))


def _line(points: tuple[Point, ...], color: str, dash: tuple[float, ...] = ()) -> Shape:
    d = "M" + "L".join(f"{_LEG * x:.2f} {_LEG * y:.2f}" for x, y in points)
    return Shape(d=d, stroke=Stroke(paint=Solid(color=color), width=6.0, cap="round", join="round", dash=dash))
