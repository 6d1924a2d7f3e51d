"""Drift from the card: put, set in the units shown, refused in words, taken away."""

import json

import pytest

from builders.acting import Alone
from builders.posting import post_to_floor


@pytest.fixture
def stage(orchard):
    return Alone(orchard)


def test_what_is_chosen_drifts_is_set_and_let_be(client, stage):
    scene, chosen = stage.floor.scene, [stage.node("face"), stage.node("near hand")]
    nodes = json.dumps(chosen)

    def amounts():
        return [
            d.settings.amounts
            for d in sorted(stage.floor.scene.drivers, key=lambda d: chosen.index((d.instance_id, d.owner_id)))
        ]

    assert post_to_floor(client, scene, "drift", nodes=json.dumps(chosen[:1])).status_code == 200
    assert post_to_floor(client, scene, "drift/set", nodes=nodes, field="turn", value="2,5").status_code == 200
    assert post_to_floor(client, scene, "drift", nodes=nodes).status_code == 200  # the first one stays as it was set
    assert amounts() == [{"turn": 2.5}, {"turn": 1.5}]
    assert post_to_floor(client, scene, "drift/set", nodes=nodes, field="shift_x", value="3").status_code == 200
    assert amounts()[1] == {"turn": 1.5, "shift_x": pytest.approx(0.03)}
    assert post_to_floor(client, scene, "drift/set", nodes=nodes, field="changes", value="4").status_code == 200
    card = post_to_floor(client, scene, "card", nodes=nodes, frame="0").text
    assert (
        'data-field="shift_x" inputmode="decimal" aria-label="Drift: shift across, % of its height" value="3"' in card
        and 'placeholder="differ"' in card
    )
    seeds = [d.settings.seed for d in stage.floor.scene.drivers]
    assert post_to_floor(client, scene, "drift/other", nodes=nodes).status_code == 200
    assert not set(seeds) & {d.settings.seed for d in stage.floor.scene.drivers}
    for field, value in (("turn", "wide"), ("turn", "999"), ("keep", "1"), ("changes", "0"), ("turn", "nan")):
        before = stage.floor.scene
        answer = post_to_floor(client, scene, "drift/set", nodes=nodes, field=field, value=value)
        assert answer.status_code == 422 and stage.floor.scene == before, (field, value)
    assert post_to_floor(client, scene, "drift/remove", nodes=json.dumps(chosen[:1])).status_code == 200
    assert [d.owner_id for d in stage.floor.scene.drivers] == [chosen[1][1]]
    made = post_to_floor(client, scene, "drift/own", nodes=nodes)
    assert "keys, within 0." in made.text and stage.floor.scene.drivers == () and stage.keys("near hand", "shift_x")
    assert post_to_floor(client, scene, "drift/other", nodes=nodes).status_code == 422
