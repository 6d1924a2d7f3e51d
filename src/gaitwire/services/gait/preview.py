"""What the Stride desk shows of a card on a puppet: its frames, poses, paths, footprints, and its gait as curves."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import CompiledScene, Frames, evaluate
from gaitwire.core.evaluate.compiled_scene import walking
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.hips import mean_of
from gaitwire.core.walk.measures import RATE, StrideMeasures, both_measured
from gaitwire.core.walk.span import Gait, GaitSpan
from gaitwire.core.walk.walker import Walker, walker_of
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import list_documents

LEAST, MOST = 8, 120
"""Pictures of a stride that are shown, however fast or slow it is."""
ROUNDS = 2
"""Strides of a walk that travels over the stage."""
_EITHER_SIDE = 2
"""Strides for which footprints lie before and behind a walk in place."""


class Print(NamedTuple):
    """A footprint: scene pixels of its heel and its ball along the way, and whose it is."""

    heel: float
    ball: float
    side: str


class PoseAt(NamedTuple):
    """A pose of the stride: its name, the side whose step it belongs to, its frame, and its picture."""

    name: str
    side: str
    frame: float
    picture: float


@dataclass(frozen=True)
class Preview:
    """One card on one puppet. In place the floor goes by under it; else it travels for some strides and begins anew."""

    compiled: CompiledScene
    travels: bool
    coarse: bool = False

    @cached_property
    def gait(self) -> Gait:
        return self.compiled.compiled_puppets[0].gaits[0]

    @property
    def walker(self) -> Walker:
        return self.gait.walker

    @cached_property
    def pictures(self) -> int:
        """Pictures of a stride."""
        return int(np.clip(round(self.gait.span.card.frames / (2 if self.coarse else 1)), LEAST, MOST))

    @property
    def rate(self) -> float:
        """Pictures a second at which they show the walk at its own pace."""
        return RATE * self.pictures / self.gait.span.card.frames

    @cached_property
    def times(self) -> FloatArray:
        """Frames (F,) of the pictures: a whole stride, or as many as the walk travels for."""
        count = self.pictures * (ROUNDS if self.travels else 1)
        return np.arange(count) * self.gait.span.card.frames / self.pictures

    @cached_property
    def frames(self) -> Frames:
        return evaluate(self.compiled, self.times)

    @cached_property
    def measures(self) -> tuple[StrideMeasures, StrideMeasures]:
        """Of the near and of the far leg."""
        return both_measured(self.gait.stride)

    @property
    def pixels(self) -> float:
        """Scene pixels of a stride."""
        return float(self.walker.length * self.gait.stride.length)

    def way(self) -> list[float]:
        """How far the floor has gone by in each picture, in pixels; nowhere while the walk travels."""
        card, facing = self.gait.span.card, self.walker.facing
        still = self.travels or self.walker.view != "side"
        gone = self.gait.stride.phase_of(self.times / card.frames) * self.pixels * facing
        return [round(float(v), 7) for v in (0.0 * gone if still else gone - gone[0])]

    def poses(self) -> list[PoseAt]:
        """Contact, down, passing and up of both sides, over one stride from the near foot's contact."""
        first, frames = self.begins, self.gait.span.card.frames
        return [
            PoseAt(name, side, t % 1.0 * frames, t % 1.0 * self.pictures % self.pictures)
            for t, name, side in self.gait.stride.poses(first, first + 1 - 1e-6)
        ]

    @property
    def begins(self) -> float:
        """When the near foot lands, in strides: not at 0 where a pose lingers."""
        return float(self.gait.stride.time_of(np.zeros(1))[0])

    def paths(self) -> dict[str, FloatArray]:
        """Where the near ankle, the hips and the head go, (2, F) in stage pixels."""
        walker = self.walker
        owners = [k[1] for k in self.frames.node_keys]
        top = walker.head or walker.neck or (walker.trunk[-1] if walker.trunk else walker.pelvis)
        found = {}
        for name, bone, tip in (
            ("head", top, top.length),
            ("hip", walker.pelvis, 0),
            ("ankle", walker.legs[0].foot, 0),
        ):
            x, y = tip * np.cos(np.radians(bone.angle)), tip * np.sin(np.radians(bone.angle))
            matrix = self.frames.nodes[:, owners.index(bone.id)].T
            found[name] = matrix[4:] + matrix[0:2] * x + matrix[2:4] * y
        return found

    def prints(self) -> list[Print]:
        """The footprints of the walk: before and behind it, or those that it makes as it travels."""
        walker, m = self.walker, self.walker.facing
        if walker.view != "side":
            return []  # their feet are seen on the floor itself
        rounds = range(ROUNDS + 1) if self.travels else range(-_EITHER_SIDE, _EITHER_SIDE + 1)
        middle = sum(leg.thigh.x for leg in walker.legs) / 2
        found = []
        for foot in self.gait.feet:
            begun = float(foot.stride.phase_of(np.zeros(1))[0]) - foot.stride.broad.hip_ahead
            behind = mean_of(foot.stride.sides, "heel")
            for k in rounds:
                heel = foot.ahead + foot.length * ((k + foot.lands - begun) * foot.stride.length - behind)
                ball = heel + foot.length * foot.build.sole
                found.append(Print(middle + m * heel, middle + m * ball, foot.side))
        return found


def preview(
    workspace: Workspace, puppet_id: str, card: GaitCard, travels: bool = False, coarse: bool = False
) -> Preview:
    """A card on a puppet; raises InvalidInputError, with the roles it lacks, for one that cannot walk."""
    walker_of(workspace.puppet(puppet_id))
    span = GaitSpan(
        id="", scene_id="", instance_id=puppet_id, start=0.0, stop=(ROUNDS + 1) * card.frames, card=card,
        travels=travels,
    )  # fmt: skip
    return Preview(walking(workspace.compiled_puppet(puppet_id), (span,)), travels, coarse)


class Candidate(NamedTuple):
    """A puppet that could walk: from where it is drawn, and what it lacks for a walk; '' for nothing."""

    id: str
    name: str
    lacks: str
    view: str


def walkers(workspace: Workspace) -> list[Candidate]:
    """Every puppet; those that can walk first."""
    found = []
    for entry in list_documents(workspace.store, "puppet"):
        try:
            walker_of(workspace.puppet(entry.id))
            lacks = ""
        except InvalidInputError as error:
            lacks = str(error)
        found.append(Candidate(entry.id, entry.name, lacks, workspace.puppet(entry.id).view))
    return sorted(found, key=lambda row: bool(row.lacks))
