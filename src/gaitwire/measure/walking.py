"""Walks: how long they take to bake, how still their feet are, and how soon a changed card is seen."""

from __future__ import annotations

from typing import Any

import numpy as np

from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.demo.puppets import make_tamsin
from gaitwire.measure.beside import Timings, in_rounds, middle, percentiles, rate, turned_about
from gaitwire.measure.pages import ARGS, CHROMIUM, READY, missing, served
from gaitwire.services.gait.preview import Preview, preview
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.session.workspace import Workspace

FRAMES, WALKERS = 1000, 5
_TIMES = 5
_RATE = 24.0

_TURN = """async (from) => {
  const { line, stage } = window.gaitwire, slider = document.querySelector("[data-slide=lean]"), times = [];
  let painted = 0;
  stage.listen("painted", () => { painted = performance.now(); });
  for (let n = from; n < from + 32; n += 1) {
    const start = performance.now();
    slider.value = -20 + 0.4 * n;
    slider.dispatchEvent(new Event("input", { bubbles: true }));
    await line.settled();
    while (painted < start + 1) await new Promise((done) => setTimeout(done, 1));
    times.push(performance.now() - start);
  }
  return times.slice(4);
}"""


def walk_figures(workspace: Workspace) -> dict[str, Any]:
    """walk_bake_ms and walk_bake_ratio of walkers that travel, strides made anew; walk_slip_px of all cards.

    mended_walk_bake_ratio is that of walkers with fixes: where an elbow bends far, pins shape its sleeve.
    """
    tamsin, plain = make_tamsin(workspace), make_tamsin(workspace, mended=False)
    bake, mended = (_bake(workspace, one) for one in (plain, tamsin))
    lasts = FRAMES / _RATE * 1000
    shown = (preview(workspace, tamsin, card, travels) for card in CHARACTERS.values() for travels in (False, True))
    return {
        "walk_bake_ms": middle(bake, lambda ms: round(ms, 1)),
        "walk_bake_ratio": rate(bake, lambda ms: round(lasts / ms, 1)),
        "mended_walk_bake_ratio": rate(mended, lambda ms: round(lasts / ms, 1)),
        "walk_slip_px": round(max(slip(one) for one in shown), 9),
    }


def _bake(workspace: Workspace, puppet_id: str) -> Timings:
    """Milliseconds in which all frames of all walkers are evaluated."""
    floor = Floor(workspace, make_scene(workspace, "Walkers", frames=FRAMES, loop=False, ground=648.0))
    for n, name in enumerate(list(CHARACTERS)[:WALKERS]):
        who = add_puppet(floor, puppet_id, x=100.0 * n, y=648.0)
        put_gait(floor, who, CHARACTERS[name], travels=True)
    frames, scene = np.arange(float(FRAMES)), floor.scene
    cast = workspace.cast(scene)
    fresh = [compile_scene(scene, cast, workspace.skins.of(cast.values())) for _ in range(_TIMES)]
    return turned_about(lambda n: evaluate(fresh[n], frames), _TIMES)


def slip(shown: Preview) -> float:
    """Scene pixels by which soles that are down move against the floor from one picture to the next, at most."""
    walker, stride, owners = shown.walker, shown.gait.stride, [k[1] for k in shown.frames.node_keys]
    phase = stride.phase_of(shown.gait.span.strides_at(shown.times))
    gone = np.array(shown.way())
    worst = 0.0
    for foot in shown.gait.feet:
        build, step = foot.build, foot.step
        a, b, c, d, e, f = shown.frames.nodes[:, owners.index(foot.leg.foot.id)].T
        share, plant = np.mod(phase - foot.lands, 1.0), np.floor(phase - foot.lands)
        for along, begin, end in ((-build.heel, 0.0, step.flat), (build.ball, step.flat, step.stance)):
            if along < 0 and not step.on_heel:
                continue
            x, y = walker.facing * foot.length * along, foot.length * build.ankle
            place = a * x + c * y + e + gone + 1j * (b * x + d * y + f)
            down = (share >= begin) & (share <= end)
            held = down[1:] & down[:-1] & (plant[1:] == plant[:-1])
            worst = max(worst, float(np.abs(np.diff(place))[held].max(initial=0.0)))
    return worst


def _desk(workspace: Workspace) -> str:
    return f"/stride/plain?on={make_tamsin(workspace)}"


def walk_preview_figures() -> dict[str, Any]:
    """walk_preview_ms: from a slider's move to the stage painted, on the Stride desk, standing still."""
    if why := missing():
        return {"walk_preview_ms": None, "not_measured": why}
    from playwright.sync_api import sync_playwright  # noqa: PLC0415

    with sync_playwright() as driver, served(_desk) as address:
        browser = driver.chromium.launch(executable_path=str(CHROMIUM), chromium_sandbox=False, args=ARGS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True).new_page()
        page.goto(address)
        page.wait_for_function(READY)
        page.wait_for_function("() => window.gaitwire.player.playing")
        page.keyboard.press("Space")
        turned = in_rounds(lambda n: page.evaluate(_TURN, 32 * n), 4)
        page.goto("about:blank")
        browser.close()
    return {"walk_preview_ms": percentiles(turned)}
