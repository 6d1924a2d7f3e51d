"""GIF and PNG sequence, decoded again by Pillow: how many frames, how long, which pixels."""

import io
import zipfile
from fractions import Fraction

import numpy as np
import pytest
from PIL import Image

from gaitwire.formats.exporting import ExportSettings
from gaitwire.formats.exports import EXPORTS, draw_frames
from gaitwire.formats.film import delays
from gaitwire.formats.raster import Raster
from gaitwire.services.output.sendoff import find_scene, prepare


def made(workspace, kind, **settings):
    production = prepare(workspace, find_scene(workspace, "Pip hops"), ExportSettings(scale=0.25, **settings))
    pieces: dict[int, bytes] = {}
    draw_frames(production, EXPORTS[kind], range(len(production.frames)), pieces.__setitem__)
    data = EXPORTS[kind].assemble(production, [pieces[i] for i in range(len(pieces))])
    raster = Raster(production.arts, production.size, view=(0.25, 0, 0, 0.25, 0, 0), background=production.background)
    return data, [raster.draw(production.frames, i) for i in range(len(production.frames))]


def test_a_png_sequence_holds_the_very_pixels_with_their_alpha(orchard):
    data, wanted = made(orchard, "png", background=False, first=3, last=9)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.namelist() == [f"Pip_hops_{n:04d}.png" for n in range(3, 10)]
        for name, pixels in zip(archive.namelist(), wanted, strict=True):
            with Image.open(io.BytesIO(archive.read(name))) as png:
                assert np.array_equal(np.asarray(png), pixels)
    assert (wanted[0][..., 3] == 0).any() and (wanted[0][..., 3] == 255).any()


@pytest.mark.parametrize("background", [True, False])
def test_a_gif_loops_keeps_time_and_looks_alike(orchard, background):
    data, wanted = made(orchard, "gif", background=background)
    with Image.open(io.BytesIO(data)) as gif:
        assert (gif.n_frames, gif.size, gif.info["loop"]) == (24, (320, 180), 0)
        total = 0
        for index, pixels in enumerate(wanted):
            gif.seek(index)
            total += gif.info["duration"]
            frame = np.asarray(gif.convert("RGBA"), int)
            solid = pixels[..., 3] >= 128
            assert np.array_equal(frame[..., 3] > 0, solid)
            apart = np.abs(frame[..., :3] - pixels[..., :3]).max(axis=-1)[solid]
            assert apart.mean() < 6  # 256 colours
    assert total == 1000  # a second, to the hundredth


def test_a_gif_plays_as_often_as_it_is_told(orchard):
    for loops, stated in ((1, None), (2, 1), (5, 4)):
        data, _ = made(orchard, "gif", loops=loops)
        with Image.open(io.BytesIO(data)) as gif:
            assert gif.info.get("loop") == stated


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30000, 1001), Fraction(12), Fraction(25, 2)])
def test_delays_add_up_without_drift(rate):
    found = np.cumsum(delays(200, rate))
    exact = np.arange(1, 201) * 100 / float(rate)
    assert np.abs(found - exact).max() <= 0.5 + 1e-9
