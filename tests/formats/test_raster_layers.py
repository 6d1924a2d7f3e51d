"""OpenRaster and pictures as layers: order, groups, offsets, trimming; and files that mean harm."""

import io
import struct
import zipfile

import numpy as np
import pytest
from PIL import Image

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.formats.art_readers import read_art
from gaitwire.formats.picture_files import layer_name, read_pictures
from gaitwire.formats.reading import LIMITS


def png(size, box=None, color=(200, 90, 40, 255)):
    """A transparent picture with a filled box."""
    picture = Image.new("RGBA", size)
    if box:
        picture.paste(color, box)
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()


def packed(files, mimetype=b"image/openraster"):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        if mimetype:
            archive.writestr("mimetype", mimetype, zipfile.ZIP_STORED)
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


STACK = """<?xml version="1.0" encoding="UTF-8"?>
<image version="0.0.6" w="200" h="300"><stack>
<layer name="scribble" src="data/top.png" x="10" y="-4" visibility="hidden"/>
<stack name="near arm" opacity="0.5"><layer name="near hand" src="data/hand.png" x="100" y="50" opacity="0.8"/>
<layer name="near arm" src="data/hand.png" x="20" y="30" composite-op="svg:multiply"/></stack>
<layer name="body" src="data/body.png"/></stack></image>"""
FILES = {
    "stack.xml": STACK, "data/top.png": png((20, 20), (0, 0, 20, 20)), "data/hand.png": png((40, 40), (10, 5, 30, 25)),
    "data/body.png": png((200, 300), (50, 60, 150, 290)),
}  # fmt: skip


def test_openraster_layers_keep_their_order_groups_places_and_visibility():
    found = read_art(packed(FILES), "girl")
    assert (found.width, found.height) == (200, 300)
    assert [p.name for p in found.parts] == ["body", "near arm", "near hand", "scribble"]
    body, arm, hand, scribble = found.parts
    assert body.art.box == (50, 60, 150, 290)
    assert hand.art.box == (110, 55, 130, 75)
    assert scribble.art.box == (10, -4, 30, 16)
    assert [p.hidden for p in found.parts] == [False, False, False, True]
    assert [p.folder for p in found.parts] == [None, 0, 0, None]
    assert found.folders[0].name == "near arm"
    assert hand.art.nodes[0].opacity == pytest.approx(0.4)
    assert arm.art.nodes[0].opacity == pytest.approx(0.5)
    assert any("Blend modes" in note for note in found.notes)


def test_trimming_keeps_every_pixel_that_shows():
    random = np.random.default_rng(3)
    pixels = np.zeros((60, 80, 4), np.uint8)
    pixels[20:33, 41:70] = random.integers(1, 255, (13, 29, 4))
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    found = read_art(out.getvalue(), "cloud")
    (part,) = found.parts
    assert part.art.box == (41, 20, 70, 33)
    ((_, data),) = found.pictures.values()
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(data))), pixels[20:33, 41:70])


def test_a_picture_without_borders_is_kept_as_it_came():
    data = png((30, 20), (0, 0, 30, 20))
    found = read_art(data, "box")
    assert list(found.pictures.values()) == [("image/png", data)]
    webp = io.BytesIO()
    Image.new("RGB", (12, 9), "red").save(webp, "WEBP")
    assert read_art(webp.getvalue(), "box").parts[0].art.box == (0, 0, 12, 9)


def test_a_zip_of_pictures_is_layered_by_name():
    page, box = (100, 120), (10, 20, 40, 60)
    files = {f"pip/{n}.png": png(page, box) for n in ("10_leaf", "2_stem", "1_apple", "face/3_left-eye")}
    found = read_art(packed(files | {"pip/notes.txt": b"x", "__MACOSX/._pip": b"x", "pip/.hid.png": b"x"}, b""), "pip")
    assert [p.name for p in found.parts] == ["apple", "stem", "leaf", "left eye"]
    assert [p.folder for p in found.parts] == [None, None, None, 0]
    assert found.folders[0].name == "face"
    assert {p.art.box for p in found.parts} == {(10, 20, 40, 60)}
    assert (found.width, found.height) == page


def test_pictures_of_several_sizes_do_not_lie_over_each_other():
    found = read_pictures({"a.png": png((30, 10), (0, 0, 30, 10)), "b.webp": png((20, 40), (5, 0, 20, 40))}, "two")
    one, two = (p.art.box for p in found.parts)
    assert one[2] < two[0]
    assert found.height == 40
    assert any("side by side" in note for note in found.notes)


@pytest.mark.parametrize(
    ("path", "name"),
    [("03_near-hand.png", "near hand"), ("hat.webp", "hat"), ("12.png", "12"), ("a/b/1. tail.png", "tail")],
)
def test_layers_are_called_after_their_files(path, name):
    assert layer_name(path) == name


def bomb():
    """A PNG header that says it is 60,000 pixels square."""
    data = bytearray(png((8, 8), (0, 0, 8, 8)))
    data[16:24] = struct.pack(">II", 60_000, 60_000)
    return bytes(data)


def twice():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive, pytest.warns(UserWarning):
        archive.writestr("a.png", png((4, 4), (0, 0, 4, 4)))
        archive.writestr("a.png", png((4, 4), (0, 0, 4, 4)))
    return out.getvalue()


def flipped():
    data = bytearray(packed(FILES))
    at = data.index(b"stack.xml") + 20
    data[at : at + 8] = bytes(b ^ 0xFF for b in data[at : at + 8])
    return bytes(data)


def swollen():
    """Zeros that pack a thousandfold."""
    return packed({"stack.xml": STACK, "data/top.png": bytes(LIMITS.unpacked + 1)})


HOSTILE = {
    "a path that leads out": (packed({**FILES, "../../evil.png": b"x"}), "leads out"),
    "a drive": (packed({**FILES, "C:/evil.png": b"x"}), "leads out"),
    "a backslash": (packed({**FILES, "a\\..\\b.png": b"x"}), "leads out"),
    "entities": (packed({**FILES, "stack.xml": '<!DOCTYPE x [<!ENTITY a "b">]><image>&a;</image>'}), "entities"),
    "no list": (packed({**FILES, "stack.xml": "<image w='5' h='5'>"}), "damaged"),
    "another list": (packed({**FILES, "stack.xml": "<picture/>"}), "damaged"),
    "no size": (packed({**FILES, "stack.xml": STACK.replace('w="200"', 'w="1e9"')}), "damaged"),
    "nothing shown": (packed({**FILES, "stack.xml": '<image w="9" h="9"><stack/></image>'}), "nothing to see"),
    "cut short": (packed(FILES)[:-40], "damaged"),
    "flipped bytes": (flipped(), "damaged"),
    "an empty picture": (png((30, 30)), "nothing"),
    "no picture": (b"\x89PNG\r\n\x1a\nrubbish", "no PNG"),
    "a zip of nothing": (packed({"readme.txt": b"x"}, b""), "no PNG"),
    "groups without end": (
        packed({**FILES, "stack.xml": '<image w="9" h="9">' + "<stack>" * 200 + "</stack>" * 200 + "</image>"}), "too deep",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_file_is_refused_with_a_reason(name):
    data, says = HOSTILE[name]
    with pytest.raises(UnreadableArtError, match=says):
        read_art(data, "x")


def test_bombs_and_doubles_are_refused():
    with pytest.raises((TooLargeError, UnreadableArtError)):
        read_art(bomb(), "x")
    with pytest.raises(TooLargeError, match="unpacks"):
        read_art(swollen(), "x")
    with pytest.raises(UnreadableArtError, match="twice"):
        read_art(twice(), "x")


def test_paths_only_name_folders_and_layers():
    page = png((9, 9), (0, 0, 9, 9))
    found = read_pictures({"/a/1_x.png": page, "b/2_y.png": page, "../c/3_z.png": page}, "odd")
    assert [p.name for p in found.parts] == ["x", "y"]
    assert [f.name for f in found.folders] == ["a", "b"]


def test_fifty_full_pages_of_layers_are_no_bomb():
    page = png((4000, 4000), (1000, 900, 1400, 1300))
    found = read_pictures({f"{n}.png": page for n in range(6)}, "large")
    assert {p.art.box for p in found.parts} == {(1000, 900, 1400, 1300)}
    assert LIMITS.layer_pixels / 4 > 6 * 4000 * 4000
