"""Soft parts and art in: what one move of a pin's drag takes, and how long art takes to come in."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.frames import pack
from gaitwire.core.evaluate.handles import drag, take
from gaitwire.measure.beside import MeasuredFigure, middle, percentiles, turned_about
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.session.workspace import Workspace

PINS = 8
_MOVES = 200
_SLEEVE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 640 200"><path id="sleeve" fill="#c93" stroke="#432"'
    b' stroke-width="4" d="M20 60C160 20 420 30 620 70C630 100 625 130 610 150C420 170 180 180 30 150Z"/></svg>'
)


def _soft_puppet(workspace: Workspace, vertices: int) -> tuple[str, str, int]:
    """A sleeve of about so many vertices with eight pins: puppet, one lead pin, and how many vertices it got."""
    bench = Bench(workspace, import_art(workspace, _SLEEVE, "sleeve.svg").puppet_id)
    soft = Softening(workspace, bench.puppet_id)
    part = bench.puppet.parts[0].id
    soft.soften([part])
    pins: list[str] = []
    for n in range(PINS):
        x, y = 60 + 510 * n / (PINS - 1), 100 + 22 * math.cos(2.4 * n)
        pins += soft.place_pin(part, "anchor" if n in (0, 3) else "lead", x, y)
    low, high = 7.0, 60.0
    for _ in range(12):  # the spacing that gives so many
        grain = math.sqrt(low * high)
        bench.update_parts([part], {"grain": round(grain, 2)})
        low, high = (grain, high) if soft.skin(part).vertices > vertices else (low, grain)
    return bench.puppet_id, pins[-1], soft.skin(part).vertices


def pin_drag_figures(workspace: Workspace) -> dict[str, MeasuredFigure]:
    """Server time of a move, in milliseconds: from the pointer's place to the packed frame."""
    found: dict[str, MeasuredFigure] = {}
    for wanted in (300, 1000):
        made, pin, vertices = _soft_puppet(workspace, wanted)
        compiled = workspace.compiled_puppet(made)
        grip = take(compiled, made, pin, 0.0)

        def move(n: int, compiled: Any = compiled, grip: Any = grip) -> bytes:
            now = (570 + 80 * math.sin(n / 20), 100 + 60 * math.cos(n / 17))
            return pack(evaluate(compiled, np.zeros(1), drag("shift", grip, [], (570.0, 100.0), now)))

        times = turned_about(move, _MOVES, warm=10)
        found[f"pin_drag_{wanted}_ms"] = percentiles(times, vertices=vertices)
    return found


def import_seconds(workspace: Workspace) -> MeasuredFigure:
    """Seconds in which a layered SVG of 300 paths comes in, from the bytes to the stored puppet."""
    texts = [_many(seed) for seed in range(4)]  # of each its own: what is stored already would come in faster
    # The first one also starts what starts worker processes.
    samples = turned_about(lambda n: import_art(workspace, texts[n], "many.svg"), len(texts) - 1, warm=1)
    return middle(samples, lambda ms: round(ms / 1000, 3))


def _many(seed: int) -> bytes:
    """An SVG of 300 layers of one path each."""
    random = np.random.default_rng(seed)
    groups = []
    for n in range(300):
        x, y = random.uniform(40, 960, 2)
        curves = " ".join(
            f"C{x + a:.2f} {y + b:.2f} {x + c:.2f} {y + d:.2f} {x + e:.2f} {y + f:.2f}"
            for a, b, c, d, e, f in random.uniform(-40, 40, (12, 6))
        )
        groups.append(f'<g id="layer {n}"><path fill="#c93" stroke="#432" d="M{x:.2f} {y:.2f}{curves}Z"/></g>')
    text = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1000 1000">{"".join(groups)}</svg>'
    return text.encode()
