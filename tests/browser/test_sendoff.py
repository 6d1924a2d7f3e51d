"""The Send-off by hand: settings that remake the file, cancelling, a preview that is the file."""

import io

import pytest
from PIL import Image

from browser.conftest import painted, patiently


@pytest.fixture
def sendoff(program):
    page = program.open(f"/send-off/{program.id_of('scene', 'Pip hops')}")
    page.wait_for_selector(".made")
    return page


def shown(program, page):
    src = page.locator(".checker img").get_attribute("src")
    return page.request.get(program.home + src).body()


def remade(page, work):
    """Do something to the settings and wait for the file that comes of it."""
    before = page.locator(".made").get_attribute("data-job")
    work()
    page.locator(f".made:not([data-job='{before}'])").wait_for()


def test_the_file_is_made_at_once_and_again_when_settings_change(program, sendoff):
    page = sendoff
    assert b'repeatCount="indefinite"' in shown(program, page)
    remade(page, lambda: page.get_by_label("times", exact=True).fill("3") or page.keyboard.press("Tab"))
    assert b'repeatCount="3"' in shown(program, page)
    assert b'fill="#f0ddbb"' in shown(program, page)
    remade(page, lambda: page.get_by_label("with the background").uncheck())
    assert b'fill="#f0ddbb"' not in shown(program, page) and b"Orchard rows" not in shown(program, page)
    page.locator(".madefoot", has_text="every frame written out").wait_for()


def test_a_gif_of_some_frames_at_half_size(program, sendoff):
    page = sendoff
    remade(page, lambda: page.get_by_role("radio", name="GIF").check())

    def half():
        page.locator("#settings input[name=scale]").fill("50")
        page.get_by_label("first frame").fill("4")
        page.get_by_label("last frame").fill("9")
        page.get_by_label("last frame").press("Enter")

    remade(page, half)
    program.until("document.getElementById('pixels').innerText === '640 × 360 px' && document.querySelector('.made')")
    with Image.open(io.BytesIO(shown(program, page))) as gif:
        assert (gif.n_frames, gif.size) == (6, (640, 360))


def test_a_sequence_is_looked_through_frame_by_frame(program, sendoff):
    page = sendoff
    page.locator("#settings input[name=scale]").fill("25")
    page.get_by_role("radio", name="PNG sequence").check()
    scrub = page.get_by_label("Frame of the sequence")
    scrub.wait_for()
    one = shown(program, page)
    scrub.fill("10")
    assert page.locator("#sequence").get_attribute("src").endswith("/10.png")
    assert shown(program, page) != one


def test_a_long_job_shows_progress_and_can_be_cancelled(program):
    page = program.open(f"/send-off/{program.id_of('scene', 'Tamsin waits')}")
    page.wait_for_selector(".made")
    page.locator("#settings input[name=scale]").fill("200")
    page.get_by_role("radio", name="PNG sequence").check()
    page.locator(".making .sub", has_text="of 96 frames drawn").wait_for()
    page.get_by_role("button", name="cancel").click()
    page.get_by_role("heading", name="Cancelled").wait_for()
    assert "Nothing was written" in page.locator(".making").inner_text()


def test_late_news_of_a_job_given_up_does_not_hide_the_one_that_took_its_place(program):
    page = program.open(f"/send-off/{program.id_of('scene', 'Tamsin waits')}")
    page.wait_for_selector(".made")
    held = []

    def hold(route):
        if held:
            route.continue_()
        else:
            held.append(route)  # only the first question is kept waiting

    page.route("**/jobs/*", hold)
    page.locator("#settings input[name=scale]").fill("200")
    page.get_by_role("radio", name="PNG sequence").check()
    page.locator(".making[data-job]").wait_for()
    patiently(page, lambda: held)
    first = page.locator(".making").get_attribute("data-job")
    page.locator("#settings input[name=scale]").fill("10")
    page.get_by_role("button", name="Make it").click()
    page.locator(f".made:not([data-job='{first}'])").wait_for()
    with page.expect_response(f"**/jobs/{first}"):
        held[0].continue_()
    painted(page)
    assert page.locator("#result > *").get_attribute("data-job") not in {first, None}


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("scale", "9000", "between 5 and 400 %"),
        ("scale", "big", "no number"),
        ("first", "99", "comes before the first"),
    ],
)
def test_what_does_not_fit_is_told_and_the_page_stays(program, sendoff, field, value, words):
    page = sendoff
    page.locator(f"#settings input[name={field}]").fill(value)
    page.get_by_role("button", name="Make it").click()
    page.get_by_role("alert").wait_for()
    assert words in page.get_by_role("alert").inner_text()
    assert page.locator(".made").count() == 1
    page.complaints.clear()  # the browser's own note of the refused request
