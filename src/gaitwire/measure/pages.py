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
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from gaitwire.core.errors import JobError
from gaitwire.measure.beside import Timings, in_rounds, middle, percentiles, rate, timed
from gaitwire.measure.load import Load, make_scene_of
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store

_KNOWN = tuple(map(Path, ("/usr/bin/chromium", "/usr/bin/chromium-headless-shell")))
CHROMIUM = next((path for path in _KNOWN if path.exists()), _KNOWN[0])
ARGS = ["--no-sandbox", "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost"]
_KEYS = ("drag_ms", "drag_paint_ms", "stage_fps", "edit_ms")

READY = "() => Boolean(window.gaitwire?.player.all)"

_DRAG = """async (from) => {
  const { live, stage, toPage, joint } = window.gaitwire;
  const host = stage.host, [x, y] = toPage(...joint("bone 2").end);
  const send = (type, clientX, clientY) => host.dispatchEvent(
    new PointerEvent(type, { clientX, clientY, button: 0, buttons: 1, pointerId: 1, bubbles: true }),
  );
  host.setPointerCapture = () => {};
  send("pointerdown", x, y);
  live.times.length = stage.paints.length = 0;
  const start = performance.now();
  for (let n = from; n < from + 100; n += 1) {
    const wait = start + ((n - from) * 1000) / 60 - performance.now();
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
  await new Promise((done) => setTimeout(done, 1500));
  player.stop();
  return [(performance.now() - start) / (stage.painted - before)];
}"""

_EDIT = """async (from) => {
  const { gaitwire } = window, times = [];
  for (let n = from; n < from + 10; n += 1) {
    const start = performance.now();
    await gaitwire.edit(n % 24, n);
    times.push(performance.now() - start);
  }
  await gaitwire.settled();
  return times;
}"""


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _floor_of(load: Load) -> Callable[[Workspace], str]:
    """Makes a scene of that size; the path of its Floor."""
    return lambda workspace: f"/floor/{make_scene_of(workspace, load)}"


@contextmanager
def served(make: Callable[[Workspace], str]) -> Iterator[str]:
    """The program, in a process of its own, over what is made; the address of the path that making it gives."""
    with tempfile.TemporaryDirectory(prefix="gaitwire-bench-") as folder:
        store = Store(Path(folder))
        path = make(Workspace(store))
        store.close()
        port = _free_port()
        home = f"http://127.0.0.1:{port}"
        command = [sys.executable, "-m", "gaitwire", "serve", "--data", folder, "--port", str(port)]
        with subprocess.Popen(command, stdout=subprocess.DEVNULL) as server:
            try:
                _wait_for(home, server)
                yield home + path
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


def missing() -> str:
    if not CHROMIUM.exists():
        return "chromium is not installed"
    try:
        import playwright.sync_api  # noqa: F401, PLC0415
    except ImportError:
        return "playwright is not installed (it comes with the developers' requirements)"
    return ""


_EDIT_SEEN = """async (from) => {
  const { gaitwire } = window, { player, stage } = gaitwire, times = [];
  const next = () => new Promise((done) => requestAnimationFrame(done));
  for (let n = from; n < from + 6; n += 1) {
    const frame = (n * 37) % player.info.frames;
    player.seek(frame); // to where the edit will be, and at rest there
    while (!player.all) await next();
    await new Promise((done) => setTimeout(done, 300));
    const start = performance.now(), { stamp } = player.info;
    await gaitwire.edit(frame, n % 30);
    while (player.info.stamp === stamp) await next();
    const { painted } = stage;
    while (stage.painted === painted) await next();
    times.push(performance.now() - start);
  }
  while (!player.all) await next();
  return times;
}"""

_SCRUB = """async () => {
  const { player, stage } = window.gaitwire;
  const before = stage.painted, start = performance.now();
  for (let n = 0; performance.now() - start < 1500; n += 1) {
    player.seek((n * 7) % player.info.frames);
    await new Promise((done) => requestAnimationFrame(done));
  }
  return [(performance.now() - start) / (stage.painted - before)];
}"""

_UNFOLD = """async () => {
  document.getElementById("floor").style.setProperty("--timeline", "520px");
  for (const fold of document.querySelectorAll(".tl-group:not(.seat).folded .fold")) fold.click();
  await new Promise((done) => setTimeout(done, 500));
  return [...document.querySelectorAll(".wirerow")].filter((row) => row.offsetParent).length;
}"""

_SCROLL = """async () => {
  const box = document.getElementById("tl-scroll"), times = [];
  let last = performance.now();
  for (let n = 0; n < 75; n += 1) {
    box.scrollTop = (n * 24) % Math.max(1, box.scrollHeight - box.clientHeight);
    box.scrollLeft = (n * 17) % Math.max(1, box.scrollWidth - box.clientWidth);
    await new Promise((done) => requestAnimationFrame(done));
    times.push(performance.now() - last);
    last = performance.now();
  }
  return times.slice(5);
}"""

_SHOWN = (
    "() => Boolean(window.gaitwire?.player.one && window.gaitwire.stage.painted && document.querySelector('#card h2'))"
)

_LONG_KEYS = ("long_ready_ms", "long_edit_seen_ms", "long_scrub_fps", "long_scroll_ms")


def long_scene_figures(load: Load) -> dict[str, Any]:
    """A long scene: until its page can be worked on, until an edit is seen, scrubbing, and scrolling its wires."""
    if why := missing():
        return {**dict.fromkeys(_LONG_KEYS), "not_measured": why}
    from playwright.sync_api import sync_playwright  # noqa: PLC0415

    with sync_playwright() as driver, served(_floor_of(load)) as address:
        browser = driver.chromium.launch(executable_path=str(CHROMIUM), chromium_sandbox=False, args=ARGS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True).new_page()
        page.goto(address)  # once, so that what ships with the program is known and the scene is in memory
        page.wait_for_function(READY)

        def opened(_: int) -> list[float]:
            page.wait_for_function(READY)

            def shown() -> None:
                page.goto(address, wait_until="commit")
                page.wait_for_function(_SHOWN)

            return [timed(shown)]

        ready = in_rounds(opened, 5)
        page.wait_for_function(READY)
        seen = in_rounds(lambda n: page.evaluate(_EDIT_SEEN, 6 * n), 4)
        scrub = in_rounds(lambda _: page.evaluate(_SCRUB), 3)
        rows = page.evaluate(_UNFOLD)
        scroll = in_rounds(lambda _: page.evaluate(_SCROLL), 3)
        page.goto("about:blank")
        browser.close()
    return {
        "long_ready_ms": middle(ready, round),
        "long_edit_seen_ms": percentiles(seen),
        "long_scrub_fps": rate(scrub),
        "long_scroll_ms": percentiles(scroll, rows=rows),
    }


def page_figures(one: Load, whole: Load) -> dict[str, Any]:
    """drag_ms, drag_paint_ms and stage_fps with one puppet, edit_ms with the whole load."""
    if why := missing():
        return {**dict.fromkeys(_KEYS), "not_measured": why}
    from playwright.sync_api import sync_playwright  # noqa: PLC0415

    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=str(CHROMIUM), chromium_sandbox=False, args=ARGS)
        context = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page = context.new_page()
        with served(_floor_of(one)) as address:
            page.goto(address)
            page.wait_for_function(READY)
            drags: list[dict[str, list[float]]] = []

            def dragged(n: int) -> list[float]:
                drags.append(page.evaluate(_DRAG, 1 + 100 * n))
                return drags[-1]["drags"]

            drag = in_rounds(dragged, 3)
            paints = tuple(ms for one in drags for ms in one["paints"])
            play = in_rounds(lambda _: page.evaluate(_PLAY), 3)
            page.goto("about:blank")
        with served(_floor_of(whole)) as address:
            page.goto(address)
            page.wait_for_function(READY)
            edits = in_rounds(lambda n: page.evaluate(_EDIT, 10 * n), 3)
            page.goto("about:blank")
        browser.close()
    return {
        "drag_ms": percentiles(drag, answers=len(drag.ms)),
        "drag_paint_ms": percentiles(Timings(paints, drag.reference)),
        "stage_fps": rate(play),
        "edit_ms": percentiles(edits),
    }
