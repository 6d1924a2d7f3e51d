"""Parts taken apart and joined: the picture stays, order and bones are as one would expect."""

import numpy as np
import pytest

from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.core.evaluate import evaluate
from gaitwire.formats.raster import Raster
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.session.pictures import arts_of
from gaitwire.store.history import take_step

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 40">
<g id="sky"><rect width="60" height="40" fill="#cde"/></g>
<g id="line"><circle cx="20" cy="20" r="12" fill="#b33" stroke="#000" stroke-width="3"/><path d="M5 5L50 30L10 35Z" fill="#3a3" opacity=".6"/><rect x="30" y="4" width="20" height="20" fill="#33b"/></g>
<g id="near_arm"><rect x="26" y="10" width="8" height="24" fill="#fc3"/></g></svg>"""


@pytest.fixture
def bench(workspace):
    return Bench(workspace, import_art(workspace, SVG, "found.svg", "Found").puppet_id)


def picture(bench):
    compiled = bench.workspace.compiled_puppet(bench.puppet_id)
    raster = Raster(arts_of(bench.workspace, compiled), (60, 40))
    return raster.draw(evaluate(compiled, np.zeros(1)), 0)


def names(bench):
    return [p.name for p in sorted(bench.puppet.parts, key=lambda p: p.rank)]


def part(bench, name):
    return next(p for p in bench.puppet.parts if p.name == name)


def test_a_part_is_taken_apart_in_its_place_and_looks_the_same(bench):
    before = picture(bench)
    made = bench.take_apart(part(bench, "line").id)
    assert names(bench) == ["sky", "line 1", "line 2", "line 3", "near arm"]
    assert np.array_equal(picture(bench), before)
    bones = {b.id: b for b in bench.puppet.bones}
    above = {bones[bones[part(bench, n).bone_id].parent_id].name for n in ("line 1", "line 2", "line 3")}
    assert above == {"line"} and len(made) == 3
    middle = bones[part(bench, "line 3").bone_id]
    assert (middle.x, middle.y) == (40, 14)
    with pytest.raises(InvalidInputError, match="single shape"):
        bench.take_apart(made[0])
    take_step(bench.workspace.store, bench.puppet_id, "undo")
    assert names(bench) == ["sky", "line", "near arm"]


def test_parts_are_joined_in_the_place_of_the_foremost(bench):
    ids = bench.take_apart(part(bench, "line").id)
    before = picture(bench)
    one = bench.join([ids[2], ids[1]])
    assert names(bench) == ["sky", "line 1", "line 2", "near arm"]
    assert bench.puppet.part(one).name == "line 2"
    assert np.array_equal(picture(bench), before)
    bench.join([p.id for p in bench.puppet.parts if p.name in ("sky", "near arm")])
    assert names(bench) == ["line 1", "line 2", "sky"]


def test_a_faded_part_stays_faded_when_joined(bench):
    bench.update_parts([part(bench, "near arm").id], {"opacity": 0.5})
    before = picture(bench)
    bench.join([part(bench, "line").id, part(bench, "near arm").id])
    assert np.abs(picture(bench).astype(int) - before).max() <= 2
    assert part(bench, "line").opacity == 1


def test_locked_or_single_parts_are_refused(bench):
    with pytest.raises(InvalidInputError, match="at least two"):
        bench.join([part(bench, "line").id] * 2)
    bench.update_parts([part(bench, "line").id], {"locked": True})
    for work in (
        lambda: bench.take_apart(part(bench, "line").id),
        lambda: bench.join([p.id for p in bench.puppet.parts]),
    ):
        with pytest.raises(LockedError, match="“line” is locked"):
            work()
    assert names(bench) == ["sky", "line", "near arm"]
