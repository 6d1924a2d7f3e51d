"""The Bench's joints: the worst found, mended, proved smaller; the range test played and left."""

import re

from browser.conftest import patiently
from gaitwire.services.rig.joint_gaps import Mending


def opens(page):
    """What the card says that the chosen joint opens by, in square pixels."""
    return int(re.search(r"(\d+) px²", page.locator("#gap p strong").inner_text()).group(1))


def test_the_worst_joint_is_found_mended_and_opens_less(program):
    page = program.bench("Tamsin")
    page.get_by_role("button", name="measure all joints").click()
    first = page.locator("#gaps .castrow button").first
    first.wait_for()
    worst = Mending(program.workspace, program.id_of("puppet", "Tamsin")).gaps()[0]
    assert first.inner_text().startswith(worst.name)
    first.click()
    page.locator("#gap p strong").wait_for()
    before = opens(page)
    page.get_by_role("button", name="what can be done").click()
    page.locator(".remedy button").first.click()
    page.get_by_text(f"It opened by {before} px²").wait_for()
    program.settled()
    page.locator("#gap p strong").wait_for()
    program.until(f"Number(document.querySelector('#gap p strong')?.textContent.match(/\\d+/)?.[0]) < {before}")
    after = opens(page)
    assert after < before
    page.keyboard.press("Control+z")
    program.settled()
    program.until(f"document.querySelector('#gap p strong')?.textContent.startsWith('{before} ')")


def test_what_lies_below_a_gap_stays_under_the_hand_while_it_is_measured(program):
    page = program.bench("Gander")
    waiting = []
    page.route("**/gap/*", lambda route: waiting.append(route))
    for name in ("jaw", "eye", "neck"):  # one that opens, one that holds, one that cannot open
        page.locator(".rowline .pick", has_text=name).first.click()
        page.locator("#card h2", has_text=name).wait_for()
        patiently(page, lambda: waiting)
        below = page.get_by_role("button", name="correct it at")
        before = below.bounding_box()
        waiting.pop().continue_()
        page.locator("#gap .gap").wait_for()
        assert below.bounding_box() == before, name


def test_the_range_test_turns_every_joint_and_leaves_the_puppet_at_rest(program):
    page = program.bench("Bramble")
    rest = page.evaluate("[...window.gaitwire.stage.frames.bone(0, 8)]")
    page.locator("#stage").focus()
    page.keyboard.press("r")
    page.locator("#rangestrip").wait_for()
    assert page.locator("#rangestrip .opens").count() > 5
    program.until("document.querySelector('#rangestrip output').textContent.length > 0")
    bar = page.locator("#rangestrip svg").bounding_box()
    page.mouse.click(bar["x"] + bar["width"] * 0.97, bar["y"] + 8)
    program.until("document.querySelector('#rangestrip output').textContent.startsWith('all together')")
    page.keyboard.press("Escape")
    assert page.locator("#rangestrip").is_hidden()
    assert page.evaluate("[...window.gaitwire.stage.frames.bone(0, 8)]") == rest
