"""What the SVG reader makes of a drawing: names, parts, places, paints, and what it says was lost."""

import base64
import io

import numpy as np
import pytest
from PIL import Image

from gaitwire.core.puppet.art import Gradient, Group, Picture
from gaitwire.formats.raster import draw_art
from gaitwire.formats.svg import read_svg

INK = 'xmlns:draw="https://example.org/draw"'
LINK = 'xmlns:xlink="http://www.w3.org/1999/xlink"'


def read(body, page='viewBox="0 0 100 100"'):
    return read_svg(f'<svg xmlns="http://www.w3.org/2000/svg" {INK} {LINK} {page}>{body}</svg>'.encode())


def pixel(reading, x, y):
    """Colour of one pixel of the whole drawing, as (r, g, b, a)."""
    size = round(reading.width), round(reading.height)
    return tuple(
        int(v) for v in draw_art([p.art for p in reading.parts if not p.hidden], size, (1, 0, 0, 1, 0, 0))[y, x]
    )


RECT = '<rect x="10" y="20" width="30" height="40" {}/>'


def test_named_groups_become_parts_in_drawing_order():
    found = read(
        '<g id="far_arm"><path d="M0 0H10V10Z"/></g>'
        '<g draw:label="Body"><circle cx="50" cy="50" r="9"/><circle cx="60" cy="50" r="9"/></g>'
        '<g id="g4711"><title>near arm</title><path d="M0 0H10V10Z"/></g>'
    )
    assert [p.name for p in found.parts] == ["far arm", "Body", "near arm"]
    assert found.folders == ()


def test_groups_of_groups_become_folders():
    found = read(
        '<g id="arm"><g id="upper"><path d="M0 0H9V9Z"/></g><path d="M5 5H9V9Z"/><g id="hand"><path d="M0 0H9V9Z"/></g></g>'
        '<path id="path12" d="M0 0H9V9Z"/>'
    )
    assert [(p.name, p.folder) for p in found.parts] == [("upper", 0), ("arm", 0), ("hand", 0), ("path", None)]
    assert found.folders[0].name == "arm"


def test_a_faded_group_stays_one_part_so_that_it_looks_the_same():
    found = read(
        '<g id="ghost" opacity=".5"><g id="a"><path d="M0 0H9V9Z"/></g><g id="b"><path d="M0 0H9V9Z"/></g></g>'
    )
    assert [p.name for p in found.parts] == ["ghost"]
    assert isinstance(found.parts[0].art.nodes[0], Group)


def test_hidden_layers_come_in_hidden():
    found = read('<g id="smile" style="display:none"><path d="M0 0H9V9Z"/></g><g id="frown"><path d="M0 0H9V9Z"/></g>')
    assert [(p.name, p.hidden) for p in found.parts] == [("smile", True), ("frown", False)]


def test_equal_names_are_told_apart():
    found = read(
        '<g id="a" draw:label="leaf"><path d="M0 0H9V9Z"/></g><g id="b" draw:label="leaf"><path d="M0 0H9V9Z"/></g>'
    )
    assert [p.name for p in found.parts] == ["leaf", "leaf 2"]


@pytest.mark.parametrize(
    ("page", "size"),
    [
        ('viewBox="0 0 50 20"', (50, 20)),
        ('width="10cm" height="5cm"', (377.9528, 188.9764)),
        ('viewBox="0 0 50 20" width="100"', (100, 40)),
        ('viewBox="0 0 50 20" width="100%" height="100%"', (50, 20)),
    ],
)
def test_the_page_has_a_size_in_pixels(page, size):
    found = read(RECT.format(""), page)
    assert (found.width, found.height) == pytest.approx(size, abs=1e-3)


@pytest.mark.parametrize(
    "style",
    [
        'fill="#c04020"',
        'style="fill:#c04020"',
        'class="red"',
        'fill="rgb(192, 64, 32)"',
        'fill="blue" style="fill: hsl(12 71.4% 43.9%)"',
        'color="#c04020" fill="currentColor"',
    ],
)
def test_a_colour_is_found_wherever_it_is_said(style):
    found = read(f"<style>.red {{ fill: #c04020 }} rect {{ fill: lime }} .red:hover {{ fill: blue }}</style>{RECT.format(style)}"
                 if "class" in style else RECT.format(style))  # fmt: skip
    assert pixel(found, 20, 30) == pytest.approx((192, 64, 32, 255), abs=1)


def test_transforms_use_and_symbols_place_things():
    found = read(
        '<defs><rect id="r" width="10" height="10" fill="red"/><symbol id="s" viewBox="0 0 2 2"><rect width="2" height="2" fill="lime"/></symbol></defs>'
        '<g transform="translate(20 0) scale(2)"><use href="#r" x="5"/></g>'
        '<use xlink:href="#s" x="60" y="60" width="20" height="20"/>'
    )
    assert pixel(found, 31, 1)[:3] == (255, 0, 0) and pixel(found, 49, 19)[3] == 255
    assert pixel(found, 28, 1)[3] == 0
    assert pixel(found, 70, 70)[:3] == (0, 255, 0) and pixel(found, 82, 82)[3] == 0


def test_gradients_run_over_the_shape_and_inherit_their_stops():
    found = read(
        '<defs><linearGradient id="base"><stop stop-color="#000"/><stop offset="1" stop-color="#fff"/></linearGradient>'
        '<linearGradient id="down" href="#base" x2="0" y2="1"/></defs>' + RECT.format('fill="url(#down)"')
    )
    assert isinstance(found.parts[0].art.nodes[0].fill, Gradient)
    shades = [pixel(found, 25, y)[0] for y in (22, 40, 58)]
    assert shades == pytest.approx([255 * 2.5 / 40, 255 * 20.5 / 40, 255 * 38.5 / 40], abs=2)


def test_clips_and_white_masks_cut():
    found = read(
        '<clipPath id="c"><circle cx="30" cy="30" r="10"/></clipPath>'
        '<mask id="m"><rect x="60" y="60" width="10" height="10" fill="white"/></mask>'
        '<rect width="100" height="50" fill="red" clip-path="url(#c)"/>'
        '<rect y="50" width="100" height="50" fill="blue" mask="url(#m)"/>'
    )
    assert pixel(found, 30, 30)[3] == 255 and pixel(found, 45, 30)[3] == 0
    assert pixel(found, 65, 65)[3] == 255 and pixel(found, 75, 65)[3] == 0


def test_evenodd_opacity_and_stroke_before_fill():
    found = read('<path d="M0 0H60V60H0Z M20 20H40V40H20Z" fill-rule="evenodd" fill="red" opacity=".5"/>')
    assert pixel(found, 30, 30)[3] == 0
    assert pixel(found, 10, 10)[3] == pytest.approx(128, abs=1)
    first = read(RECT.format('fill="red" stroke="blue" stroke-width="8" paint-order="stroke"'))
    assert pixel(first, 12, 40)[:3] == (255, 0, 0) and pixel(first, 8, 40)[:3] == (0, 0, 255)


def test_a_squeezed_stroke_is_squeezed():
    found = read(
        '<g transform="scale(4 1)"><path d="M5 10V90 M5 50H20" stroke="black" stroke-width="2" fill="none"/></g>'
    )
    assert pixel(found, 17, 30)[3] == 255  # 8 px wide across,
    assert pixel(found, 40, 52)[3] == 0  # 2 px wide down


def test_an_embedded_picture_is_kept_as_it_came():
    out = io.BytesIO()
    Image.fromarray(np.full((4, 4, 4), (10, 200, 30, 255), np.uint8), "RGBA").save(out, "PNG")
    url = "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()
    found = read(f'<image href="{url}" x="20" y="20" width="40" height="20"/>')
    picture = found.parts[0].art.nodes[0]
    assert isinstance(picture, Picture)
    assert found.pictures[picture.hash] == ("image/png", out.getvalue())
    assert picture.matrix == pytest.approx((5, 0, 0, 5, 30, 20))  # fitted whole, in the middle


@pytest.mark.parametrize(
    ("body", "remark"),
    [
        ("<text>hello</text>", "Text was left out"),
        ('<rect width="9" height="9" filter="url(#f)"/>', "filter"),
        ('<rect width="9" height="9" fill="url(#p)"/><pattern id="p"/>', "pattern"),
        ('<rect width="9" height="9" style="mix-blend-mode:multiply"/>', "blend"),
        ('<use href="#nowhere"/>', "not in the file"),
        ("<foreignObject/>", "web page"),
        ('<path d="M0 0H9V9Z" marker-end="url(#m)"/>', "arrow"),
        ('<rect width="9" height="9"/><animate/>', "Animation"),
        (
            '<mask id="m"><rect width="9" height="9" fill="#888"/></mask><rect width="9" height="9" mask="url(#m)"/>',
            "mask",
        ),
        ('<rect width="9" height="9" fill="octarine"/>', "octarine"),
        ("<style>@media print { rect { fill: red } }</style>", "@media"),
    ],
)
def test_what_is_not_kept_is_said(body, remark):
    found = read(RECT.format("") + body)
    assert any(remark in note for note in found.notes), found.notes
