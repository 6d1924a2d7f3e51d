"""Access: axe-core finds nothing serious on any page, in light and dark; the keyboard reaches what matters."""

from pathlib import Path

import pytest

AXE = Path(__file__).parents[1] / "node_modules" / "axe-core" / "axe.min.js"


def serious(page):
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [
        f"{v['id']}: {v['nodes'][0]['html'][:160]} ({v['nodes'][0]['failureSummary'][:200]})"
        for v in found["violations"]
        if v["impact"] in ("serious", "critical")
    ]


@pytest.mark.parametrize("lamp", ["on", "off"])
def test_no_page_has_serious_violations(program, lamp):
    page = program.open()
    page.evaluate("lamp => localStorage.setItem('lamp', lamp)", lamp)
    found = {}
    program.open()
    found["shelf"] = serious(page)
    program.bench("Tamsin")
    found["bench"] = serious(page)
    page.locator("#bones .pick").first.click()
    page.wait_for_selector("#card [data-target=bones]")
    found["bench, chosen"] = serious(page)
    program.floor("The cart jolts")
    found["floor"] = serious(page)
    page.keyboard.press("a")
    page.wait_for_selector("#curve")
    found["floor, beads"] = serious(page)
    page.keyboard.press("?")
    found["floor, help"] = serious(page)
    program.floor("Off the crate")
    page.locator(".soundrow .pick").first.click()
    page.wait_for_selector("#card [data-sound-of]")
    found["floor, sounds and a camera"] = serious(page)
    program.open(f"/send-off/{program.id_of('scene', 'Pip hops')}")
    page.wait_for_selector(".made")
    found["send-off"] = serious(page)
    program.open("/stride/weary")
    page.wait_for_selector(".posetile:not([disabled])")
    found["stride desk"] = serious(page)
    program.open("/nowhere")
    found["lost"] = serious(page)
    page.complaints.clear()  # the browser's own note of the missing page
    assert not {k: v for k, v in found.items() if v}


def test_beads_are_reached_and_moved_by_keyboard_alone(program):
    page = program.floor("Pip hops")
    page.keyboard.press("Escape")
    wire = page.get_by_role("group", name="Wire of Pip, whole")
    wire.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.wait_for_selector("#curve")
    assert page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])") == [7]
    assert page.evaluate("window.gaitwire.frame") == 7
    page.keyboard.press("Alt+ArrowRight")
    page.wait_for_timeout(150)
    program.settled()
    assert page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])") == [8]


def test_help_opens_by_key_and_closes_again(program):
    page = program.floor("Pip hops")
    sheet = page.get_by_role("dialog", name="Keys")
    page.keyboard.press("?")
    sheet.wait_for()
    assert "play and stop" in sheet.inner_text()
    page.keyboard.press("Escape")
    sheet.wait_for(state="hidden")


def test_undo_by_button_takes_one_step(program):
    page = program.bench("Pip")
    for name in ("leaf", "stem"):
        page.locator(".rowline[data-bone]").filter(has=page.get_by_role("button", name=name, exact=True)).locator(
            ".pick"
        ).click()
        page.locator("#card h2", has_text=name).wait_for()
        page.locator("#card input[name=x]").fill("99")
        page.locator("#card input[name=x]").press("Enter")
        page.wait_for_timeout(80)
        program.settled()
    assert page.locator("#undo").inner_text() == "undo 2"
    page.locator("#undo").click()
    page.wait_for_timeout(80)
    program.settled()
    assert page.locator("#undo").inner_text() == "undo 1"
    assert page.locator("#redo").inner_text() == "redo 1"
