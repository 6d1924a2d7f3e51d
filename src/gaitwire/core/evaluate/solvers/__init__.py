"""The solvers of segments in their order: what bones hang from, then how they are bent.

A new one is a module with a class like these and its line here.
"""

from gaitwire.core.evaluate.solvers.bearings import Bearings
from gaitwire.core.evaluate.solvers.birth import Birth
from gaitwire.core.evaluate.solvers.hitches import Hitches
from gaitwire.core.evaluate.solvers.limbs import Limbs
from gaitwire.core.evaluate.solvers.loose import LooseEnds
from gaitwire.core.evaluate.solvers.solver import SegmentSolver

SOLVERS: list[SegmentSolver] = [Birth(), Hitches(), Bearings(), LooseEnds(), Limbs()]

__all__ = ["SOLVERS", "SegmentSolver"]
