"""The artist's next version: drawings renewed by their layers' names, the rig kept."""

import io

import pytest
from PIL import Image

from gaitwire.core.errors import InvalidInputError
from gaitwire.services.library.art_in import import_art, import_pictures
from gaitwire.services.rig.art_renewal import ArtAgain
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.soft_parts import Softening


def svg(*shapes):
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200">{"".join(shapes)}</svg>'.encode()


COAT, HAND = '<rect id="coat" width="90" height="160" fill="#363"/>', '<circle id="hand" cx="120" cy="90" r="12"/>'


@pytest.fixture
def rig(workspace):
    bench = Bench(workspace, import_art(workspace, svg(COAT, HAND), "walker.svg").puppet_id)
    hand = next(p for p in bench.puppet.parts if p.name == "hand")
    bench.update_parts([hand.id], {"name": "near fist"})  # the rig may call it what it likes
    bench.move_joint(hand.bone_id, "pivot", 108, 90, alone=True)
    return bench


def renew(rig, *shapes):
    return ArtAgain(rig.workspace, rig.puppet_id).renew(svg(*shapes), "walker.svg")


def part(rig, name):
    return next(p for p in rig.puppet.parts if p.name == name)


def test_a_fixed_drawing_comes_in_and_the_rig_stays(rig):
    before = rig.puppet
    found = renew(rig, COAT, '<circle id="hand" cx="125" cy="90" r="20"/>')
    assert (found.renewed, found.same, found.added, found.missing) == (("near fist",), ("coat",), (), ())
    assert rig.puppet.bones == before.bones
    assert rig.workspace.art(part(rig, "near fist").art_hash).bounds.x1 == 145
    assert [p.id for p in rig.puppet.parts] == [p.id for p in before.parts]


def test_new_layers_are_added_in_their_place_and_missing_ones_kept_and_told(rig):
    rig.reorder([part(rig, "coat").id], part(rig, "near fist").id)  # the coat to the front
    found = renew(
        rig, COAT, '<rect id="belt" y="80" width="90" height="10"/>', '<rect id="hat" width="40" height="20"/>'
    )
    assert (found.added, found.missing) == (("belt", "hat"), ("near fist",))
    assert [p.name for p in sorted(rig.puppet.parts, key=lambda p: p.rank)] == ["near fist", "coat", "belt", "hat"]
    assert {b.name for b in rig.puppet.bones} == {"coat", "hand", "belt", "hat"}
    assert renew(rig, COAT, '<rect id="belt" y="80" width="90" height="10"/>').same == ("coat", "belt")


def test_pins_that_would_fall_off_the_new_art_refuse_it_whole(rig):
    soft = Softening(rig.workspace, rig.puppet_id)
    coat = part(rig, "coat")
    soft.soften([coat.id])
    soft.place_pin(coat.id, "lead", 45, 150)
    revision = rig.puppet.revision
    with pytest.raises(InvalidInputError, match="outside the part"):
        renew(rig, '<rect id="coat" width="90" height="60"/>', HAND)
    assert rig.puppet.revision == revision
    renew(rig, '<rect id="coat" width="80" height="170"/>', HAND)
    assert part(rig, "coat").soft


def picture(width, height, box, color=(160, 80, 40, 255)):
    page = Image.new("RGBA", (width, height))
    page.paste(color, box)
    out = io.BytesIO()
    page.save(out, "PNG")
    return out.getvalue()


def test_loose_pictures_of_other_sizes_come_in_where_the_old_ones_lie(workspace):
    """Side by side, a wider picture would push all that follow out of their places."""
    files = {"1_body.png": picture(100, 80, (0, 0, 100, 80)), "2_hand.png": picture(30, 30, (5, 5, 25, 25))}
    made = import_pictures(workspace, files, "loose").puppet_id
    hand = next(p for p in workspace.puppet(made).parts if p.name == "hand")
    before = workspace.art(hand.art_hash).bounds.centre
    files = {"1_body.png": picture(170, 90, (0, 0, 170, 90)), "2_hand.png": picture(40, 40, (5, 5, 37, 37))}
    ArtAgain(workspace, made).renew_pictures(files)
    found = workspace.art(workspace.puppet(made).part(hand.id).art_hash).bounds
    assert found.centre == pytest.approx(before)
    assert found.width == 32
