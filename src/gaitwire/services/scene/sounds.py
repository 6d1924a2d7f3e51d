"""Sounds on the Floor: brought in, placed, cut, made louder or quieter."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import PurePosixPath
from typing import Any, NamedTuple

import numpy as np

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.ids import new_id
from gaitwire.core.scene import Scene
from gaitwire.core.sound import PEAKS, Sound, thinned
from gaitwire.formats.sound_files import PEAKS_MEDIA_TYPE, SOUND_MEDIA_TYPE, SoundFile, read_sound
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised
from gaitwire.services.session.workers import run_limited
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.blobs import Blob, get_blob, put_blob

LEAST = 0.02
"""Seconds of a sound that are left of it at least."""
MOST_SOUNDS = 40
_COLUMNS = 1200
"""A waveform is drawn in at most so many columns."""


def read_all(files: Mapping[str, bytes]) -> dict[str, SoundFile]:
    """Sound files by name, ready to be kept."""
    return {name: read_sound(data) for name, data in files.items()}


def find_sound(floor: SceneState, sound_id: str) -> Sound:
    """A sound of the scene; raises NotFoundError."""
    found = next((s for s in floor.scene.sounds if s.id == sound_id), None)
    if found is None:
        raise NotFoundError("This sound is not in the scene any more.", "Choose another.")
    return found


@gesture("lay a sound")
def add_sounds(draft: Draft, files: Mapping[str, bytes], frame: float = 0.0) -> list[str]:
    """Lay sound files, all from a frame on; their ids. Nothing is kept if one of them cannot be read."""
    if len(draft.scene.sounds) + len(files) > MOST_SOUNDS:
        raise InvalidInputError(f"A scene has at most {MOST_SOUNDS} sounds.", "Remove some first.")
    read = run_limited(read_all, dict(files), seconds=180.0)
    made = []
    scene = draft.scene
    names = [s.name for s in scene.sounds]
    rank = 1 + max((s.rank for s in scene.sounds), default=-1)
    for n, (file_name, found) in enumerate(read.items()):
        name = unlike(clean_name(PurePosixPath(file_name).stem[:70] or "sound"), names)
        names.append(name)
        blob = put_blob(draft.workspace.store, Blob(SOUND_MEDIA_TYPE, found.data))
        peaks = put_blob(draft.workspace.store, Blob(PEAKS_MEDIA_TYPE, found.peaks))
        sound = Sound(
            id=new_id(), scene_id=scene.id, name=name, blob=blob, peaks=peaks, rank=rank + n,
            seconds=found.seconds, start=frame,
        )  # fmt: skip
        draft.put([sound])
        made.append(sound.id)
    return made


@gesture("set a sound")
def update_sound(draft: Draft, sound_id: str, values: Mapping[str, Any]) -> None:
    """Name, place, cut, or set the volume of a sound."""
    if "name" in values:
        values = {**values, "name": clean_name(values["name"])}
    made = revised(find_sound(draft, sound_id), values)
    if made.left < LEAST:
        raise InvalidInputError(
            f"Nothing would be left of “{made.name}”.", f"It is {made.seconds:.2f} s long; cut off less."
        )
    draft.put([made])


@gesture()
def drag_sound(draft: Draft, sound_id: str, edge: str, by: float) -> None:
    """Move a sound by frames; or only its beginning or end, so that what is left stays where it is heard.

    `edge` is "", "in" or "out". An edge goes no further than the sound does.
    """
    sound, rate = find_sound(draft, sound_id), float(draft.scene.rate)
    seconds = by / rate
    if edge == "in":
        seconds = min(max(seconds, -sound.cut_in), sound.left - LEAST)
        update_sound(draft, sound_id, {"start": sound.start + seconds * rate, "cut_in": sound.cut_in + seconds})
    elif edge == "out":
        seconds = min(max(seconds, LEAST - sound.left), sound.cut_out)
        update_sound(draft, sound_id, {"cut_out": sound.cut_out - seconds})
    else:
        update_sound(draft, sound_id, {"start": sound.start + by})


@gesture("take a sound away")
def remove_sound(draft: Draft, sound_id: str) -> None:
    """Take a sound off the scene."""
    sound = find_sound(draft, sound_id)
    draft.remove(Sound, [sound.id])


class SoundRow(NamedTuple):
    """A sound as the timeline draws it: in frames; its waveform as an SVG path, a unit to a hundredth of a second."""

    sound: Sound
    start: float
    long: float
    path: str
    left: float
    wide: float


def sound_rows(workspace: Workspace, scene: Scene) -> list[SoundRow]:
    """The sounds of a scene, in their order."""
    rate = float(scene.rate)
    return [
        SoundRow(s, s.start, s.frames(rate), wave_of(workspace, s.peaks), s.cut_in * PEAKS, s.left * PEAKS)
        for s in scene.sounds
    ]


def wave_of(workspace: Workspace, peaks: str) -> str:
    """A waveform as a closed SVG path: a hundredth of a second to a unit across, from -1 to 1 down."""

    def work() -> str:
        table = np.frombuffer(get_blob(workspace.store, peaks).data, np.int8).reshape(-1, 2)
        thin = thinned(table, _COLUMNS)
        step = -(-len(table) // _COLUMNS) if len(table) > _COLUMNS else 1
        x = (np.arange(len(thin)) + 0.5) * step
        there = " ".join(f"{a:g} {-b:.3g}" for a, b in zip(x, np.maximum(thin[:, 1], 0.01), strict=True))
        back = " ".join(f"{a:g} {-b:.3g}" for a, b in zip(x[::-1], np.minimum(thin[::-1, 0], -0.01), strict=True))
        return f"M{there} {back}Z"

    return workspace.waves.get(peaks, work)
