"""The Shelf as a new user meets it: drop art, read what was lost, take off, bring back."""

from pathlib import Path

from PIL import Image

from gaitwire.store.documents import list_documents

SVG = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 300">
<g id="far_arm"><rect x="90" y="90" width="20" height="80" fill="#a33"/></g>
<g id="body"><rect x="70" y="80" width="60" height="120" fill="#3a3"/></g>
<g id="head"><circle cx="100" cy="50" r="30" fill="#c96"/></g><text x="9" y="9">me</text></svg>"""


def test_drop_art_and_meet_it_on_the_bench(program, tmp_path: Path):
    art = tmp_path / "little_man.svg"
    art.write_text(SVG)
    page = program.open()
    page.locator("#art-file").set_input_files(art)
    arrival = page.locator(".arrival")
    arrival.wait_for()
    assert "little man came in with 3 parts" in arrival.inner_text()
    assert "Text was left out" in arrival.inner_text()
    arrival.get_by_role("link", name="Open on the Bench").click()
    program.until("window.gaitwire?.revision !== undefined")
    rows = page.locator("#parts .pick").all_inner_texts()
    assert rows == ["head", "body", "far arm"]  # front to back
    assert page.evaluate("window.gaitwire.partAt(100, 50)") == "head"
    assert page.evaluate("window.gaitwire.partAt(100, 130)") == "body"
    assert page.evaluate("window.gaitwire.partAt(5, 5)") is None


def test_a_bad_file_says_so_where_the_user_is(program, tmp_path: Path):
    bad = tmp_path / "bad.svg"
    bad.write_text("<svg><script>1</script></svg>")
    page = program.open()
    page.complaints.clear()
    known = page.locator("#puppets .tile:not(.drop)").count()
    page.locator("#art-file").set_input_files(bad)
    page.get_by_role("alert").wait_for()
    assert "carries a script" in page.get_by_role("alert").inner_text()
    assert page.locator("#puppets .tile:not(.drop)").count() == known
    page.complaints.clear()  # the browser's own note of the refused request


def test_take_off_and_bring_back(program):
    page = program.open()
    page.wait_for_load_state("networkidle")  # a still asked for now would not be found any more
    page.get_by_role("button", name="take off Pip", exact=True).click()
    page.get_by_text("Pip plays in").wait_for()
    page.get_by_role("button", name="take it off", exact=True).click()
    page.complaints.clear()  # the browser's own note of the question
    page.get_by_text("Pip was taken off").wait_for()
    assert page.get_by_role("link", name="Open the puppet Pip").count() == 0
    page.keyboard.press("Control+z")
    page.get_by_role("link", name="Open the puppet Pip").wait_for()


def test_a_new_scene_opens_on_the_floor(program):
    """A shot, named by itself, unless it is said to loop."""
    page = program.open()
    page.get_by_role("button", name="New scene").click()
    page.wait_for_url("**/floor/*")
    program.ready()
    assert "48 frames, 2.00 s" in page.locator("#card").inner_text()
    made = next(s for s in list_documents(program.workspace.store, "scene") if s.name == "Shot")
    assert not program.workspace.scene(made.id).loop
    page = program.open()
    page.get_by_label("name", exact=True).fill("Along the rows")
    page.get_by_label("plays", exact=True).select_option("loop")
    page.get_by_label("frames", exact=True).fill("32")
    page.get_by_role("button", name="New scene").click()
    page.wait_for_url("**/floor/*")
    program.ready()
    assert "32 frames, 1.33 s, loops" in page.locator("#card").inner_text()


def test_pictures_become_one_puppet_which_is_packed_and_opened_again(program, tmp_path):
    for name, box in (("2_near-hand", (60, 20, 80, 50)), ("1_body", (10, 10, 70, 90))):
        picture = Image.new("RGBA", (100, 100))
        picture.paste((150, 90, 40, 255), box)
        picture.save(tmp_path / f"{name}.png")
    page = program.open()
    page.locator("#art-file").set_input_files([tmp_path / "2_near-hand.png", tmp_path / "1_body.png"])
    page.locator(".arrival").wait_for()
    assert "2 parts" in page.locator(".arrival").text_content()
    page.get_by_role("link", name="Open on the Bench").click()
    program.until("window.gaitwire?.revision !== undefined")
    page.get_by_role("link", name="pack into a file").wait_for()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="pack into a file").click()
    file = tmp_path / waiting.value.suggested_filename
    waiting.value.save_as(file)
    assert file.name.endswith(".puppet.zip")

    page = program.open()
    page.locator("#art-file").set_input_files(file)
    page.locator(".arrival").wait_for()
    puppets = [program.workspace.puppet(e.id) for e in list_documents(program.workspace.store, "puppet")]
    first, again = [p for p in puppets if p.name.startswith("puppet")]
    assert [p.name for p in again.parts] == [p.name for p in first.parts] == ["body", "near hand"]
    assert [p.art_hash for p in again.parts] == [p.art_hash for p in first.parts]

    for name in ("2_near-hand", "1_body"):  # the artist's fix: the same layers, all of one size
        Image.new("RGBA", (40, 40), (20, 90, 40, 255)).save(tmp_path / f"{name}.png")
    program.open(f"/bench/{again.id}")
    page.get_by_label("Bring the art in again").set_input_files([tmp_path / "1_body.png", tmp_path / "2_near-hand.png"])
    program.settled()
    fixed = program.workspace.puppet(again.id)
    assert fixed.bones == again.bones
    assert {program.workspace.art(p.art_hash).box for p in fixed.parts} == {(0, 0, 40, 40)}


def test_the_art_comes_in_again_and_the_rig_stays(program, tmp_path):
    page = program.bench("Pip")
    before = program.workspace.puppet(program.id_of("puppet", "Pip"))
    came = [p for p in before.parts if p.came_as]  # its shadow was laid on the Bench
    layers = "".join(f'<rect id="{p.came_as}" x="20" y="60" width="150" height="120"/>' for p in came[:-1])
    file = tmp_path / "pip.svg"
    file.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200">{layers}</svg>')
    page.get_by_label("Bring the art in again").set_input_files(file)
    program.settled()
    after = program.workspace.puppet(before.id)
    assert after.bones == before.bones
    assert {p.id for p in after.parts} == {p.id for p in before.parts}
    assert after.part(came[0].id).art_hash != came[0].art_hash
    assert f"kept: {came[-1].name}" in page.locator("#remarks").text_content()


def test_a_folder_dropped_on_the_page_becomes_a_puppet(program, tmp_path):
    folder = tmp_path / "tall girl" / "head"
    folder.mkdir(parents=True)
    Image.new("RGBA", (60, 60), (150, 90, 40, 255)).save(folder.parent / "1_body.png")
    Image.new("RGBA", (60, 60), (190, 120, 90, 255)).save(folder / "2_face.png")
    page = program.open()
    wire = page.context.new_cdp_session(page)
    data = {"items": [], "files": [str(folder.parent)], "dragOperationsMask": 1}
    for kind in ("dragEnter", "dragOver", "drop"):
        wire.send("Input.dispatchDragEvent", {"type": kind, "x": 640, "y": 600, "data": data})
    page.locator(".arrival").wait_for()
    puppet = program.workspace.puppet(program.id_of("puppet", "tall girl"))
    assert [p.name for p in puppet.parts] == ["body", "face"]
    assert {b.name for b in puppet.bones} == {"head", "body", "face"}
