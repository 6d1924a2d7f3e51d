"""What SVG can say, feature by feature, against Chromium's picture of the same file.

Source: W3C, SVG 2 and CSS, as Chromium draws them; the little drawings are our own.
"""

import base64
import io

import numpy as np
import pytest
from PIL import Image

from gaitwire.formats.raster import draw_art
from gaitwire.formats.svg import read_svg
from outside.pictures import gap, screenshot, show_svg

SIZE = (200, 200)


def _picture():
    out = io.BytesIO()
    ramp = np.zeros((8, 12, 3), np.uint8)
    ramp[..., 0], ramp[..., 1] = np.arange(12) * 20, (np.arange(8) * 30)[:, None]
    Image.fromarray(ramp).resize((96, 64), Image.Resampling.NEAREST).save(out, "PNG")
    return "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()


FEATURES = {
    "nested transforms": '<g transform="translate(100 90) rotate(20)"><g transform="skewX(15) scale(1.4 .7)"><rect x="-40" y="-30" width="80" height="60" rx="12" fill="#b8503a" stroke="#333" stroke-width="6"/></g></g>',
    "curves, arcs and relative paths": '<path d="m20 100 c20-80 60-80 80 0s60 80 80 0 l0 40 a30 20 30 1 1 -60 10 q-30 40 -50 0 t-40 10z" fill="#8a9c63" stroke="#222" stroke-width="3"/>',
    "evenodd and nonzero": '<path fill-rule="evenodd" d="M20 20H180V180H20ZM60 60H140V140H60Z" fill="#c90"/><path d="M80 80H120V120H80ZM90 90H110V110H90Z" fill="#036"/>',
    "style sheets, attributes and inline": '<style>.a{fill:#b33} g > rect{stroke:#036;stroke-width:4} #x{fill:#383 !important}</style><g fill="#ccc"><rect class="a" x="10" y="10" width="60" height="60"/><rect id="x" style="fill:#000" x="90" y="10" width="60" height="60"/><rect style="fill:rgb(20 90 160 / 60%)" x="50" y="90" width="90" height="70"/></g>',
    "use and symbol": '<defs><g id="l"><path d="M0 0L40 10L20 40Z"/></g><symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="6" fill="#963"/></symbol></defs><use href="#l" x="20" y="20" fill="#369"/><use href="#l" transform="translate(100 30) rotate(50)" fill="#b50"/><use href="#s" x="60" y="100" width="80" height="60"/>',
    "linear gradients": '<defs><linearGradient id="a" x1="0" y1="0" x2="1" y2="1"><stop offset=".1" stop-color="#f4d35e"/><stop offset="60%" style="stop-color:#b8503a;stop-opacity:.5"/><stop offset="1" stop-color="#25756a"/></linearGradient><linearGradient id="b" href="#a" gradientUnits="userSpaceOnUse" x1="20" y1="120" x2="60" y2="120" spreadMethod="reflect" gradientTransform="rotate(20)"/></defs><rect x="10" y="10" width="180" height="80" fill="url(#a)"/><rect x="10" y="110" width="180" height="80" fill="url(#b)"/>',
    "radial gradients": '<defs><radialGradient id="a" fx=".3" fy=".3"><stop offset="0" stop-color="#fff"/><stop offset="1" stop-color="#8a3b5e"/></radialGradient><radialGradient id="b" gradientUnits="userSpaceOnUse" cx="100" cy="140" r="30" gradientTransform="translate(-40 20) scale(1.4 .8)" spreadMethod="repeat"><stop offset="0" stop-color="#cde"/><stop offset="1" stop-color="#135"/></radialGradient></defs><ellipse cx="100" cy="50" rx="90" ry="40" fill="url(#a)"/><rect x="10" y="100" width="180" height="90" fill="url(#b)"/>',
    "gradient on a stroke": '<defs><linearGradient id="a"><stop offset="0" stop-color="#b50"/><stop offset="1" stop-color="#05b"/></linearGradient></defs><circle cx="100" cy="100" r="60" fill="none" stroke="url(#a)" stroke-width="24"/>',
    "clip paths": '<defs><clipPath id="a"><circle cx="80" cy="80" r="50"/><rect x="100" y="100" width="70" height="60"/></clipPath><clipPath id="b" clipPathUnits="objectBoundingBox"><path d="M0 0L1 .5L0 1Z"/></clipPath></defs><g clip-path="url(#a)"><rect width="200" height="200" fill="#963"/><rect y="70" width="200" height="20" fill="#fff"/></g><rect x="120" y="10" width="70" height="70" fill="#036" clip-path="url(#b)"/>',
    "a mask of white shapes": '<defs><mask id="m"><circle cx="100" cy="100" r="60" fill="#fff"/></mask></defs><rect width="200" height="200" fill="#25756a" mask="url(#m)"/>',
    "opacity of groups and shapes": '<g opacity=".5"><rect x="20" y="20" width="100" height="100" fill="#b33"/><rect x="70" y="70" width="100" height="100" fill="#33b"/></g><circle cx="60" cy="150" r="35" opacity=".6" fill="#3a3" stroke="#000" stroke-width="14"/>',
    "strokes": '<g fill="none" stroke="#333" stroke-width="14"><path d="M20 40L60 20L100 40" stroke-linejoin="miter"/><path d="M20 90L60 70L100 90" stroke-linejoin="round" stroke-linecap="round"/><path d="M120 40L150 20L180 40" stroke-linejoin="bevel" stroke-linecap="square"/><path d="M20 140H180" stroke-dasharray="30 12 6" stroke-dashoffset="9" stroke-width="6"/><path d="M20 170L90 166L20 162" stroke-miterlimit="2" stroke-width="5"/></g>',
    "a stroke in a squeezed space": '<g transform="translate(20 20) scale(1.6 .5)"><circle cx="50" cy="150" r="40" fill="#fc9" stroke="#630" stroke-width="16" stroke-dasharray="20 8"/></g>',
    "stroke before fill": '<path d="M40 40L160 60L120 160L30 140Z" fill="#fc3" stroke="#222" stroke-width="30" stroke-linejoin="round" paint-order="stroke"/>',
    "polygons, lines and percentages": '<polygon points="100,10 190,80 150,190 50,190 10,80" fill="#b9b277"/><polyline points="10 10 60 60 110 10" fill="none" stroke="#000"/><line x1="10%" y1="90%" x2="90%" y2="70%" stroke="#a33" stroke-width="3%"/><rect x="25%" y="40%" width="50%" height="20%" rx="6"/>',
    "inner svg and its edge": '<svg x="30" y="40" width="120" height="90" viewBox="0 0 60 60" preserveAspectRatio="xMinYMax slice"><circle cx="30" cy="30" r="34" fill="#74a"/><rect width="60" height="60" fill="none" stroke="#000"/></svg>',
    "embedded pictures": f'<image x="20" y="20" width="120" height="80" href="{_picture()}"/><g transform="translate(60 120) rotate(-12)"><image width="120" height="60" preserveAspectRatio="xMidYMid slice" href="{_picture()}"/></g>',
    "current colour, inherited values, colours": '<g color="#b50" fill="currentColor"><rect x="10" y="10" width="50" height="50"/><g color="teal"><rect x="70" y="10" width="50" height="50"/><rect x="130" y="10" width="50" height="50" fill="hsl(200 60% 40%)"/></g></g><rect x="10" y="80" width="170" height="40" fill="rgb(80%,20%,10%)" stroke="inherit"/>',
    "what is hidden": '<rect width="90" height="90" fill="#36a"/><rect x="20" width="90" height="190" visibility="hidden"/><g display="none"><rect width="200" height="200"/></g><g visibility="hidden"><circle cx="140" cy="140" r="40" visibility="visible" fill="#b60"/></g>',
    "a view box that is fitted": None,
}


def wrapped(body):
    if body is None:
        return '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="200" viewBox="10 20 50 25" preserveAspectRatio="xMaxYMin meet"><rect x="10" y="20" width="50" height="25" fill="#ccb"/><circle cx="35" cy="32" r="10" fill="#933"/></svg>'
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="200" height="200" viewBox="0 0 200 200">{body}</svg>'


@pytest.mark.parametrize("name", FEATURES)
def test_it_looks_as_in_chromium(page, name):
    svg = wrapped(FEATURES[name])
    reading = read_svg(svg.encode())
    ours = draw_art(
        [p.art for p in reading.parts if not p.hidden],
        SIZE,
        (1, 0, 0, 1, 0, 0),
        lambda digest: reading.pictures[digest][1],
    )
    show_svg(page, svg, SIZE)
    mean, share = gap(ours, screenshot(page), 32)
    print(f"{name}: mean {mean:.3f}/255, off by more than 32: {share:.3%}")
    assert mean <= 1.0 and share <= 0.01
    assert reading.notes == ()
