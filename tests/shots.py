"""Pictures of every main page with the orchard in it, for docs/screenshots: ./run shots."""

import sys
import tempfile
import threading
import time
from pathlib import Path

import uvicorn
from playwright.sync_api import Page, sync_playwright

from gaitwire.demo import build_orchard
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.documents import list_documents
from gaitwire.web.app import create_app

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
PORT = 8799


def shelf(page: Page, at) -> None:
    page.goto(at())
    page.wait_for_load_state("networkidle")


def bench(page: Page, at) -> None:
    page.goto(at("bench", "puppet", "Tamsin"))
    ready(page)
    page.get_by_role("toolbar").get_by_role("button", name="joint", exact=True).click()
    page.locator(".rowline .pick", has_text="near shin").first.click()


def bench_soft(page: Page, at) -> None:
    page.goto(at("bench", "puppet", "Tamsin"))
    ready(page)
    page.locator(".rowline[data-part] .pick", has_text="near sleeve").click()
    page.get_by_role("button", name="hold").nth(1).click()
    page.locator("#stage").focus()
    page.keyboard.press("h")
    page.mouse.move(690, 400)


def bench_gap(page: Page, at) -> None:
    """What opens at a hip, and what can be done about it."""
    page.goto(at("bench", "puppet", "Tamsin"))
    ready(page)
    page.locator(".rowline .pick", has_text="near thigh").first.click()
    page.locator("[data-remedies]").click()
    page.locator(".remedy").first.wait_for()
    page.locator("#gap").scroll_into_view_if_needed()


def bench_draw(page: Page, at) -> None:
    page.goto(at("bench", "puppet", "Stook"))
    ready(page)
    page.locator(".rowline[data-part] .pick", has_text="coat").first.click()
    page.locator("#stage").focus()
    page.keyboard.press("d")
    page.get_by_role("radio", name="points", exact=True).check()
    page.wait_for_timeout(300)
    x, y = page.evaluate("window.gaitwire.toPage(170, 330)")
    page.mouse.click(x, y)
    page.wait_for_timeout(200)
    page.locator(".anchorpoint").nth(2).click()


def bench_fix(page: Page, at) -> None:
    """A bent elbow put right at one angle of it."""
    page.goto(at("bench", "puppet", "Tamsin"))
    ready(page)
    page.locator(".rowline .pick", has_text="near forearm").first.click()
    page.locator("[data-pick-control]").click()
    page.locator("[data-correct]").first.click()
    page.wait_for_timeout(600)
    page.get_by_role("button", name="Pin near crease", exact=True).click()


def bench_pad(page: Page, at) -> None:
    """A head turned by its pad, half way to one side and up."""
    page.goto(at("bench", "puppet", "Stook"))
    ready(page)
    page.get_by_role("button", name="bones", exact=True).click()
    page.locator("[data-pick-control]", has_text="head").click()
    dial = page.locator(".dial")
    dial.wait_for()
    box = dial.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.7, box["y"] + box["height"] * 0.4, steps=6)
    page.mouse.up()


def floor_pads(page: Page, at) -> None:
    """A turned head and a talking mouth: points on a pad and on gauges."""
    page.goto(at("floor", "scene", "Stook has his say"))
    ready(page)
    page.get_by_role("button", name="Unfold Pads").click()
    page.get_by_role("group", name="Wire of head", exact=True).locator(".pick").click()
    page.get_by_role("group", name="Wire of talk", exact=True).locator(".pick").click(modifiers=["Shift"])
    page.evaluate("window.gaitwire.player.seek(39)")
    page.get_by_role("button", name="bones", exact=True).click()


def floor_timing(page: Page, at) -> None:
    """Poses with a held head, the timing of one move as a chart."""
    page.goto(at("floor", "scene", "Tamsin waits"))
    ready(page)
    page.locator("#wire-keyed").click()
    page.get_by_role("button", name="Unfold Head").click()
    page.get_by_role("group", name="Wire of face", exact=True).locator(".pick").click()
    page.evaluate("window.gaitwire.player.seek(52)")
    page.keyboard.press("y")
    page.wait_for_timeout(300)
    page.evaluate("window.gaitwire.player.seek(34)")
    page.get_by_role("group", name="Wire of face", exact=True).locator(".bead").nth(2).click()
    page.get_by_role("button", name="halves", exact=True).click()
    page.wait_for_timeout(4500)  # until the remark has gone by itself


def floor_seeing(page: Page, at) -> None:
    """Onion skin of poses, the trail of a leaf."""
    page.goto(at("floor", "scene", "Pip hops"))
    ready(page)
    page.get_by_role("button", name="Unfold Prop").click()
    page.get_by_role("group", name="Wire of leaf", exact=True).locator(".pick").click()
    page.evaluate("window.gaitwire.player.seek(9)")
    page.keyboard.press("o")
    page.locator("#onion-poses").check()
    page.keyboard.press("j")


def floor_curves(page: Page, at) -> None:
    page.goto(at("floor", "scene", "Gander looks about"))
    ready(page)
    page.get_by_role("button", name="Unfold Gander").click()
    page.evaluate("window.gaitwire.player.seek(20)")
    page.locator("#mapbox [data-stick]", has=page.locator("title", has_text="upper neck")).first.click()
    page.locator("#mapbox [data-stick]", has=page.locator("title", has_text="head")).first.click(modifiers=["Shift"])
    page.keyboard.press("g")


def floor_holding(page: Page, at) -> None:
    """Tamsin on the ladder: what holds her, as bars and spots."""
    page.goto(at("floor", "scene", "Tamsin climbs"))
    ready(page)
    for limb in ("Near arm", "Near leg"):
        page.get_by_role("button", name=f"Unfold {limb}").click()
    page.get_by_role("group", name="Wire of near leg, tip", exact=True).locator(".pick").click()
    page.evaluate("window.gaitwire.player.seek(54)")
    page.get_by_role("button", name="bones", exact=True).click()


def floor_notes(page: Page, at) -> None:
    page.goto(at("floor", "scene", "Tamsin walks"))
    ready(page)
    page.evaluate("window.gaitwire.player.seek(14)")
    page.keyboard.press("z")
    page.wait_for_selector("[data-choose][data-frame]")


def floor_filming(page: Page, at) -> None:
    """Pip on the way down from a crate, with the camera's frame and what is heard."""
    page.goto(at("floor", "scene", "Off the crate"))
    ready(page)
    page.locator(".wirerow.head .pick", has_text="Camera").first.click()
    page.evaluate("window.gaitwire.player.seek(33)")


def floor_walking(page: Page, at) -> None:
    """A walk beneath the keys that goes as its puppet is moved, with a barrel that rolls."""
    page.goto(at("floor", "scene", "Along the rows"))
    ready(page)
    page.evaluate("window.gaitwire.player.seek(46)")
    page.locator(".wirerow.head .pick", has_text="Tamsin").first.click()
    page.get_by_role("heading", name="Walk", exact=True).wait_for()
    page.get_by_role("heading", name="Walk", exact=True).scroll_into_view_if_needed()
    page.get_by_role("button", name="bones", exact=True).click()


def floor_phrases(page: Page, at) -> None:
    """A wave over a walk, with what else there is to lay."""
    page.goto(at("floor", "scene", "A word with Stook"))
    ready(page)
    page.evaluate("window.gaitwire.player.seek(40)")
    page.locator(".wirerow.head .pick", has_text="Tamsin").first.click()
    page.locator("#phrase-find").scroll_into_view_if_needed()
    page.locator(".phraselist").evaluate("list => list.scrollIntoView({ block: 'end' })")
    page.get_by_role("button", name="bones", exact=True).click()
    page.wait_for_timeout(2500)


def stride_desk(page: Page, at) -> None:
    page.goto(at() + "stride/weary")
    page.wait_for_selector(".posetile:not([disabled])")
    page.keyboard.press("v")
    page.wait_for_timeout(600)
    page.keyboard.press("Space")
    page.evaluate("window.gaitwire.player.seek(40)")


def send_off(page: Page, at) -> None:
    page.goto(at("send-off", "scene", "The cart jolts"))
    page.wait_for_selector(".made")


def safekeeping(page: Page, at) -> None:
    """With the lamp off, to show that too."""
    page.goto(at())
    page.evaluate("localStorage.setItem('lamp', 'off')")
    page.goto(at() + "keeping")
    page.get_by_role("button", name="Make a copy now").click()
    page.wait_for_selector(".kept-said")
    page.get_by_role("button", name="look inside").first.click()
    page.wait_for_selector(".contents-of form")


def ready(page: Page) -> None:
    while not page.evaluate("Boolean(window.gaitwire?.revision !== undefined && window.gaitwire.calm)"):
        page.wait_for_timeout(50)


VIEWS = {
    "shelf": shelf, "bench": bench, "bench-soft": bench_soft, "bench-fix": bench_fix, "bench-pad": bench_pad, "bench-draw": bench_draw, "bench-gap": bench_gap,
    "floor-pads": floor_pads, "floor-timing": floor_timing,
    "floor-seeing": floor_seeing, "floor-curves": floor_curves, "floor-holding": floor_holding, "floor-notes": floor_notes,
    "floor-filming": floor_filming, "floor-walking": floor_walking, "floor-phrases": floor_phrases, "stride-desk": stride_desk,
    "send-off": send_off, "safekeeping": safekeeping,
}  # fmt: skip


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as driver:
        workspace = Workspace(Store(Path(folder)))
        build_orchard(workspace)
        ids = {(k, e.name): e.id for k in ("puppet", "scene") for e in list_documents(workspace.store, k)}
        config = uvicorn.Config(create_app(workspace), port=PORT, log_level="error", ws_per_message_deflate=False)
        server = uvicorn.Server(config)
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.05)

        def at(page: str = "", kind: str = "", name: str = "") -> str:
            return f"http://127.0.0.1:{PORT}/" + (f"{page}/{ids[kind, name]}" if page else "")

        browser = driver.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", chromium_sandbox=False, args=["--no-sandbox"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for name in sys.argv[1:] or VIEWS:
            VIEWS[name](page, at)
            page.wait_for_timeout(700)
            page.screenshot(path=OUT / f"{name}.png")
            print(f"docs/screenshots/{name}.png")
        browser.close()
        server.should_exit = True
        thread.join(timeout=10)


if __name__ == "__main__":
    main()
