"""The animated SVG, played by Chromium on SVG's own clock, against our raster of the same frames."""

import numpy as np
import pytest

from builders.followers import Followers
from gaitwire.core.addresses import Bead
from gaitwire.core.evaluate.solvers import SOLVERS
from gaitwire.core.motion.drivers.drift import Drift
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.timing.easing import EASINGS
from gaitwire.formats.animated_svg import write_animated_svg
from gaitwire.formats.exporting import SvgSettings
from gaitwire.formats.raster import Raster
from gaitwire.services.output.sendoff import find_scene, prepare
from gaitwire.services.rig.corrective_shapes import Correcting
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.scene.beads import ease_beads, shape_beads, space_beads
from gaitwire.services.scene.floor import add_puppet, make_scene, update_instance
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.led import remove_drivers
from gaitwire.services.scene.limb_tips import limbs_of
from gaitwire.services.scene.links import change_bearing, hitch_nodes, lift_limbs, plant_limbs
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.timing import put_offsets, put_stays, repeat_channels
from gaitwire.services.scene.turns import turn_round
from gaitwire.services.scene.visibility import show_only
from gaitwire.store.documents import list_documents
from outside.pictures import gap, screenshot, show_svg

MEAN, OFF, SHARE = 1.0, 16, 0.005
"""Bounds: mean difference in 1/255, and the share of pixels that may be off by more than OFF."""


def played(page, svg, size, seconds):
    """Chromium's pictures at times, as pixels over nothing."""
    show_svg(page, svg.decode(), size)
    page.evaluate("document.querySelector('svg').pauseAnimations()")
    for second in seconds:
        page.evaluate("t => document.querySelector('svg').setCurrentTime(t)", second)
        yield screenshot(page)


def compare(page, workspace, scene, label, step=1, bounds=(MEAN, SHARE), **settings):
    """Largest mean difference and share of far-off pixels over the frames; printed, and held to the bounds."""
    production = prepare(workspace, scene, SvgSettings(scale=0.5, **settings))
    view = (0.5, 0, 0, 0.5, 0, 0)
    raster = Raster(
        production.arts, production.size, lambda digest: production.pictures[digest][1], view, production.background,
        production.compiled.meshes,
    )  # fmt: skip
    rate = float(production.rate)
    frames = list(range(0, len(production.frames), step))
    means, shares = [], []
    pictures = played(page, write_animated_svg(production), production.size, [(f + 1e-4) / rate for f in frames])
    for frame, theirs in zip(frames, pictures, strict=True):
        mean, share = gap(raster.draw(production.frames, frame), theirs, OFF)
        means.append(mean)
        shares.append(share)
    print(
        f"{label}: {len(frames)} frames, mean at most {max(means):.3f}/255, off by more than {OFF}: {max(shares):.3%}"
    )
    assert max(means) <= bounds[0]
    assert max(shares) <= bounds[1]


@pytest.mark.parametrize("name", ["The cart jolts", "Pip hops", "Off the crate", "Tamsin waits", "Gander looks about"])
@pytest.mark.parametrize("background", [True, False])
def test_the_demo_plays_as_we_draw_it(page, orchard, name, background):
    compare(page, orchard, find_scene(orchard, name), name, step=3, background=background)


@pytest.mark.parametrize("name", ["Along the rows", "Up the bank", "A word with Stook", "Stook has his say"])
def test_walks_beneath_keys_phrases_and_what_rolls_play_as_we_draw_them(page, orchard, name):
    compare(page, orchard, find_scene(orchard, name), name, step=11)


def test_every_frame_written_out_plays_the_same(page, orchard):
    compare(page, orchard, find_scene(orchard, "The cart jolts"), "sampled", step=4, sampled=True)


def everything_moves(workspace, loop=True):
    """A scene in which every property, every easing and every kind of segment occurs."""
    scene = make_scene(workspace, "All", frames=36, width=800, height=640, loop=loop)
    floor = Floor(workspace, scene)
    puppets = {e.name: e.id for e in list_documents(workspace.store, "puppet")}
    pip = add_puppet(floor, puppets["Pip"], x=250.0, y=520.0, scale=0.8, turned=True)
    cart = add_puppet(floor, puppets["Handcart"], x=480.0, y=600.0, scale=0.6)
    rng = np.random.default_rng(2)
    span = {"turn": 25, "shift_x": 20, "shift_y": 20, "stretch": 0.3, "widen": 0.3, "skew": 15}
    easings = iter([*EASINGS, *EASINGS])
    for instance, puppet_id in ((pip, puppets["Pip"]), (cart, puppets["Handcart"])):
        bones = [instance, *(b.id for b in workspace.puppet(puppet_id).bones)]
        for n, bone in enumerate(bones):
            prop = list(span)[n % 6]
            rest = 1.0 if prop in ("stretch", "widen") else 0.0
            for time in np.sort(rng.choice(36, 3, replace=False)):
                value = rest + rng.uniform(-1, 1) * span[prop]
                set_values(floor, float(time), {(instance, bone, prop): value})
            times = {k.time for k in floor.scene.keys_by_channel()[_channel(floor, bone, prop)]}
            beads = [Bead(instance, bone, t) for t in times]
            if n % 5 == 4:
                shape_beads(floor, beads, (0.2, -0.4 if n % 2 else 0.9, 0.6, 1.3 if n % 2 else 0.95))
            else:
                ease_beads(floor, beads, next(easings))
    return scene


def _channel(floor, bone, prop):
    return next(c.id for c in floor.scene.channels if (c.owner_id, c.property) == (bone, prop))


@pytest.mark.parametrize("loop", [True, False])
def test_every_property_and_easing_plays_as_we_draw_it(page, orchard, loop):
    compare(page, orchard, everything_moves(orchard, loop), "everything", step=2)


@pytest.mark.parametrize("loop", [True, False])
def test_timing_in_layers_plays_as_we_draw_it(page, orchard, loop):
    """Stays, charts, repeating channels, offsets, a puppet on threes, parts shown on some frames only."""
    scene = everything_moves(orchard, loop)
    floor = Floor(orchard, scene)
    pip, cart = floor.scene.instances
    nodes = [(c.instance_id, c.owner_id) for c in floor.scene.channels]
    mine = [n for n in nodes if n[0] == pip.id]
    put_stays(floor, mine, 17.0)
    for node in mine[:3]:
        beads = [Bead(*node, k.time) for k in floor.scene.keys_by_channel()[_channel_of(floor, node)]]
        space_beads(floor, beads, "halves")
    repeat_channels(floor, mine[3:5], "there and back")
    repeat_channels(floor, mine[5:6], "onward")
    put_offsets(
        floor, mine[1:4], {"property": "turn", "amount": 20, "start": 6, "stop": 30, "soft_in": 6, "soft_out": 9}
    )
    update_instance(floor, cart.id, exposure=3)
    puppet = orchard.puppet(pip.puppet_id)
    show_only(floor, [(pip.id, next(p.id for p in puppet.parts if p.name == "leaf"))], [(8, 21)])
    show_only(floor, [(pip.id, pip.id)], [(0, 5), (9, 40)])
    compare(page, orchard, scene, "timing in layers", step=1)


def test_a_puppet_that_fades_as_one_picture_plays_as_we_draw_it(page, orchard):
    """Chromium draws what is half there apart, and brings it to the page less sharp: so edges are off by more."""
    ids = {e.name: e.id for e in list_documents(orchard.store, "puppet")}
    floor = Floor(orchard, make_scene(orchard, "Fades", frames=20, loop=False, ground=640.0))
    add_puppet(floor, ids["Pip"], x=900.0, y=640.0)
    who = add_puppet(floor, ids["Tamsin"], x=400.0, y=640.0)
    for frame, opacity in ((4.0, 1.0), (16.0, 0.3)):
        set_values(floor, frame, {(who, who, "opacity"): opacity})
    compare(page, orchard, floor.scene_id, "fades", step=3, bounds=(1.5, 0.04))


def test_what_turns_round_in_stages_plays_as_we_draw_it(page, orchard):
    ids = {e.name: e.id for e in list_documents(orchard.store, "puppet")}
    floor = Floor(orchard, make_scene(orchard, "Round", frames=30, loop=False, ground=640.0))
    for name, x in (("Tamsin", 360.0), ("Pip", 640.0)):
        turn_round(floor, add_puppet(floor, ids[name], x=x, y=640.0, scale=0.8), 4.0, 20.0)
    compare(page, orchard, floor.scene_id, "turns", step=1)


def _channel_of(floor, node):
    return next(c.id for c in floor.scene.channels if (c.instance_id, c.owner_id) == node)


def test_a_part_of_a_scene_plays_as_we_draw_it(page, orchard):
    compare(page, orchard, find_scene(orchard, "The cart jolts"), "frames 5 to 20", step=3, first=5, last=20)


def test_it_plays_as_often_as_it_was_told_and_then_stays(page, orchard):
    scene = find_scene(orchard, "Pip hops")
    production = prepare(orchard, scene, SvgSettings(scale=0.25, loops=2))
    svg = write_animated_svg(production)
    first, again, after, later = played(page, svg, production.size, [0.5, 1.5, 2.2, 60.0])
    assert np.array_equal(first, again)
    assert np.array_equal(after, later) and not np.array_equal(first, after)
    endless = write_animated_svg(prepare(orchard, scene, SvgSettings(scale=0.25)))
    one, much_later = played(page, endless, production.size, [0.5, 100.5])
    assert np.array_equal(one, much_later)


def test_structure_is_kept_and_costs_less_than_every_frame(orchard):
    """Of a scene of rigid parts: those that bend, that a fix corrects or that are led are written out in any case."""
    scene = find_scene(orchard, "Tamsin waits")
    floor = Floor(orchard, scene)
    for kind in (Drift, Loose):
        remove_drivers(floor, [(d.instance_id, d.owner_id) for d in floor.scene.drivers], kind)
    tamsin = next(p for p in orchard.cast(orchard.scene(scene)).values() if p.name == "Tamsin")
    Correcting(orchard, tamsin.id).remove_controls([c.id for c in tamsin.controls])
    soft = Softening(orchard, tamsin.id)
    soft.remove_pins([p.id for p in tamsin.pins])
    soft.harden([p.id for p in tamsin.parts if p.soft])
    kept = write_animated_svg(prepare(orchard, scene, SvgSettings()))
    sampled = write_animated_svg(prepare(orchard, scene, SvgSettings(sampled=True)))
    print(f"Tamsin waits: {len(kept)} bytes, every frame written out {len(sampled)}")
    assert len(kept) < 0.85 * len(sampled)
    text = kept.decode()
    shin, foot = text.index('data-name="near shin"'), text.index('data-name="near foot"')
    assert "</g></g></g></g>" not in text[shin:foot]  # the foot hangs inside the shin's group


def test_kept_area_that_comes_and_goes_plays_there_and_back_as_we_draw_it(page, orchard):
    scene = everything_moves(orchard, loop=False)
    floor = Floor(orchard, scene)
    pip = floor.scene.instances[0]
    bones = [b.id for b in orchard.puppet(pip.puppet_id).bones]
    for bone, stretch in zip(bones, (1.6, 0.7, 1.3), strict=False):
        set_values(floor, 0.0, {(pip.id, bone, "stretch"): stretch, (pip.id, bone, "keep"): 0.0})
        set_values(floor, 20.0, {(pip.id, bone, "stretch"): 1 / stretch, (pip.id, bone, "keep"): 1.0})
    production = prepare(orchard, scene, SvgSettings(back=True))
    assert production.frames.frames.tolist() == [*range(36), *range(34, 0, -1)]
    compare(page, orchard, scene, "there and back", step=3, back=True)


def test_what_is_planted_carried_and_thrown_plays_as_we_draw_it(page, orchard):
    scene = make_scene(orchard, "Carried", frames=40, width=900, height=640, loop=False, ground=600.0)
    floor = Floor(orchard, scene)
    puppets = {e.name: e.id for e in list_documents(orchard.store, "puppet")}
    who = add_puppet(floor, puppets["Tamsin"], x=400.0, scale=0.9)
    pip = add_puppet(floor, puppets["Pip"], x=600.0, scale=0.4)
    bones = {b.name: (who, b.id) for b in orchard.puppet(puppets["Tamsin"]).bones}
    plant_limbs(floor, limbs_of(floor, [bones["near foot"], bones["far foot"], bones["far hand"]]), 0.0)
    for frame, x, y, turn in ((0, 0, 0, 0), (14, 26, 22, -70), (26, -14, 9, 20), (39, 6, 16, -30)):
        set_values(floor, frame, {(*bones["pelvis"], "shift_x"): x, (*bones["pelvis"], "shift_y"): y})
        set_values(floor, frame, {(*bones["near upper arm"], "turn"): turn})
    hitch_nodes(floor, [(pip, pip)], 6.0, bones["near hand"])
    hitch_nodes(floor, [(pip, pip)], 18.0, None, arc=True)
    hitch_nodes(floor, [bones["plait"]], 10.0, bones["near hand"])
    lift_limbs(floor, limbs_of(floor, [bones["near foot"]]), 22.0)
    change_bearing(floor, who, 28.0, bones["far shin"][1])
    compare(page, orchard, scene, "planted, carried, thrown, borne", step=1)


def test_what_remembers_plays_as_we_draw_it(page, orchard):
    SOLVERS.append(Followers("plait", "leaf"))
    try:
        scene = find_scene(orchard, "Pip hops")
        leaf = next(b.id for p in orchard.cast(orchard.scene(scene)).values() for b in p.bones if b.name == "leaf")
        compiled = orchard.compiled(scene)
        group = next(g for g in compiled.groups if any(leaf == owner for m in g.members for _, owner in m.nodes.owners))
        assert any("followers" in segment.plans for segment in group.segments)
        compare(page, orchard, scene, "a leaf that follows", step=4)
    finally:
        SOLVERS.pop()
