"""Parts as a drag finds them: placed on their bones by bend fixes, pads and gauges."""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.blends import PLACING
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.controls import control_shares_of, placing_of
from gaitwire.core.evaluate.grip import Grip
from gaitwire.core.evaluate.posed import SolvedPose, solved_poses
from gaitwire.core.timing.channel import NODE_PROPERTIES

_TURN = NODE_PROPERTIES.index("turn")


def part_grip(compiled: CompiledScene, instance_id: str, part_id: str, frame: float = 0.0) -> Grip:
    """Take hold of a part on its bone; raises InvalidInputError where it is not there."""
    solved, number, carried = _found(compiled, instance_id, part_id, frame)
    puppet, posed = solved.puppet, solved.posed
    controls = control_shares_of(puppet, posed.controls, posed.values[:, _TURN])
    own = placing_of(puppet, controls, np.array([number]), 1)[0, :, 0]
    values = dict(zip(PLACING, map(float, own), strict=True)) | {"keep": 0.0, "axis": 0.0}
    axis = float(puppet.skeleton.angle[puppet.parts.node[number]]) + values["turn"]
    return Grip(instance_id, part_id, values, carried, (values["shift_x"], values["shift_y"]), axis)


def _found(compiled: CompiledScene, instance_id: str, part_id: str, frame: float) -> tuple[SolvedPose, int, FloatArray]:
    solved = solved_poses(compiled.groups, instance_id, frame).get(instance_id)
    keys = solved.puppet.parts.owners if solved else ()
    if solved is None or (instance_id, part_id) not in keys:
        raise InvalidInputError("This part is not in the puppet.", "Choose another.")
    number = keys.index((instance_id, part_id))
    return solved, number, solved.posed.world[:, solved.puppet.parts.node[number], 0]
