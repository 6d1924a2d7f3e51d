"""What the Floor's card offers about a puppet's walks."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.views import VIEWS
from gaitwire.core.walk.readiness import Weakness
from gaitwire.core.walk.settings import RIDEABLE, SETTINGS, Setting
from gaitwire.core.walk.span import PACES, GaitSpan, Pace
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.gait.gait_cards import Listed, list_cards
from gaitwire.services.rig.walk_readiness import LABELS, ready_list
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.walks import DENSITIES, Density

_RIDEABLE = tuple(SETTINGS[name] for name in RIDEABLE)


class WalkCard(NamedTuple):
    """A puppet's walks, the cards it could walk by, and from where to where; or what it lacks for a walk."""

    gaits: list[GaitSpan]
    cards: list[Listed]
    span: tuple[float, float]
    lacks: str = ""
    weak: tuple[Weakness, ...] = ()
    """What the puppet lacks for a walk, or has only weakly."""
    remedies: Mapping[str, str] = LABELS
    seen: str = ""
    """From where the puppet is drawn, and its walks are seen."""
    densities: Mapping[Density, str] = DENSITIES
    paces: Mapping[Pace, str] = PACES
    rideable: tuple[Setting, ...] = _RIDEABLE


def walk_card(view: Floor, instance_id: str, span: tuple[float, float]) -> WalkCard:
    """The card's section about one puppet."""
    puppet = view.puppet_of(instance_id)
    weak = tuple(ready_list(view.workspace, puppet.id))
    try:
        walker_of(puppet)
    except InvalidInputError as error:
        return WalkCard([], [], span, str(error), weak)
    own = [g for g in view.scene.gaits if g.instance_id == instance_id]
    gaits = sorted(own, key=lambda g: g.start)
    return WalkCard(gaits, list_cards(view.workspace), span, weak=weak, seen=VIEWS[puppet.view].label)
