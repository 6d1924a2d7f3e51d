"""What a solver of segments is: one way in which bones get what they hang from, or their turns."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any

from gaitwire.core.conventions import FloatArray

if TYPE_CHECKING:
    from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
    from gaitwire.core.evaluate.coupled_groups import CoupledGroup
    from gaitwire.core.evaluate.ordering import Batch
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage


class SegmentSolver:
    """Asked in the order of the registry: first by all that compiles a scene, then batch by batch."""

    name: str

    def joins(self, puppet: CompiledPuppet) -> bool:
        """Whether it may have anything to do on a puppet; if nothing has, its bones go level by level."""
        return False

    def plans(self, puppet: CompiledPuppet, unresolved: set[str], loop: float | None) -> Iterable[tuple[int, Any]]:
        """What it does on a puppet, each with the node at which a segment is to begin for it."""
        return ()

    def ready(self, segments: Sequence[Segment], members: Sequence[CompiledPuppet]) -> Any:
        """What it makes ready, when a scene is compiled, for segments that are composed at one time."""
        return None

    def remembers(self, group: CoupledGroup) -> bool:
        """Whether what it does in a group depends on all that was before."""
        return False

    def times(self, group: CoupledGroup, asked: FloatArray) -> set[float]:
        """Frames on which it must know how things stand for the sake of others (T,)."""
        return set()

    def begin(self, stage: Stage) -> None:
        """Before anything is composed: what it changes of the values by which it is."""

    def hung(self, segment: Segment, stage: Stage, matrix: FloatArray) -> FloatArray:
        """What a segment's root hangs from (6, F), by the solvers before it; and by this one."""
        return matrix

    def bend(self, stage: Stage, batch: Batch, hung: Sequence[FloatArray]) -> None:
        """Bend bones of a batch, whose segments hang from some matrices (6, F), before it is composed."""

    def placed(self, group: CoupledGroup, member: int) -> set[int]:
        """Nodes of a member whose place keys and parents do not tell on every frame."""
        return set()
