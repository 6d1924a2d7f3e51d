"""The stage's canvas draws the same picture as the raster that exports use."""

import base64
import io

import numpy as np
import pytest
from PIL import Image

from browser.conftest import painted
from gaitwire.core.evaluate import evaluate
from gaitwire.formats.raster import Raster
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values
from gaitwire.services.session.pictures import arts_of, picture_source
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


def snapshot(page):
    """What the canvas shows, without its scenery: (height, width, 4)."""
    url = page.evaluate(
        """async () => {
          const { stage } = window.gaitwire;
          stage.scenery = {};
          stage.redraw();
          await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
          return stage.snapshot();
        }"""
    )
    with Image.open(io.BytesIO(base64.b64decode(url.partition(",")[2]))) as picture:
        return np.asarray(picture.convert("RGBA"), np.int16)


def drawn(page, workspace, compiled, size, frame=0.0):
    """The same by our raster, in the page's view."""
    scale, x, y = page.evaluate("(({ scale, x, y }) => [scale, x, y])(window.gaitwire.stage.view)")
    raster = Raster(
        arts_of(workspace, compiled), size, picture_source(workspace), (scale, 0, 0, scale, x, y),
        meshes=compiled.meshes,
    )  # fmt: skip
    return raster.draw(evaluate(compiled, np.array([frame])), 0)


def test_the_canvas_draws_what_the_raster_draws(program):
    puppet = import_art(program.workspace, SVG.encode(), "all.svg", "All kinds")
    page = program.bench("All kinds")
    theirs = snapshot(page)
    compiled = program.workspace.compiled_puppet(puppet.puppet_id)
    ours = drawn(page, program.workspace, compiled, (theirs.shape[1], theirs.shape[0]))
    mean, share = gap(ours, theirs, 32)
    print(f"mean {mean:.3f}/255, off by more than 32: {share:.3%}")
    assert mean <= 1.0 and share <= 0.005


@pytest.mark.parametrize(("scene", "frame"), [("Gander looks about", 44), ("Tamsin waits", 74)])
def test_soft_parts_are_drawn_alike_on_the_stage_and_in_exports(program, scene, frame):
    page = program.floor(scene)
    page.evaluate(f"window.gaitwire.player.seek({frame})")
    program.settled()
    theirs = snapshot(page)
    compiled = program.workspace.compiled(program.id_of("scene", scene))
    ours = drawn(page, program.workspace, compiled, (theirs.shape[1], theirs.shape[0]), frame)
    mean, share = gap(ours, theirs, 48)
    print(f"{scene}: mean {mean:.3f}/255, off by more than 48: {share:.3%}")
    assert mean <= 1.0 and share <= 0.006


def plank(workspace):
    """A plain picture on three pins, and a scene in which it is bent a hundred ways."""
    out = io.BytesIO()
    Image.new("RGBA", (400, 90), (180, 90, 40, 255)).save(out, "PNG")
    made = import_art(workspace, out.getvalue(), "plank.png", "Plank").puppet_id
    puppet = workspace.puppet(made)
    soft = Softening(workspace, made)
    soft.soften([puppet.parts[0].id])
    pins = [soft.place_pin(puppet.parts[0].id, "lead", x, 45)[0] for x in (30, 200, 370)]
    floor = Floor(workspace, make_scene(workspace, "Bent", frames=101, width=640, height=400, ground=300.0))
    instance = add_puppet(floor, made, x=320.0, y=260.0, scale=1.0)
    random = np.random.default_rng(6)
    for frame in range(1, 100):
        x, y = random.uniform(-60, 60, 2)
        set_values(floor, frame, {(instance, pins[1], "shift_y"): y, (instance, pins[2], "shift_x"): x})
    for frame in (0, 100):
        set_values(floor, frame, {(instance, pins[1], "shift_y"): 55.0, (instance, pins[2], "shift_x"): -30.0})
    return floor.scene_id


def interior(pixels):
    """Pixels well within the silhouette."""
    inside = pixels[..., 3] > 250
    for _ in range(4):
        inside = (
            inside & np.roll(inside, 1, 0) & np.roll(inside, -1, 0) & np.roll(inside, 1, 1) & np.roll(inside, -1, 1)
        )
    return inside


def test_a_bent_picture_shows_no_seam_and_is_as_sharp_after_a_hundred_poses(program):
    scene = plank(program.workspace)
    page = program.floor("Bent")
    program.settled()
    first = snapshot(page)
    compiled = program.workspace.compiled(scene)
    ours = drawn(page, program.workspace, compiled, (first.shape[1], first.shape[0]))
    for pixels in (first, ours):
        inside = interior(pixels)
        assert inside.sum() > 15_000
        apart = np.abs(pixels[inside].astype(int) - (180, 90, 40, 255)).max(axis=1)
        assert apart.max() <= 2  # a seam would let what is behind shine through
        edge = (pixels[..., 3] > 40) & (pixels[..., 3] < 215)
        assert edge.sum() > 300  # a smooth outline has pixels in between
    for frame in range(1, 101):
        page.evaluate(f"window.gaitwire.player.seek({frame})")
        painted(page)
    assert np.array_equal(snapshot(page), first)  # frame 100 holds the very pose of frame 0
