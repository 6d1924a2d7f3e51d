"""Sinks: GIF and PNG sequence, decoded again by Pillow; how often a scene is evaluated for a file."""

import io
import zipfile
from fractions import Fraction

import numpy as np
import pytest
from PIL import Image

from gaitwire.core.evaluate import evaluate
from gaitwire.formats.sinks import SINKS, drawing, fill
from gaitwire.formats.sinks.gif import delays
from gaitwire.services.output.sendoff import find_scene, prepare, settings_from


@pytest.fixture
def made(orchard, tmp_path):
    """A file of some frames of one scene, and the pictures that it was made of."""

    def make(kind, scene="Pip hops", **settings):
        chosen = settings_from(SINKS[kind], scale=0.25, **settings)
        production = prepare(orchard, find_scene(orchard, scene), chosen)
        target = tmp_path / "made"
        places = list(fill(SINKS[kind].sink(production, target)))
        assert places == list(range(len(production)))
        draw = drawing(production)
        return target.read_bytes(), [draw(i).copy() for i in range(len(production))]

    return make


def test_a_png_sequence_holds_the_very_pixels_with_their_alpha(made):
    data, wanted = made("png", background=False, first=3, last=9)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.namelist() == [f"Pip_hops_{n:04d}.png" for n in range(3, 10)]
        for name, pixels in zip(archive.namelist(), wanted, strict=True):
            with Image.open(io.BytesIO(archive.read(name))) as png:
                assert np.array_equal(np.asarray(png), pixels)
    assert (wanted[0][..., 3] == 0).any() and (wanted[0][..., 3] == 255).any()


@pytest.mark.parametrize("background", [True, False])
def test_a_gif_loops_keeps_time_and_looks_alike(made, background):
    data, wanted = made("gif", background=background)
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


def test_a_gif_plays_as_often_as_it_is_told(made):
    for loops, stated in ((1, None), (2, 1), (5, 4)):
        data, _ = made("gif", loops=loops)
        with Image.open(io.BytesIO(data)) as gif:
            assert gif.info.get("loop") == stated


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30000, 1001), Fraction(12), Fraction(25, 2)])
def test_delays_add_up_without_drift(rate):
    found = np.cumsum(delays(200, rate))
    exact = np.arange(1, 201) * 100 / float(rate)
    assert np.abs(found - exact).max() <= 0.5 + 1e-9


def test_a_gif_shows_a_frame_that_is_as_the_one_before_for_longer(orchard, tmp_path):
    production = prepare(orchard, find_scene(orchard, "Pip hops"), settings_from(SINKS["gif"], scale=0.05, last=5))
    width, height = production.size
    plain = np.full((height, width, 4), 255, np.uint8)
    dotted = plain.copy()
    dotted[2:5, 7:9] = (200, 30, 30, 255)
    pictures = [plain, plain, plain, dotted, dotted, plain]
    sink = SINKS["gif"].sink(production, tmp_path / "a.gif")
    sink.open(pictures.__getitem__)
    for picture in pictures:
        sink.add(sink.piece(picture))
    sink.close()
    with Image.open(tmp_path / "a.gif") as gif:
        lasts, boxes = [], []
        for n in range(gif.n_frames):
            gif.seek(n)
            lasts.append(gif.info["duration"])
            boxes.append(gif.tile[0].extents)
            assert np.array_equal(np.asarray(gif.convert("RGB")), (plain, dotted, plain)[n][..., :3])
    assert lasts == [120, 90, 40]  # 4.17 hundredths each, and no error adds up
    assert boxes == [(0, 0, width, height), (7, 2, 9, 5), (7, 2, 9, 5)]  # no more than what changes is in it


def test_an_animated_svg_is_evaluated_once_with_what_is_told_beside_it(orchard, tmp_path, monkeypatch):
    asked = []

    def counted(compiled, frames, *args, **options):
        asked.append(len(frames))
        return evaluate(compiled, frames, *args, **options)

    monkeypatch.setattr("gaitwire.formats.exporting.evaluate", counted)
    svg = SINKS["svg"]
    production = prepare(orchard, find_scene(orchard, "Pip hops"), settings_from(svg))
    sink = svg.sink(production, tmp_path / "a.svg")
    assert list(fill(sink)) == []
    said = sink.aside()
    assert asked == [25]
    wider = prepare(orchard, find_scene(orchard, "Pip hops"), settings_from(svg, sampled=True))
    other = svg.sink(wider, tmp_path / "b.svg")
    list(fill(other))
    assert said == f"every frame written out it would be {(tmp_path / 'b.svg').stat().st_size / 1024:.1f} kB"
    assert other.aside() == ""
