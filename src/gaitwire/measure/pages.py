"""The real pages in headless Chromium: dragging, painting, playing and editing.

The browser is driven by Playwright, which is no dependency of the program itself: without it, or
without Chromium, these figures are null and say why.
"""

from __future__ import annotations

import socket
import subprocess
import sys
import tempfile
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from gaitwire.core.errors import JobError
from gaitwire.measure.core import percentiles
from gaitwire.measure.load import Load, make_scene_of
from gaitwire.services.workspace import Workspace
from gaitwire.store import Store

CHROMIUM = Path("/usr/bin/chromium")
_ARGS = ["--no-sandbox", "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost"]
_KEYS = ("drag_ms", "drag_paint_ms", "stage_fps", "edit_ms")

_READY = "() => Boolean(window.gaitwire?.player.all)"

_DRAG = """async () => {
  const { live, stage, toPage, joint } = window.gaitwire;
  const host = stage.host, [x, y] = toPage(...joint("bone 2").end);
  const send = (type, clientX, clientY) => host.dispatchEvent(
    new PointerEvent(type, { clientX, clientY, button: 0, buttons: 1, pointerId: 1, bubbles: true }),
  );
  host.setPointerCapture = () => {};
  send("pointerdown", x, y);
  live.times.length = stage.paints.length = 0;
  const start = performance.now();
  for (let n = 1; n <= 300; n += 1) {
    const wait = start + (n * 1000) / 60 - performance.now();
    if (wait > 0) await new Promise((done) => setTimeout(done, wait));
    send("pointermove", x + 60 * Math.sin(n / 20), y + 60 * Math.cos(n / 17));
  }
  await live.settled();
  const drags = [...live.times], paints = [...stage.paints];
  host.dispatchEvent(new PointerEvent("pointercancel", { bubbles: true }));
  return { drags, paints };
}"""

_PLAY = """async () => {
  const { player, stage } = window.gaitwire;
  const before = stage.painted, start = performance.now();
  player.play();
  await new Promise((done) => setTimeout(done, 4000));
  player.stop();
  return (stage.painted - before) / ((performance.now() - start) / 1000);
}"""

_EDIT = """async () => {
  const { edit, settled } = window.gaitwire, times = [];
  for (let n = 0; n < 30; n += 1) {
    const start = performance.now();
    await edit(n % 24, n);
    times.push(performance.now() - start);
  }
  await settled();
  return times;
}"""


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def _served(load: Load) -> Iterator[str]:
    """The program, in a process of its own, over a scene of that size; the address of its Floor."""
    with tempfile.TemporaryDirectory(prefix="gaitwire-bench-") as folder:
        store = Store(Path(folder))
        scene = make_scene_of(Workspace(store), load)
        store.close()
        port = _free_port()
        home = f"http://127.0.0.1:{port}"
        command = [sys.executable, "-m", "gaitwire", "serve", "--data", folder, "--port", str(port)]
        with subprocess.Popen(command, stdout=subprocess.DEVNULL) as server:
            try:
                _wait_for(home, server)
                yield f"{home}/floor/{scene}"
            finally:
                server.terminate()


def _wait_for(home: str, server: subprocess.Popen[bytes]) -> None:
    for _ in range(200):
        if server.poll() is not None:
            raise JobError("The program did not start.")
        try:
            urllib.request.urlopen(home, timeout=5).close()
            return
        except (urllib.error.URLError, ConnectionError):
            try:
                server.wait(0.1)
            except subprocess.TimeoutExpired:
                continue
    raise JobError("The program did not answer.")


def _missing() -> str:
    if not CHROMIUM.exists():
        return "chromium is not installed"
    try:
        import playwright.sync_api  # noqa: F401, PLC0415
    except ImportError:
        return "playwright is not installed (it comes with the developers' requirements)"
    return ""


def page_figures(one: Load, whole: Load) -> dict[str, Any]:
    """drag_ms, drag_paint_ms and stage_fps with one puppet, edit_ms with the whole load."""
    if why := _missing():
        return {**dict.fromkeys(_KEYS), "not_measured": why}
    from playwright.sync_api import sync_playwright  # noqa: PLC0415

    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=str(CHROMIUM), chromium_sandbox=False, args=_ARGS)
        context = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page = context.new_page()
        with _served(one) as address:
            page.goto(address)
            page.wait_for_function(_READY)
            drag = page.evaluate(_DRAG)
            fps = page.evaluate(_PLAY)
            page.goto("about:blank")
        with _served(whole) as address:
            page.goto(address)
            page.wait_for_function(_READY)
            edits = page.evaluate(_EDIT)
            page.goto("about:blank")
        browser.close()
    return {
        "drag_ms": percentiles(drag["drags"]),
        "drag_paint_ms": percentiles(drag["paints"]),
        "drag_answers": len(drag["drags"]),
        "stage_fps": round(fps, 1),
        "edit_ms": percentiles(edits),
    }
