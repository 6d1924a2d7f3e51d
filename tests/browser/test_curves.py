"""The curve panel: points dragged in time and value, handles, points added, joints."""

import numpy as np
import pytest

from gaitwire.services.scene.gestures import Floor

FRAMES = np.arange(0.0, 96.0)


def act(program, work):
    work()
    program.settled()


def course(program):
    """The face's turn on every frame."""
    floor = Floor(program.workspace, program.id_of("scene", "Tamsin waits"))
    bones = program.workspace.puppet(program.id_of("puppet", "Tamsin")).bones
    face = next(b.id for b in bones if b.name == "face")
    return next(v for (_, o, p), v in floor.values_at(FRAMES).items() if (o, p) == (face, "turn"))


@pytest.fixture
def curves(program):
    page = program.floor("Tamsin waits")
    page.locator("#fold-all").click()
    act(program, page.get_by_role("group", name="Wire of face", exact=True).locator(".pick").click)
    page.keyboard.press("g")
    page.locator(".gpoint").first.wait_for()
    return program


def point(page, frame):
    return page.locator(f".gpoint[data-time='{float(frame)}']")


def middle(locator):
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_point_is_dragged_in_time_and_value_and_undone(curves):
    page = curves.page
    before = course(curves)
    assert before[38] == pytest.approx(-9)
    x, y = middle(point(page, 38))
    ruler = page.locator("#graphpoints").bounding_box()
    act(curves, lambda: curves.drag((x, y), (x + 6 * ruler["width"] / 96, y - 20)))
    after = course(curves)
    assert after[44] > -9 + 1
    assert point(page, 44).count() == 1 and point(page, 38).count() == 0
    act(curves, lambda: page.locator("#undo").click())
    assert course(curves) == pytest.approx(before)
    point(page, 38).focus()
    act(curves, lambda: page.keyboard.press("ArrowUp"))
    assert course(curves)[38] == pytest.approx(-8)


def test_a_handle_is_pulled_and_the_poses_stay(curves):
    page = curves.page
    before = course(curves)
    handle = page.get_by_role("button", name="Handle after frame 38 of face, turn")
    x, y = middle(handle)
    act(curves, lambda: curves.drag((x, y), (x, y + 25)))
    after = course(curves)
    assert after[45] < before[45] - 0.5
    assert after[[30, 38, 62, 70]] == pytest.approx(before[[30, 38, 62, 70]])


def test_two_clicks_add_a_point_and_it_is_made_level(curves):
    page = curves.page
    before = course(curves)
    ruler = page.locator("#graphpoints").bounding_box()
    low, high = (float(page.locator("#graphpanel").get_attribute(f"data-{end}")) for end in ("low", "high"))
    tall = 200 / 260
    y = ruler["y"] + (high - before[66]) / (high - low) * tall * ruler["height"]
    page.mouse.dblclick(ruler["x"] + 66 / 96 * ruler["width"], y)
    curves.settled()
    point(page, 66).wait_for()
    assert course(curves) == pytest.approx(before, abs=0.25)
    point(page, 66).click()
    act(curves, page.get_by_role("button", name="level", exact=True).click)
    after = course(curves)
    assert abs(after[67] - after[66]) < abs(before[67] - before[66])
    assert after[66] == pytest.approx(before[66], abs=0.25)
    page.keyboard.press("g")
    assert page.locator("#panel-curves").is_hidden()
