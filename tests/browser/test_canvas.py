"""The stage's canvas draws the same picture as the raster that exports use."""

import base64
import io

import numpy as np
from PIL import Image

from gaitwire.core.evaluate import evaluate
from gaitwire.formats.raster import Raster
from gaitwire.services.art_in import import_art
from gaitwire.services.stills import arts_of, picture_source
from outside.pictures import gap

SVG = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 300" width="400" height="300">
<defs><linearGradient id="a" x1="0" y1="0" x2="1" y2="1"><stop offset="0" stop-color="#f4d35e"/><stop offset="1" stop-color="#25756a" stop-opacity=".4"/></linearGradient>
<radialGradient id="b" fx=".3" fy=".3" gradientTransform="rotate(20 .5 .5) scale(1 .7)"><stop offset="0" stop-color="#fff"/><stop offset="1" stop-color="#8a3b5e"/></radialGradient>
<clipPath id="c"><circle cx="300" cy="80" r="50"/><rect x="300" y="80" width="70" height="60"/></clipPath></defs>
<g id="wash"><rect x="10" y="10" width="180" height="110" fill="url(#a)"/></g>
<g id="egg"><ellipse cx="100" cy="200" rx="80" ry="60" fill="url(#b)" stroke="#222" stroke-width="5"/></g>
<g id="cut" clip-path="url(#c)"><rect x="200" width="200" height="200" fill="#963"/><rect x="200" y="70" width="200" height="20" fill="#fff"/></g>
<g id="ghost" opacity=".5"><rect x="200" y="160" width="80" height="80" fill="#b33"/><rect x="240" y="200" width="80" height="80" fill="#33b" stroke="#000" stroke-width="8"/></g>
<g id="ring"><path fill-rule="evenodd" fill="#c90" d="M330 180H390V240H330ZM345 195H375V225H345Z"/></g>
<g id="squeezed" transform="translate(150 120) scale(1.6 .5)"><circle cx="30" cy="60" r="26" fill="none" stroke="#630" stroke-width="12" stroke-dasharray="20 8"/></g>
</svg>"""


def test_the_canvas_draws_what_the_raster_draws(program):
    puppet = import_art(program.workspace, SVG.encode(), "all.svg", "All kinds")
    page = program.bench("All kinds")
    url = page.evaluate(
        """async () => {
          const { stage } = window.gaitwire;
          stage.scenery = {};
          stage.redraw();
          await new Promise((done) => setTimeout(done, 200));
          return stage.snapshot();
        }"""
    )
    scale, x, y = page.evaluate("(({ scale, x, y }) => [scale, x, y])(window.gaitwire.stage.view)")
    with Image.open(io.BytesIO(base64.b64decode(url.partition(",")[2]))) as picture:
        theirs = np.asarray(picture.convert("RGBA"), np.int16)
    compiled = program.workspace.compiled_puppet(puppet.puppet_id)
    size = (theirs.shape[1], theirs.shape[0])
    raster = Raster(
        arts_of(program.workspace, compiled), size, picture_source(program.workspace), (scale, 0, 0, scale, x, y)
    )
    ours = raster.draw(evaluate(compiled, np.zeros(1)), 0)
    mean, share = gap(ours, theirs, 32)
    print(f"mean {mean:.3f}/255, off by more than 32: {share:.3%}")
    assert mean <= 1.0 and share <= 0.005
