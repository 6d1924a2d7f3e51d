"""A ride on the Floor: dragged while the scene plays, kept as keys, undone in one step."""

import numpy as np
import pytest

from browser.hands import act, pick, seek, unfold
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.walks import put_gait


def test_a_bone_is_ridden_while_time_goes_on(program):
    floor = Floor(program.workspace, make_scene(program.workspace, "Riding", frames=240, loop=False, ground=640.0))
    who = add_puppet(floor, program.id_of("puppet", "Tamsin"), x=600.0, y=640.0)
    page = program.floor("Riding")
    unfold(page)
    seek(page, 4)
    pick(program, "near upper arm")
    page.locator("#stage").focus()
    page.keyboard.press("Shift+R")
    assert page.locator("#ride").get_attribute("aria-pressed") == "true"
    x, y = program.at(*page.evaluate("window.gaitwire.joint('near upper arm').end"))
    page.mouse.move(x, y)
    page.mouse.down()
    steps = 14
    for step in range(steps):
        page.mouse.move(x + 6 * step, y - 3 * step)
        if step > 1:  # from the second step on it is a drag, and time goes on with the hand
            program.until(f"window.gaitwire.player.frame >= {4 + step}")
    reached = page.evaluate("window.gaitwire.player.frame")
    act(program, page.mouse.up)
    assert 8 < reached < 239
    scene = floor.scene
    (channel,) = scene.channels
    times = [k.time for k in scene.keys_by_channel()[channel.id]]
    assert times[0] in (3.0, 4.0) and times[-1] > 8
    assert len(times) <= 2 * steps + 2, "on a slow machine the hand rests between its steps: two keys a step, no more"
    assert floor.values_at(np.array([0.0, times[0]]))[who, channel.owner_id, "turn"] == pytest.approx([0, 0])
    turned = floor.values_at(np.array([4.0, times[-1]]))[who, channel.owner_id, "turn"]
    assert abs(turned[0]) < 16 and turned[1] < turned[0] - 15
    assert "of the hand" in page.locator("#remarks").inner_text()
    act(program, lambda: page.keyboard.press("Control+z"))
    assert not floor.scene.keys
    page.keyboard.press("Shift+R")  # to the end of the scene it rides by itself
    page.keyboard.press("Shift+R")
    seek(page, 228)
    x, y = program.at(*page.evaluate("window.gaitwire.joint('near upper arm').end"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y - 10, steps=4)
    program.until("window.gaitwire.player.frame === 239")
    program.settled()
    page.mouse.up()
    assert max(k.time for k in floor.scene.keys) == 239


def test_a_setting_of_a_walk_is_ridden(program):
    floor = Floor(program.workspace, make_scene(program.workspace, "Leaning", frames=240, loop=False, ground=640.0))
    who = add_puppet(floor, program.id_of("puppet", "Tamsin"), x=300.0, y=640.0)
    gait = put_gait(floor, who, CHARACTERS["plain"], travels=True)
    page = program.floor("Leaning")
    unfold(page)
    act(program, page.locator(".wirerow.head .pick", has_text="Tamsin").first.click)
    seek(page, 6)
    program.settled()
    page.get_by_label("Setting of plain to ride").select_option("back_curl")
    slider = page.get_by_label("Ride plain")
    slider.scroll_into_view_if_needed()
    box = slider.bounding_box()
    low, high = (float(slider.get_attribute(n)) for n in ("min", "max"))
    at = box["x"] + 8 + (box["width"] - 16) * (0 - low) / (high - low)
    page.mouse.move(at, box["y"] + box["height"] / 2)
    page.mouse.down()
    for step in range(16):
        page.mouse.move(at + 2.5 * step, box["y"] + box["height"] / 2)
        if step > 1:
            program.until(f"window.gaitwire.player.frame >= {6 + step / 2}")
    act(program, page.mouse.up)
    scene = floor.scene
    (channel,) = scene.channels
    keys = scene.keys_by_channel()[channel.id]
    assert (channel.owner_id, channel.property) == (gait, "back_curl")
    assert keys[0].time == 5 and keys[0].value == 0  # what was before the ride stays
    assert keys[-1].time > 12 and keys[-1].value > keys[0].value + 5
    page.get_by_role("button", name="Unfold Walk").click()
    page.get_by_role("group", name="Wire of settings: plain", exact=True).wait_for()
    act(program, lambda: page.keyboard.press("Control+z"))
    assert not floor.scene.keys and floor.scene.gaits
