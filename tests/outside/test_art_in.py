"""Art that nobody here drew: the imported puppet at rest against Chromium's picture of the original.

Source: OpenMoji 17 (npm package openmoji, CC BY-SA 4.0), its layered files; people, animals, objects.
"""

import hashlib
from pathlib import Path

import numpy as np
import pytest

from gaitwire.core.evaluate import evaluate
from gaitwire.formats.raster import Raster
from gaitwire.formats.svg import read_svg
from gaitwire.services.library.art_in import import_art
from gaitwire.services.session.pictures import arts_of, picture_source
from outside.pictures import gap, screenshot, show_svg

SOURCE = Path(__file__).parents[1] / "node_modules" / "openmoji" / "src"
GROUPS = ("people-body", "animals-nature", "objects", "activities", "food-drink", "travel-places")
SIZE = 288
MEAN, OFF, SHARE = 1.0, 32, 0.01
"""Bounds of one picture: mean difference in 1/255; share of pixels that are off by more than OFF."""


def chosen(each):
    """Some files of every group, picked by a hash of their names: no hand's choice."""
    for group in GROUPS:
        files = sorted(SOURCE.glob(f"{group}/**/*.svg"), key=lambda f: hashlib.sha256(f.name.encode()).hexdigest())
        yield from files[:each]


def test_puppets_at_rest_look_like_their_sources(page, workspace):
    rows = []
    for file in chosen(7):
        data = file.read_bytes()
        puppet = workspace.puppet(import_art(workspace, data, file.name).puppet_id)
        compiled = workspace.compiled_puppet(puppet.id)
        k = SIZE / puppet.width
        raster = Raster(arts_of(workspace, compiled), (SIZE, SIZE), picture_source(workspace), (k, 0, 0, k, 0, 0))
        ours = raster.draw(evaluate(compiled, np.zeros(1)), 0)
        show_svg(page, data.decode(), (SIZE, SIZE))
        rows.append((*gap(ours, screenshot(page), OFF), file.relative_to(SOURCE), len(puppet.parts)))
    means, shares = np.array([r[:2] for r in rows]).T
    print(f"\n{len(rows)} files: mean {means.mean():.3f}/255, worst {means.max():.3f}; "
          f"off by more than {OFF}: mean {shares.mean():.3%}, worst {shares.max():.3%}; parts {sum(r[3] for r in rows) / len(rows):.1f}")  # fmt: skip
    for mean, share, name, _ in sorted(rows, key=lambda r: -r[0])[:5]:
        print(f"  {name}: {mean:.3f}, {share:.3%}")
    assert len(rows) >= 40
    assert not [r for r in rows if r[0] > MEAN or r[1] > SHARE]


@pytest.mark.parametrize("group", GROUPS)
def test_layers_keep_their_names_and_order(group):
    """Every part is named, no name twice, and what is lost is said."""
    for file in sorted(SOURCE.glob(f"{group}/**/*.svg"))[:8]:
        reading = read_svg(file.read_bytes(), file.stem)
        names = [p.name for p in reading.parts]
        assert names and all(names) and len(set(map(str.lower, names))) == len(names)
        assert all(note.strip().endswith((".", ")")) for note in reading.notes)
