"""Bearings in the evaluation: the body moved so that the bone that carries it stays where it is.

The pose by the keys alone is turned and shifted as a whole. What is keyed on the body's root moves the
bearing instead: by as much as the root has turned, and shifted, since the change.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.limbs import STRETCH, TURN
from gaitwire.core.evaluate.skeleton import Composition
from gaitwire.core.geometry import affine
from gaitwire.core.links import Bearing
from gaitwire.core.tolerances import LENGTH, TIME


@dataclass(frozen=True)
class Anchor:
    """How a bearing's bone stood on the frame on which it became one: complex direction and place, scene pixels.

    `turns` and `stretches` are those of the bones, by node, of limbs that were solved until then.
    """

    direction: complex
    place: complex
    turns: Mapping[int, float]
    stretches: Mapping[int, float]


@dataclass(frozen=True)
class BearingPlan:
    """A bearing with the nodes from the puppet's seat down to its bone; the second is the root that it hangs from."""

    bearing: Bearing
    path: tuple[int, ...]

    @property
    def bone(self) -> int:
        return self.path[-1]

    @property
    def root(self) -> int:
        return self.path[min(1, len(self.path) - 1)]


def lie_along(composition: Composition, path: Sequence[int], parent_matrix: FloatArray) -> dict[int, FloatArray]:
    """Matrices (6, F) of the nodes of a path by their keys alone."""
    found: dict[int, FloatArray] = {}
    for node in path:  # what they pass on is laid over when the body is laid for good
        composition.compose(
            np.array([node]), (), (composition.parent_matrix(node) if found else parent_matrix)[:, None]
        )
        found[node] = composition.world[:, node].copy()
    return found


def borne(
    composition: Composition, parent_matrix: FloatArray, plans: Sequence[BearingPlan], anchors: Sequence[Anchor],
    times: FloatArray, columns: Mapping[float, int],
) -> FloatArray:  # fmt: skip
    """What the seat hangs from (6, F), moved so that the bearings stay; `columns` says where their frames lie."""
    out = parent_matrix
    for plan, anchor in zip(plans, anchors, strict=False):
        column = columns.get(plan.bearing.time)
        if column is None:
            break
        lies = lie_along(composition, plan.path, parent_matrix)
        root, bone = lies[plan.root], lies[plan.bone]
        turn, place = _direction(root), root[4] + 1j * root[5]
        direction = anchor.direction * turn / turn[column]
        stays = anchor.place + place - place[column]
        turned = direction / _direction(bone)
        shift = stays - turned * (bone[4] + 1j * bone[5])
        step = np.stack([turned.real, turned.imag, -turned.imag, turned.real, shift.real, shift.imag])
        out = np.where(times >= plan.bearing.time - TIME, affine.compose(step, parent_matrix), out)
    return out


def _direction(matrix: FloatArray) -> np.ndarray:
    along = matrix[0] + 1j * matrix[1]
    return np.asarray(along / np.maximum(np.abs(along), LENGTH))


def anchor_of(composition: Composition, plan: BearingPlan, column: int, nodes: Sequence[int]) -> Anchor:
    """How a bearing's bone stands on a frame, and the turns of some nodes there."""
    matrix = composition.world[:, plan.bone, [column]]
    turns, stretches = ({n: float(composition.values[n, prop, column]) for n in nodes} for prop in (TURN, STRETCH))
    return Anchor(complex(_direction(matrix)[0]), complex(matrix[4, 0], matrix[5, 0]), turns, stretches)
