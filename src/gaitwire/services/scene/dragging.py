"""What a drag looks like: as the keys that it would write, so that what depends on other frames moves with it.

Most of what is dragged depends on nothing but the frame in view; then the values that are wanted stand in for keys on
that frame, which looks the same and is sooner there.
"""

from __future__ import annotations

from collections.abc import Iterator
from math import inf

import numpy as np

from gaitwire.core.errors import GaitWireError
from gaitwire.core.evaluate import CompiledScene, Frames, compile_scene, evaluate
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.stage import depends_on, remembers
from gaitwire.core.evaluate.values import Overrides, reads_elsewhere, shown_times
from gaitwire.core.scene import Scene
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.poses import block_pose
from gaitwire.services.scene.posing import set_values


class SceneDrag:
    """A drag on one scene; what it has found out of how a frame depends on others holds from move to move."""

    def __init__(self, floor: Floor) -> None:
        self._floor = floor
        self._known: tuple[CompiledScene, float, bool, list[set[float]]] | None = None

    def picture(self, compiled: CompiledScene, frame: float, wanted: Overrides, blocking: bool) -> Frames:
        """A frame of the scene while values are wanted of it; nothing is stored."""
        at, blocks = np.array([frame]), self._floor.workspace.blocks
        drafted = None
        if self._reaches(compiled, frame, wanted, blocking):
            drafted = _drafted(self._floor, compiled, frame, wanted, blocking)
        if drafted is None:
            return evaluate(compiled, at, wanted, blocks, blocking=blocking)
        shown = compile_scene(drafted, compiled.puppets, compiled.skins, compiled, compiled.phrases)
        return evaluate(shown, at, None, blocks, blocking=blocking, passing={who for who, _, _ in wanted})

    def _reaches(self, compiled: CompiledScene, frame: float, wanted: Overrides, blocking: bool) -> bool:
        """Whether what is wanted changes more than the values of a frame, for what is seen on it."""
        moved = {who for who, _, _ in wanted}
        for group, others in zip(compiled.groups, self._others(compiled, frame, blocking), strict=True):
            members = [m for m in group.members if m.source.instance.id in moved]
            if any(reads_elsewhere(m, wanted) or _makes_pose(m, frame, blocking) for m in members):
                return True
            if members and remembers(group):
                return True
            spans = [span for m in members for span in _changed(m, frame, wanted)] if others else ()
            if any(low < time < high for low, high in spans for time in others):
                return True
        return False

    def _others(self, compiled: CompiledScene, frame: float, blocking: bool) -> list[set[float]]:
        """Of each group, the frames on which the one in view depends."""
        known = self._known
        if known is None or known[0] is not compiled or known[1:3] != (frame, blocking):
            found = [depends_on(group, np.array([frame]), blocking) for group in compiled.groups]
            self._known = known = (compiled, frame, blocking, found)
        return known[3]


def _changed(puppet: CompiledPuppet, frame: float, wanted: Overrides) -> Iterator[tuple[float, float]]:
    """Between which frames keys on a frame would change what is wanted of a puppet: from key to key."""
    who = puppet.source.instance.id
    channels = {(row[0].owner_id, row[0].property): row for row in puppet.source.channels}
    for owner, prop in ((owner, prop) for instance, owner, prop in wanted if instance == who):
        channel, keys = channels.get((owner, prop), (None, []))
        before = [k.time for k in keys if k.time < frame - TIME]
        after = [k.time for k in keys if k.time > frame + TIME]
        whole = channel is None or channel.repeat or (puppet.source.loop is not None and not (before and after))
        yield (-inf, inf) if whole else (max(before, default=-inf), min(after, default=inf))


def _makes_pose(puppet: CompiledPuppet, frame: float, blocking: bool) -> bool:
    """Whether the hand makes a pose of its own, in the view without in-betweens: the whole of it is keyed then."""
    time = float(shown_times(puppet, np.array([frame]))[0])
    marked = puppet.source.pose_times if puppet.source.marked else ()
    return blocking and not any(abs(t - time) < TIME for t in marked)


def _drafted(floor: Floor, compiled: CompiledScene, frame: float, wanted: Overrides, blocking: bool) -> Scene | None:
    """The scene as it would be if the hand let go now; None where that is refused, or would be asked about first."""
    try:
        if blocking:
            return floor.drafted(compiled.scene, block_pose, frame, wanted)
        return floor.drafted(compiled.scene, set_values, frame, wanted)
    except GaitWireError:
        return None
