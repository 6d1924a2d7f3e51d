"""Vector and picture artwork of a part: a small tree of shapes that every sink can draw.

Paths are SVG path data in absolute coordinates with the commands M, L, C and Z only, in the
puppet's pixels unless the shape carries a matrix of its own (needed where a stroke was squeezed).
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Extent, Id, Share
from gaitwire.core.geometry.bounds import Box

_Reach = Annotated[float, Field(allow_inf_nan=False, ge=-1e7, le=1e7)]
"""A number of a matrix, a gradient or a box: artists' files go far beyond their page."""

Matrix = tuple[_Reach, _Reach, _Reach, _Reach, _Reach, _Reach]
FillRule = Literal["nonzero", "evenodd"]


class _Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


Color = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
PathData = Annotated[str, Field(pattern=r"^[MLCZe0-9 ,.+-]*$")]
"""Commands and numbers, and nothing that a file could be broken out of with."""


class Stop(NamedTuple):
    """A colour (#rrggbb) and its opacity at a share of a gradient."""

    offset: Share
    color: Color
    opacity: Share


class Solid(_Frozen):
    """One colour."""

    kind: Literal["solid"] = "solid"
    color: Color
    opacity: Share = 1.0


class Gradient(_Frozen):
    """A linear (x1, y1, x2, y2) or radial (cx, cy, r, fx, fy, fr) gradient in its own space.

    `matrix` maps that space to the shape's.
    """

    kind: Literal["linear", "radial"]
    coords: tuple[_Reach, ...] = Field(max_length=6)
    matrix: Matrix
    spread: Literal["pad", "reflect", "repeat"] = "pad"
    stops: tuple[Stop, ...] = Field(max_length=1000)
    opacity: Share = 1.0


Paint = Annotated[Solid | Gradient, Field(discriminator="kind")]


class Stroke(_Frozen):
    """How an outline is drawn; lengths in the shape's pixels."""

    paint: Paint
    width: Extent
    cap: Literal["butt", "round", "square"] = "butt"
    join: Literal["miter", "round", "bevel"] = "miter"
    miter: Extent = 4.0
    dash: tuple[Extent, ...] = Field(default=(), max_length=1000)
    dash_offset: _Reach = 0.0


class Shape(_Frozen):
    """A path with a fill, a stroke, or both."""

    kind: Literal["shape"] = "shape"
    d: PathData
    fill: Paint | None = None
    rule: FillRule = "nonzero"
    stroke: Stroke | None = None
    stroke_first: bool = False
    matrix: Matrix | None = None
    opacity: Share = 1.0


class Picture(_Frozen):
    """An embedded raster picture: its blob's hash, its size, and where it lies."""

    kind: Literal["picture"] = "picture"
    hash: Id
    width: int = Field(ge=1, le=100_000)
    height: int = Field(ge=1, le=100_000)
    matrix: Matrix
    opacity: Share = 1.0


class ClipPath(_Frozen):
    """The union of some paths, outside of which nothing shows."""

    paths: tuple[tuple[PathData, FillRule], ...]


class Group(_Frozen):
    """Nodes drawn together: faded as one, and cut to the intersection of its clips."""

    kind: Literal["group"] = "group"
    children: tuple[ArtNode, ...]
    clips: tuple[ClipPath, ...] = ()
    opacity: Share = 1.0


ArtNode = Annotated[Shape | Picture | Group, Field(discriminator="kind")]


class Art(_Frozen):
    """The artwork of one part, back to front, and the box around it in the puppet's pixels."""

    nodes: tuple[ArtNode, ...]
    box: tuple[_Reach, _Reach, _Reach, _Reach]

    @property
    def bounds(self) -> Box:
        return Box(*self.box)


Group.model_rebuild()


def compose(outer: Matrix, inner: Matrix) -> Matrix:
    """The matrix that applies `inner` first."""
    a, b, c, d, e, f = outer
    p, q, r, s, t, u = inner
    return (a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s, a * t + c * u + e, b * t + d * u + f)


def leaves(nodes: tuple[ArtNode, ...]) -> Iterator[Shape | Picture]:
    """All shapes and pictures below the nodes, in drawing order."""
    for node in nodes:
        if isinstance(node, Group):
            yield from leaves(node.children)
        else:
            yield node
