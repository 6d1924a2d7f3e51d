"""Access: axe-core finds nothing on any page and in any state, in both looks; the keyboard reaches what matters."""

from pathlib import Path

import pytest

AXE = Path(__file__).parents[1] / "node_modules" / "axe-core" / "axe.min.js"

# WCAG 2.2 to level AA, its rule on the size of targets with it, which has to be asked for; and what is good practice.
RULES = """() => axe.run(document, {
  resultTypes: ["violations"],
  runOnly: { type: "tag", values: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] },
  rules: { "target-size": { enabled: true } },
})"""
# The other look has other colours, and nothing else.
COLOURS = """async () => {
  const { dataset } = document.documentElement, lamp = dataset.lamp;
  dataset.lamp = lamp === "off" ? "on" : "off";
  const found = await axe.run(document, { resultTypes: ["violations"], runOnly: { type: "rule", values: ["color-contrast"] } });
  if (lamp === undefined) delete dataset.lamp; else dataset.lamp = lamp;
  return found;
}"""


def faults(page):
    page.evaluate(AXE.read_text())
    return [
        f"{v['id']} ({len(v['nodes'])}): {v['nodes'][0]['html'][:160]} ({v['nodes'][0]['failureSummary'][:200]})"
        for rules in (RULES, COLOURS)
        for v in page.evaluate(rules)["violations"]
    ]


def test_nothing_is_found_on_any_page(program):
    found = {}
    page = program.open()
    found["shelf"] = faults(page)
    program.bench("Tamsin")
    found["bench"] = faults(page)
    page.locator("#bones .pick").first.click()
    page.wait_for_selector("#card [data-target=bones]")
    found["bench, chosen"] = faults(page)
    program.floor("The cart jolts")
    found["floor"] = faults(page)
    page.keyboard.press("a")
    page.wait_for_selector("#curve")
    found["floor, beads"] = faults(page)
    page.keyboard.press("?")
    found["floor, help"] = faults(page)
    program.floor("Off the crate")
    page.locator(".soundrow .pick").first.click()
    page.wait_for_selector("#card [data-sound-of]")
    found["floor, sounds and a camera"] = faults(page)
    page.keyboard.press("z")
    page.wait_for_selector("#notes-list")
    found["floor, notes"] = faults(page)
    page.route("**/values", lambda route: route.fulfill(status=507, headers={"Gw-Reason": "The%20disk%20is%20full."}))
    page.evaluate("void window.gaitwire.edit(3, 9)")
    page.locator("#unsaved:not([hidden])").wait_for()
    found["floor, not saved"] = faults(page)
    page.get_by_role("button", name="put back").click()
    page.unroute("**/values")
    program.open(f"/send-off/{program.id_of('scene', 'Pip hops')}")
    page.wait_for_selector(".made")
    found["send-off"] = faults(page)
    program.open("/stride/weary")
    page.wait_for_selector(".posetile:not([disabled])")
    found["stride desk"] = faults(page)
    program.open("/keeping")
    page.get_by_role("button", name="Make a copy now").click()
    page.wait_for_selector(".kept-said")
    page.get_by_role("button", name="look inside").first.click()
    page.wait_for_selector(".contents-of form")
    found["safekeeping"] = faults(page)
    program.open("/nowhere")
    found["lost"] = faults(page)
    page.complaints.clear()  # the browser's own notes of the missing page and the full disk
    assert not {k: v for k, v in found.items() if v}


def tabs_to(page, reached):
    """Steps of Tab from the top of the page until something has the focus."""
    page.evaluate("document.activeElement.blur(); scrollTo(0, 0)")
    for steps in range(1, 12):
        page.keyboard.press("Tab")
        if page.evaluate(reached):
            return steps
    raise AssertionError(f"not reached in eleven steps: {reached}")


@pytest.mark.parametrize("name", ["bench", "floor"])
def test_stage_and_card_are_a_few_steps_away(program, name):
    page = program.bench("Pip") if name == "bench" else program.floor("Pip hops")
    page.wait_for_selector("#card input")
    assert tabs_to(page, "document.activeElement.getAttribute('href') === '#stage'") <= 3
    page.keyboard.press("Enter")
    assert page.evaluate("document.activeElement.id") == "stage"
    page.reload()
    page.wait_for_selector("#card input")
    assert tabs_to(page, "document.activeElement.getAttribute('href') === '#card'") <= 3
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    assert page.evaluate("document.activeElement.closest('#card') !== null")


def test_beads_are_reached_and_moved_by_keyboard_alone(program):
    page = program.floor("Pip hops")
    page.keyboard.press("Escape")
    wire = page.get_by_role("group", name="Wire of Pip, whole")
    wire.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.wait_for_selector("#curve")
    assert page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])") == [4]
    assert page.evaluate("window.gaitwire.frame") == 4
    page.keyboard.press("Alt+ArrowRight")
    program.settled()
    assert page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])") == [5]


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
        program.settled()
    assert page.locator("#undo").inner_text() == "undo 2"
    page.locator("#undo").click()
    program.settled()
    assert page.locator("#undo").inner_text() == "undo 1"
    assert page.locator("#redo").inner_text() == "redo 1"
