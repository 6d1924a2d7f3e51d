"""A hop planned and edited by hand: area stays as set on every frame the page plays; squash along any axis."""

import numpy as np
import pytest

from browser.hands import act, pick, seek, typed, wire
from gaitwire.core.motion.hop import Hop, timing_of
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor


@pytest.fixture
def staged(program):
    floor = Floor(program.workspace, make_scene(program.workspace, "Hops", frames=72, loop=False, ground=640.0))
    floor.who = add_puppet(floor, program.id_of("puppet", "Pip"), x=400.0, y=640.0)
    program.floor("Hops")
    pick(program, "Pip, whole")
    return floor


def areas(program):
    """What the apple's square pixels become, on every frame, as the page plays them."""
    return np.array(
        program.page.evaluate(
            "() => { const { player, index } = window.gaitwire; const n = index('apple');"
            " return [...Array(72).keys()].map((f) => { const [a, b, c, d] = player.all.bone(f, n);"
            " return a * d - b * c; }); }"
        )
    )


def test_a_hop_is_planned_and_edited_by_hand_and_its_area_stays_within_the_setting(program, staged):
    page = program.page
    seek(page, 4)
    for label, value in (("crouch", 6), ("in the air", 12), ("distance", 260), ("height", 150), ("heft", 0)):
        page.get_by_label(f"Hop: {label}", exact=True).fill(str(value))
    act(program, page.get_by_role("button", name="hop from here").click)
    said = page.locator("#remarks").inner_text()
    assert "leaves the ground on 10, touches down on 22" in said and "gravity" in said
    assert areas(program) == pytest.approx([1.0] * 72, abs=1e-4)
    area = wire(page, "Pip, whole").locator(".arealine title")
    assert area.text_content() == "area 100 to 100 %"
    deepest = timing_of(Hop(crouch=6, air=12, distance=260, height=150, heft=0.0)).squashed + 4
    seek(page, deepest)
    typed(program, "stretch", 50)
    assert areas(program) == pytest.approx([1.0] * 72, abs=1e-4)
    typed(program, "keep", 50)
    kept = areas(program)
    assert kept[int(deepest)] == pytest.approx(0.5**0.5, abs=1e-4) and kept.min() >= 0.5**0.5 - 1e-4
    assert kept[: int(deepest)] == pytest.approx(1.0, abs=1e-4), "it is kept wholly until then"
    assert area.text_content() == f"area 71 to {kept.max() * 100:.0f} %" and kept.max() > 1.03


def test_a_puppet_is_squashed_along_the_way_it_is_pulled(program, staged):
    page = program.page
    page.locator("#stage").focus()
    page.keyboard.press("Shift+E")
    assert page.get_by_role("button", name="squash", exact=True).get_attribute("aria-pressed") == "true"
    start, end = program.at(400 + 60, 640 - 80), program.at(400 + 30, 640 - 40)
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=6)
    program.until("document.getElementById('stage').innerText.includes('area 100 %')")
    act(program, page.mouse.up)
    values = staged.values_at(np.array([0.0]))
    found = {name: float(values[staged.who, staged.who, name][0]) for name in ("stretch", "axis", "keep", "turn")}
    assert found["stretch"] == pytest.approx(0.5, abs=0.02) and found["keep"] == 1 and found["turn"] == 0
    assert found["axis"] == pytest.approx(np.degrees(np.arctan2(60, 80)), abs=1.5)
    assert areas(program)[0] == pytest.approx(1.0, abs=1e-4)
    act(program, lambda: page.keyboard.press("Control+z"))
    assert not staged.scene.keys
