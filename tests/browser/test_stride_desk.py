"""The Stride desk by mouse and keyboard: a walk seen while it is turned, kept, put in a scene, and changed with edits on it."""

import json

import numpy as np
import pytest

from browser.hands import act, pick, seek, turn_of, typed, unfold
from builders.making_bvh import bvh_text
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.stride import Stride
from gaitwire.services.gait import gait_cards as cards
from gaitwire.services.gait.put_in_scene import put_in_scene
from gaitwire.services.rig.bench import Bench
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.store.documents import list_documents


@pytest.fixture
def desk(program):
    """Opens a card on the desk, standing still."""

    def open_card(ref):
        page = program.open(f"/stride/{ref}")
        program.until("window.gaitwire?.player.all && !document.querySelector('.posetile[disabled]')")
        page.keyboard.press("Space")
        return page

    return open_card


def set_field(program, name, value):
    box = program.page.locator(f"#set-{name}")
    box.fill(str(value))
    act(program, lambda: box.press("Enter"))


def bone_angle(program, bone):
    """How a bone stands on the picture that is shown."""
    return program.page.evaluate(
        "name => { const { stage, player, desk } = window.gaitwire, n = desk.place.nodes.findIndex((one) => one?.name === name);"
        " const [a, b] = player.all.bone(player.frame, n); return (Math.atan2(b, a) * 180) / Math.PI; }",
        bone,
    )


def test_a_walk_goes_on_while_a_slider_is_dragged_and_is_kept_on_letting_go(program, desk):
    page = desk("plain")
    chest = bone_angle(program, "chest")
    slider = page.locator("[data-slide=lean]")
    box = slider.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.42, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] / 2, steps=4)
    page.evaluate("window.gaitwire.line.settled()")
    assert not list_documents(program.workspace.store, "card")
    dragged = bone_angle(program, "chest")
    assert dragged - chest > 12
    act(program, page.mouse.up)
    (entry,) = list_documents(program.workspace.store, "card")
    assert entry.id in page.url and page.get_by_label("Name of the card").input_value() == "plain 2"
    assert page.locator("#crumb").inner_text() == "plain 2"
    kept = cards.card_at(program.workspace, entry.id)
    assert kept.lean == pytest.approx(float(page.locator("#set-lean").input_value())) and kept.lean > 14
    assert bone_angle(program, "chest") == pytest.approx(dragged, abs=1e-3)
    set_field(program, "lean", -5)
    page.locator("#stage").focus()
    act(program, lambda: page.keyboard.press("Control+z"))
    assert float(page.locator("#set-lean").input_value()) == pytest.approx(kept.lean)
    assert bone_angle(program, "chest") == pytest.approx(dragged, abs=1e-3)


def test_poses_footfalls_and_curves_are_shown_and_stepped_through(program, desk):
    page = desk("plain")
    assert page.locator(".posetile i").all_inner_texts() == ["0", "2.4", "6", "9.6", "12", "14.4", "18", "21.6"]
    page.get_by_role("button", name="passing").first.click()
    assert page.evaluate("window.gaitwire.player.frame") == 6
    page.locator("#stage").focus()
    page.keyboard.press("]")
    assert page.evaluate("window.gaitwire.player.frame") == 10
    page.keyboard.press("[")
    page.keyboard.press(",")
    assert page.evaluate("window.gaitwire.player.frame") == 5
    assert page.get_by_role("img", name="The near foot is down from 0 to 61 percent").count() == 1
    assert page.locator(".plots path.curve").count() == 6
    now = float(page.locator(".plots .now").first.get_attribute("x1"))
    assert now == pytest.approx(240 * 5 / 24, abs=0.01)
    place = page.locator(".floorprints").get_attribute("transform")
    page.keyboard.press("v")
    program.until("window.gaitwire.player.all.count === 48")
    assert place != "translate(0 0)" and page.locator(".floorprints").get_attribute("transform") == "translate(0 0)"


def test_a_number_that_does_not_fit_stays_marked_where_it_was_typed(program, desk):
    page = desk("plain")
    set_field(program, "stride", 50)
    assert "goes from 0 to 3.2 legs" in page.get_by_role("alert").inner_text()
    assert page.locator("#set-stride").get_attribute("aria-invalid") is not None
    set_field(program, "stride", 1.2)
    assert page.locator("#set-stride").get_attribute("aria-invalid") is None
    page.complaints.clear()


def test_a_card_is_mixed_taken_to_a_file_and_brought_back(program, desk, tmp_path):
    page = desk("plain")
    page.locator("#mix-other").select_option("weary")
    page.get_by_role("button", name="mix", exact=True).click()
    page.wait_for_url("**/stride/*-*-*")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="export").click()
    saved = tmp_path / "half.gait.json"
    waiting.value.save_as(saved)
    told = json.loads(saved.read_text())
    assert told["lean"] == pytest.approx((CHARACTERS["plain"].lean + CHARACTERS["weary"].lean) / 2)
    told["name"], told["lean"] = "Lorry", 21.0
    saved.write_text(json.dumps(told))
    with page.expect_navigation():
        page.locator("#card-file").set_input_files(saved)
    program.until("window.gaitwire?.player.all")
    assert page.get_by_label("Name of the card").input_value() == "Lorry"
    assert page.locator("#set-lean").input_value() == "21"
    page.get_by_role("button", name="take off").click()
    page.wait_for_url("**/stride/plain**")
    assert page.locator("#cards", has_text="Lorry").count() == 0


def test_an_edit_on_a_walk_is_kept_when_its_card_is_changed(program, desk):
    space = program.workspace
    tamsin = program.id_of("puppet", "Tamsin")
    scene_id = make_scene(space, "Later", frames=97, loop=False, ground=640.0)
    add_puppet(Floor(space, scene_id), tamsin, x=200.0)
    put_in_scene(cards.CardDesk(space, "plain"), tamsin, scene_id, travels=True, as_keys=False)
    page = program.floor("Later")
    unfold(page)
    assert page.locator(".wirerow.bone .ghost.walked").count() > 40
    bar = page.locator(".linkbar.gaits .hold").bounding_box()
    program.drag((bar["x"] + bar["width"] - 2, bar["y"] + 3), (bar["x"] + bar["width"] * 5 / 6, bar["y"] + 3))
    assert space.scene(scene_id).gaits[0].stop == pytest.approx(80, abs=1)
    act(program, lambda: page.keyboard.press("Control+z"))
    seek(page, 30)
    pick(program, "face")
    typed(program, "turn", 31)
    looks = turn_of(program, "face", 30)
    plain = turn_of(program, "face", 54)  # a stride later, where nothing was edited
    act(program, page.locator(".wirerow.head .pick", has_text="Tamsin").first.click)
    page.get_by_role("link", name="settings").click()
    program.until("window.gaitwire?.player.all")
    page.locator("#set-frames_a_step").fill("16")
    act(program, lambda: page.locator("#set-frames_a_step").press("Enter"))
    page.get_by_role("link", name="Back to the Floor").click()
    program.ready()
    assert turn_of(program, "face", 40) == pytest.approx(looks, abs=0.01)  # the same phase of the stride
    assert turn_of(program, "face", 72) == pytest.approx(plain, abs=0.01)
    act(program, page.locator(".wirerow.head .pick", has_text="Tamsin").first.click)
    page.locator("#walk-density").select_option("every")
    act(program, page.get_by_role("button", name="make it my own").click)
    scene = space.scene(scene_id)
    assert not scene.gaits and len(scene.keys) > 1000
    assert turn_of(program, "face", 40) == pytest.approx(looks, abs=0.01)
    seat = space.frames(scene_id, np.array([0.0, 96.0])).nodes[:, 0, 4]
    assert seat[1] - seat[0] > 300


def test_a_card_is_fitted_to_a_bvh_file_and_serves_as_a_guide(program, desk, tmp_path):
    captured = tmp_path / "cousin.bvh"
    captured.write_text(bvh_text(Stride(CHARACTERS["brisk"])))
    page = desk("plain")
    with page.expect_navigation():
        page.locator("#fit-file").set_input_files(captured)
    program.until("window.gaitwire?.player.all")
    assert page.get_by_label("Name of the card").input_value() == "cousin"
    off = [float(t.split("by ")[1].rstrip("°")) for t in page.locator(".plots b").all_inner_texts()]
    assert len(off) == 3 and page.locator(".curve.measured").count() == 3 and all(o < 12 for o in off)
    set_field(program, "heel_kick", 40)
    program.until(f"parseFloat(document.querySelectorAll('.plots b')[1].textContent.slice(7)) > {off[1] + 2}")
    page = program.floor("Pip hops")
    act(program, lambda: page.keyboard.press("Escape"))
    page.locator("#stride-card").select_option("cousin")
    act(program, page.get_by_role("button", name="a stride of", exact=True).click)
    guide = program.workspace.scene(program.id_of("scene", "Pip hops")).guides[-1]
    assert guide.name == "cousin stride of 24" and len(set(guide.pictures)) == 24
    broken = tmp_path / "broken.bvh"
    broken.write_text("HIERARCHY\nROOT a {")
    desk("plain")
    act(program, lambda: page.locator("#fit-file").set_input_files(broken))
    page.get_by_text("ends too early").wait_for()
    page.complaints.clear()


def test_what_a_puppet_lacks_for_a_walk_is_listed_on_the_desk_and_mended_there(program):
    space, tamsin = program.workspace, program.id_of("puppet", "Tamsin")
    bench = Bench(space, tamsin)
    bench.update_bones([b.id for b in bench.puppet.bones if b.role == "thigh" and b.side == "near"], {"role": ""})
    page = program.open(f"/stride/plain?on={tamsin}")
    listed = page.get_by_role("region", name="Ready to walk?")
    assert "Not ready to walk" in listed.inner_text() and "near thigh" in listed.inner_text()
    assert page.get_by_role("button", name="put the walk in").is_disabled()
    listed.get_by_role("button", name="guess roles from names").click()
    page.wait_for_selector(".readylist", state="detached")
    program.until("window.gaitwire?.calm")
    assert page.get_by_role("button", name="put the walk in").is_enabled()
    assert {b.role for b in space.puppet(tamsin).bones if b.name == "near thigh"} == {"thigh"}
