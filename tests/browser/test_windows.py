"""Several windows at once, and pages whose edits cannot be stored: nothing that was acknowledged is lost."""

import os
import time

import pytest

from browser.conftest import patiently, until

EDITING = float(os.environ.get("GAITWIRE_TEST_EDITING", "15"))
"""Seconds for which two windows edit and a third one reloads; longer when there is time for it."""

# Eight edits a second, each a key of its own value, whether the ones before are answered or not; but no hand is
# further ahead of its page than a second.
HAND = """([parity, value]) => {
  window.acknowledged = [];
  let n = 0, waiting = 0;
  window.hand = setInterval(() => {
    if (waiting >= 8) return;
    n += 1;
    waiting += 1;
    const frame = (2 * n + parity) % 24, wanted = value + n / 1000;
    window.gaitwire.edit(frame, wanted).then((headers) => {
      waiting -= 1;
      if (headers) window.acknowledged.push([frame, wanted]);
    });
  }, 125);
}"""


def keys_of(program, scene_id):
    """Values of the keys that the hands wrote, by frame."""
    scene = program.workspace.scene(scene_id)
    node = program.page.evaluate("window.gaitwire.bone0")
    channel = next(c for c in scene.channels if (c.owner_id, c.property) == (node, "turn"))
    return {int(k.time): k.value for k in scene.keys if k.channel_id == channel.id}


def shown(page):
    """Turns in degrees of the first bone on all frames, as the window plays them."""
    return page.evaluate(
        "() => { const { player, index0 } = window.gaitwire;"
        " return Array.from({ length: 24 }, (_, n) => { const [a, b] = player.all.bone(n, index0); return Math.atan2(b, a); }); }"
    )


def test_two_windows_edit_while_a_third_reloads(program):
    page = program.floor("Pip hops")
    scene_id = program.id_of("scene", "Pip hops")
    other, third = (page.context.new_page() for _ in range(2))
    for window in (other, third):
        window.goto(page.url)
        program.until("window.gaitwire?.player.all", window)
    page.evaluate(HAND, [0, 10])
    other.evaluate(HAND, [1, 40])
    end = time.monotonic() + EDITING
    reloads = 0
    while time.monotonic() < end:
        third.reload()
        until(third, "window.gaitwire?.player")  # all frames it may never have while two others edit
        reloads += 1
    wrote, acknowledged = {}, 0
    for window in (page, other):
        window.evaluate("clearInterval(window.hand)")
        window.evaluate("window.gaitwire.settled()")
        told = window.evaluate("window.acknowledged")
        assert len(told) > 20, "hardly anything was acknowledged"
        wrote |= {int(frame): value for frame, value in told}
        acknowledged += len(told)
    print(f"{acknowledged} edits acknowledged, {reloads} reloads")
    assert reloads > 3
    keys = keys_of(program, scene_id)
    assert {frame: keys.get(frame) for frame in wrote} == pytest.approx(wrote, abs=1e-9)
    revision = program.workspace.scene(scene_id).revision
    for window in (page, other, third):
        patiently(window, lambda w=window: w.evaluate("window.gaitwire.revision") == revision)
        until(window, "window.gaitwire.calm && window.gaitwire.player.all")
        assert window.locator("#saved").get_attribute("data-state") == "saved"
    assert shown(page) == shown(other) == shown(third)
    for window in (other, third):
        window.close()


def fill_disk(store):
    """The file may not grow any more: SQLite's own word for a full disk comes of it."""
    store.vacuum()
    pages = store.connection.execute("PRAGMA page_count").fetchone()[0]
    store.connection.execute(f"PRAGMA max_page_count = {pages}")


def make_room(store):
    store.connection.execute("PRAGMA max_page_count = 1000000")


def edit_until_full(page):
    """Edit frame after frame until one cannot be stored; its frame and the value that waits."""
    for n in range(400):
        page.evaluate(f"void window.gaitwire.edit({n % 24}, {n})")
        patiently(page, lambda: page.locator("#saved").get_attribute("data-state") in ("saved", "not"))
        if page.locator("#saved").get_attribute("data-state") == "not":
            return n % 24, n
    raise AssertionError("the disk never became full")


def test_a_full_disk_is_told_and_what_was_done_waits_until_it_is_stored(program):
    page = program.floor("Pip hops")
    store, scene_id = program.workspace.store, program.id_of("scene", "Pip hops")
    page.evaluate("window.gaitwire.edit(1, 5)")
    program.settled()
    assert page.locator("#saved").inner_text().startswith("saved ")
    fill_disk(store)
    frame, value = edit_until_full(page)
    line = page.locator("#unsaved")
    assert "The disk is full" in line.inner_text() and page.locator("#saved").inner_text() == "not saved"
    before = program.workspace.scene(scene_id).revision
    page.evaluate("void window.gaitwire.edit(2, 444)")  # the hand goes on
    patiently(page, lambda: "2 gestures wait" in line.inner_text())
    assert program.workspace.scene(scene_id).revision == before
    make_room(store)
    # It tries again by itself too: a hand may find the button gone already.
    page.evaluate("document.querySelector('[data-again]')?.click()")
    patiently(page, lambda: not line.is_visible())
    program.settled()
    assert not line.is_visible() and page.locator("#saved").get_attribute("data-state") == "saved"
    keys = keys_of(program, scene_id)
    assert (keys[frame], keys[2]) == (444 if frame == 2 else value, 444)
    page.complaints.clear()  # the browser's own notes of the answers that were no success


def test_what_waits_can_be_put_back(program):
    page = program.floor("Pip hops")
    store, scene_id = program.workspace.store, program.id_of("scene", "Pip hops")
    fill_disk(store)
    edit_until_full(page)
    before = program.workspace.scene(scene_id)
    page.get_by_role("button", name="put back").click()
    patiently(page, lambda: page.locator("#saved").get_attribute("data-state") == "saved")
    make_room(store)
    program.until("window.gaitwire.calm")
    assert program.workspace.scene(scene_id) == before
    page.complaints.clear()


def test_a_lost_answer_is_asked_for_again_and_nothing_is_done_twice(program):
    page = program.floor("Pip hops")
    scene_id = program.id_of("scene", "Pip hops")
    asked = []

    def lose_first(route):
        asked.append(route.request.headers["gw-gesture"])
        if len(asked) == 1:
            route.fetch()  # it is stored, and the page never hears of it
            route.abort()
        else:
            route.continue_()

    page.route("**/poses/key", lose_first)
    before = program.workspace.scene(scene_id).revision
    page.evaluate("window.gaitwire.player.seek(5)")
    page.locator("#stage").focus()
    page.keyboard.press("Shift+P")
    patiently(page, lambda: len(asked) == 2)
    program.settled()
    assert asked[0] == asked[1]
    assert program.workspace.scene(scene_id).revision == before + 1
    page.complaints.clear()


def test_another_windows_work_comes_by_itself(program):
    page = program.floor("Pip hops")
    other = page.context.new_page()
    other.goto(page.url)
    program.until("window.gaitwire?.player.all", other)
    page.evaluate("window.gaitwire.edit(7, 12)")
    program.settled()
    patiently(other, lambda: other.evaluate("window.gaitwire.revision") == page.evaluate("window.gaitwire.revision"))
    program.until("window.gaitwire.calm && window.gaitwire.player.all", other)
    assert shown(other) == shown(page)
    other.close()
