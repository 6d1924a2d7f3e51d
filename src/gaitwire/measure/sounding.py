"""How far pictures and sound come apart: clicks in what the browser plays, against the frame that it shows then."""

from __future__ import annotations

from typing import Any

import numpy as np

from gaitwire.core.sound import SAMPLE_RATE
from gaitwire.formats.sound_files import write_wav
from gaitwire.measure.pages import ARGS, CHROMIUM, READY, missing, served
from gaitwire.services.scene.floor import make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.sounds import add_sounds
from gaitwire.services.session.workspace import Workspace

SECONDS = 61


def clicks(seconds: int) -> bytes:
    """A sound with a click of a millisecond at every whole second, as WAV."""
    samples = np.zeros((1, seconds * SAMPLE_RATE), np.int16)
    for n in range(seconds):
        samples[0, n * SAMPLE_RATE : n * SAMPLE_RATE + 48] = 30_000
    return write_wav(samples)


def make_clicking(workspace: Workspace, seconds: int) -> str:
    """A scene with such a sound and nothing else; its page's address."""
    floor = Floor(workspace, make_scene(workspace, "Clicks", frames=seconds * 24 + 1, loop=False))
    add_sounds(floor, {"clicks.wav": clicks(seconds)})
    return f"/floor/{floor.scene_id}"


IN_STEP = """async (seconds) => {
  const { player, ear } = window.gaitwire, { rate } = player.info, { context } = ear;
  const analyser = context.createAnalyser();
  analyser.fftSize = 16384; // a third of a second: a click is not missed when a picture is late
  ear.master.connect(analyser);
  const wave = new Float32Array(analyser.fftSize), seen = [], clicks = [];
  player.seek(0);
  player.play();
  const end = performance.now() + seconds * 1000;
  while (performance.now() < end && player.playing) {
    await new Promise((done) => requestAnimationFrame(done));
    const now = context.currentTime;
    seen.push([now - (context.outputLatency || 0), player.frame]); // what is heard now, and what is seen
    analyser.getFloatTimeDomainData(wave);
    const at = wave.findIndex((value) => Math.abs(value) > 0.3);
    const click = now - (wave.length - at) / context.sampleRate;
    if (at >= 0 && (!clicks.length || click - clicks.at(-1) > 0.5)) clicks.push(click);
  }
  player.stop();
  // The picture that is seen when a click is heard: the nearest of those that were looked at.
  const apart = clicks.map((click, n) => {
    const [, frame] = seen.reduce((best, one) => (Math.abs(one[0] - click) < Math.abs(best[0] - click) ? one : best));
    return frame - n * rate;
  });
  return { heard: player.heard, clicks: clicks.length, apart };
}"""
"""Plays from the first frame for so many seconds: by how many frames the picture is off at each click."""

EAR_READY = "() => { const { ear } = window.gaitwire ?? {}; ear?.wake(); return Boolean(ear?.ready); }"


def sound_figures() -> dict[str, Any]:
    """Frames by which pictures and sound come apart at most within a minute, and how many clicks that is seen at."""
    if why := missing():
        return {"sound_apart_frames": None, "not_measured": why}
    from playwright.sync_api import sync_playwright  # noqa: PLC0415

    with sync_playwright() as driver, served(lambda workspace: make_clicking(workspace, SECONDS)) as address:
        browser = driver.chromium.launch(executable_path=str(CHROMIUM), chromium_sandbox=False, args=ARGS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True).new_page()
        page.goto(address)
        page.wait_for_function(READY)
        page.wait_for_function(EAR_READY)
        found = page.evaluate(IN_STEP, SECONDS - 0.5)
        page.goto("about:blank")
        browser.close()
    return {"sound_apart_frames": max(map(abs, found["apart"]), default=None), "sound_clicks": found["clicks"]}
