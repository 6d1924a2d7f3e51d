"""Fills, strokes and paths in Skia's terms."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from itertools import islice

import skia

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry.path import POINTS, commands_of, parse
from gaitwire.core.puppet.art import ClipPath, Gradient, Matrix, Paint, Shape, Solid, Stroke

_SPREAD = {"pad": skia.TileMode.kClamp, "reflect": skia.TileMode.kMirror, "repeat": skia.TileMode.kRepeat}
_CAP = {"butt": skia.Paint.kButt_Cap, "round": skia.Paint.kRound_Cap, "square": skia.Paint.kSquare_Cap}
_JOIN = {"miter": skia.Paint.kMiter_Join, "round": skia.Paint.kRound_Join, "bevel": skia.Paint.kBevel_Join}
_RULE = {"nonzero": skia.PathFillType.kWinding, "evenodd": skia.PathFillType.kEvenOdd}


def to_matrix(matrix: Matrix) -> skia.Matrix:
    """SVG's six numbers as a Skia matrix."""
    a, b, c, d, e, f = (float(v) for v in matrix)
    return skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1)


def to_color(color: str, opacity: float) -> int:
    """#rrggbb and an opacity as a Skia colour."""
    r, g, b = (int(color[i : i + 2], 16) for i in (1, 3, 5))
    return int(skia.Color(r, g, b, round(255 * opacity)))


def _shader(gradient: Gradient) -> skia.Shader:
    colors = [to_color(s.color, s.opacity) for s in gradient.stops]
    offsets = [s.offset for s in gradient.stops]
    mode, matrix = _SPREAD[gradient.spread], to_matrix(gradient.matrix)
    if gradient.kind == "linear":
        x1, y1, x2, y2 = gradient.coords
        return skia.GradientShader.MakeLinear([(x1, y1), (x2, y2)], colors, offsets, mode, 0, matrix)
    cx, cy, r, fx, fy, fr = gradient.coords
    return skia.GradientShader.MakeTwoPointConical((fx, fy), fr, (cx, cy), r, colors, offsets, mode, 0, matrix)


def _fill(paint: Paint, opacity: float) -> skia.Paint:
    out = skia.Paint(AntiAlias=True)
    if isinstance(paint, Solid):
        out.setColor(to_color(paint.color, paint.opacity * opacity))
    else:
        shader = _shader(paint)
        if shader is None:  # A gradient of no extent shows its last colour.
            last = paint.stops[-1]
            out.setColor(to_color(last.color, last.opacity * paint.opacity * opacity))
        else:
            out.setShader(shader)
            out.setAlphaf(paint.opacity * opacity)
    return out


def _outline(stroke: Stroke, opacity: float) -> skia.Paint:
    out = _fill(stroke.paint, opacity)
    out.setStyle(skia.Paint.kStroke_Style)
    out.setStrokeWidth(stroke.width)
    out.setStrokeCap(_CAP[stroke.cap])
    out.setStrokeJoin(_JOIN[stroke.join])
    out.setStrokeMiter(stroke.miter)
    if stroke.dash:
        out.setPathEffect(skia.DashPathEffect.Make(list(stroke.dash), stroke.dash_offset))
    return out


def shape_paints(shape: Shape, opacity: float) -> list[skia.Paint]:
    """The shape's paints in the order they are laid on."""
    paints = []
    if shape.fill is not None:
        paints.append(_fill(shape.fill, opacity))
    if shape.stroke is not None:
        paints.append(_outline(shape.stroke, opacity))
    return paints[::-1] if shape.stroke_first else paints


@lru_cache(maxsize=4096)
def _commands(d: str) -> str:
    return commands_of(d)


def to_path(d: str, rule: str, take: Callable[[int], FloatArray] | None = None) -> skia.Path:
    """Path data as a Skia path; `take` gives other points for it, as many as it has."""
    path = skia.Path()
    draw = {"M": path.moveTo, "L": path.lineTo, "C": path.cubicTo}
    if take is None:
        steps = ((command, points.ravel().tolist()) for command, points in parse(d))
    else:
        commands = _commands(d)
        numbers = iter(take(sum(POINTS[c] for c in commands)).ravel().tolist())
        steps = ((command, list(islice(numbers, 2 * POINTS[command]))) for command in commands)
    for command, values in steps:
        if command == "Z":
            path.close()
        else:
            draw[command](*values)
    path.setFillType(_RULE[rule])
    return path


def clip_path(clip: ClipPath) -> skia.Path:
    """The union of a clip's paths."""
    return joined_clip([to_path(d, rule) for d, rule in clip.paths])


def joined_clip(paths: list[skia.Path]) -> skia.Path:
    """The union of paths."""
    if not paths:
        return skia.Path()
    if len(paths) == 1:
        return paths[0]
    builder = skia.OpBuilder()
    for path in paths:
        builder.add(path, skia.PathOp.kUnion_PathOp)
    return builder.resolve()
