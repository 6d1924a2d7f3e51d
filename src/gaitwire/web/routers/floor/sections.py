"""The card of the Floor as sections in their order: each says what it is about, and what its template shows.

A new one is a template in `floor/card/` and its line here.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal, NamedTuple

from gaitwire.core.addresses import Bead, Node
from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.motion.drivers.drift import Drift
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.owners import owner_name
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.sound import Sound
from gaitwire.core.timing.channel import LEADING_PROPERTIES, LED, PROPERTIES, OwnerKind
from gaitwire.core.timing.easing.chart import SPACINGS
from gaitwire.core.timing.mark import Pose
from gaitwire.formats.sound_files import SUFFIXES
from gaitwire.services.gait.gait_cards import list_cards
from gaitwire.services.scene.creep import creeps_of
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.hops import HOP_FIELDS, usual_hop
from gaitwire.services.scene.poses import pose_durations
from gaitwire.services.scene.smears import SMEARS
from gaitwire.services.scene.visibility import shown_at
from gaitwire.services.views import chosen as views
from gaitwire.services.views.chosen import CurveView
from gaitwire.services.views.control_card import dial_cards
from gaitwire.services.views.drift_card import drift_card
from gaitwire.services.views.led_said import example_name, led_row
from gaitwire.services.views.link_card import LinkCard, limb_value_rows, link_card
from gaitwire.services.views.loose_card import loose_card
from gaitwire.services.views.phrase_card import finder, making, use_card
from gaitwire.services.views.walk_card import walk_card
from gaitwire.store.documents import list_documents

Subject = Literal["beads", "sound", "found", "pose", "phrase", "nodes", "scene"]
"""What a card is about; of what is chosen at a time, the first of these."""


@dataclass(frozen=True)
class Choice:
    """What is chosen on the Floor, and the frame in view."""

    floor: Floor
    frame: float
    nodes: list[Node]
    beads: list[Bead]
    curve: CurveView | None
    """How they are eased; None where they only step."""
    sound: Sound | None
    found: Pose | None
    """A pose that nobody has marked."""
    pose: Pose | None
    since: float | None
    until: float | None
    """The stretch of frames that is marked on the wires, if one is."""

    @cached_property
    def subject(self) -> Subject:
        one_phrase = len(self.nodes) == 1 and self.kinds == {"phrase"}
        said: dict[Subject, object] = {
            "beads": self.beads, "sound": self.sound, "found": self.found, "pose": self.pose, "phrase": one_phrase,
            "nodes": self.nodes,
        }  # fmt: skip
        return next((name for name, there in said.items() if there), "scene")

    @property
    def scene(self) -> Scene:
        return self.floor.scene

    @cached_property
    def compiled(self) -> CompiledScene:
        return self.floor.compiled

    @cached_property
    def cast(self) -> dict[str, Puppet]:
        return self.floor.workspace.cast(self.scene)

    @cached_property
    def kinds(self) -> set[OwnerKind]:
        return {self.floor.owner_kind(*node) for node in self.nodes}

    @cached_property
    def whole(self) -> Instance | None:
        """The puppet, or the camera, that is chosen as a whole and alone."""
        return next((i for i in self.scene.instances if self.nodes == [(i.id, i.id)]), None)

    @property
    def seat(self) -> Instance | None:
        return None if self.whole is None or self.whole.is_camera else self.whole

    @property
    def camera(self) -> Instance | None:
        return self.whole if self.whole is not None and self.whole.is_camera else None

    @property
    def dials_alone(self) -> bool:
        return self.kinds <= {"pad", "gauge"}

    @cached_property
    def links(self) -> LinkCard | None:
        return None if self.dials_alone else link_card(self.floor, self.nodes, self.frame)


Shown = Mapping[str, Any] | None
"""What a template shows; None where its section does not apply."""


class Section(NamedTuple):
    """One section of the card."""

    of: Subject
    template: str
    view: Callable[[Choice], Shown]


def _beads(chosen: Choice) -> Shown:
    floor, beads = chosen.floor, chosen.beads
    return {
        "beads": beads, "curve": chosen.curve, "chart": views.chart_view(floor, beads), "spacings": SPACINGS,
        "families": views.easing_families(), "phrase_making": making(floor), "held": views.held_frames(floor, beads),
        "wire_count": len({bead[:2] for bead in beads}),
    }  # fmt: skip


def _pose(chosen: Choice) -> Shown:
    if chosen.pose is None:
        return None
    who = chosen.pose.instance_id
    lasts = pose_durations(chosen.floor, who)[chosen.pose.id]
    return {"pose": chosen.pose, "pose_of": chosen.floor.instance(who).name, "lasts": lasts}


def _found(chosen: Choice) -> Shown:
    if chosen.found is None:
        return None
    return {"unmarked": chosen.found, "pose_of": chosen.floor.instance(chosen.found.instance_id).name}


def _values(chosen: Choice) -> Shown:
    alone = chosen.kinds == {"limb"} and len(chosen.nodes) == 1
    if alone:
        rows = limb_value_rows(chosen.floor, chosen.nodes[0], chosen.frame)
    else:
        rows = views.value_rows(chosen.scene, chosen.compiled, chosen.nodes, chosen.frame)
    many = f"{len(chosen.nodes)} {'dials' if chosen.dials_alone else 'bones'}"
    title = owner_name(chosen.scene, chosen.cast, chosen.nodes[0]) if len(chosen.nodes) == 1 else many
    return {"title": title, "rows": rows, "links": chosen.links, "camera": chosen.camera}


def _shows(chosen: Choice) -> Shown:
    if len(chosen.nodes) == 1 and chosen.seat is None:
        return None
    others = [((i.id, i.id), i.name) for i in chosen.scene.instances if i != chosen.whole and not i.is_camera]
    shows = shown_at(chosen.floor, chosen.nodes, chosen.frame)
    return {"shows": shows, "other_seats": others, "seat": chosen.seat} if shows else None


def _dials(chosen: Choice) -> Shown:
    return {"dials": dial_cards(chosen.compiled, chosen.nodes, chosen.frame)}


def _walk(chosen: Choice) -> Shown:
    if chosen.seat is None:
        return None
    start = chosen.frame if chosen.since is None else chosen.since
    span = (start, chosen.scene.frames - 1.0 if chosen.until is None else chosen.until)
    return {"walk": walk_card(chosen.floor, chosen.seat.id, span), "seat": chosen.seat}


def _phrases(chosen: Choice) -> Shown:
    return {"phrases": finder(chosen.floor, chosen.seat.id), "seat": chosen.seat} if chosen.seat else None


def _hop(chosen: Choice) -> Shown:
    if chosen.seat is None:
        return None
    usual = usual_hop(chosen.floor, chosen.seat.id).model_dump()
    return {"hop": usual, "hop_fields": HOP_FIELDS, "seat": chosen.seat}


def _rolls(chosen: Choice) -> Shown:
    """For a single bone."""
    if chosen.kinds != {"bone"} or len(chosen.nodes) != 1:
        return None
    own = (r for r in chosen.scene.rolls if (r.instance_id, r.owner_id) == chosen.nodes[0])
    return {"rolls": {"roll": next(own, None)}}


def _led(chosen: Choice) -> Shown:
    found = led_row(chosen.floor, chosen.nodes, chosen.frame)
    return {"led": found} if found else None


def _loose(chosen: Choice) -> Shown:
    found = loose_card(chosen.floor, chosen.nodes)
    return {"loose": found, "loose_like": example_name(chosen.floor, chosen.nodes, Loose)} if found else None


def _drift(chosen: Choice) -> Shown:
    found = drift_card(chosen.floor, chosen.nodes)
    return {"drift": found, "drift_like": example_name(chosen.floor, chosen.nodes, Drift)} if found else None


def _hold(chosen: Choice) -> Shown:
    since, until = (chosen.frame if end is None else end for end in (chosen.since, chosen.until))
    return {
        "repeats": views.repeat_view(chosen.floor, chosen.nodes), "repeat_kinds": views.REPEATS,
        "seams": views.seam_rows(chosen.floor, chosen.nodes), "span": (since, until),
    }  # fmt: skip


def _offsets(chosen: Choice) -> Shown:
    lone = next(iter(chosen.kinds)) if len(chosen.kinds) == 1 else "bone"
    props = PROPERTIES["pin" if "pin" in chosen.kinds else "bone" if lone == "seat" else lone]
    rows = views.offset_rows(chosen.scene, chosen.cast, chosen.nodes)
    added = [p for p in props.values() if not p.stepped and p.name not in LEADING_PROPERTIES]
    return {"offsets": rows, "offset_props": added}


def _parts(chosen: Choice) -> Shown:
    return {"parts": views.part_rows(chosen.floor, chosen.nodes, chosen.frame), "led_value": LED}


def _of_seat(chosen: Choice) -> Shown:
    return {"seat": chosen.seat} if chosen.seat else None


def _of_scene(chosen: Choice) -> Shown:
    return {"repeat_kinds": views.REPEATS}


def _seam(chosen: Choice) -> Shown:
    rows = views.seam_rows(chosen.floor, None)
    return {"seams": rows} if rows[0] else None


CARD: tuple[Section, ...] = (
    Section("beads", "beads", _beads),
    Section("sound", "sound", lambda chosen: {"sound": chosen.sound}),
    Section("found", "found", _found),
    Section("pose", "pose", _pose),
    Section("phrase", "phrase", lambda chosen: {"phrase_use": use_card(chosen.floor, chosen.nodes[0][1])}),
    Section("nodes", "values", _values),
    Section("nodes", "shows", _shows),
    Section("nodes", "dials", _dials),
    Section("nodes", "walk", _walk),
    Section("nodes", "phrases", _phrases),
    Section("nodes", "hop", _hop),
    Section("nodes", "smear", lambda chosen: {"smears": SMEARS} if chosen.kinds <= {"seat", "bone", "part"} else None),
    Section("nodes", "links", lambda chosen: {"links": chosen.links} if chosen.links else None),
    Section("nodes", "camera", lambda chosen: {"camera": chosen.camera} if chosen.camera else None),
    Section("nodes", "rolls", _rolls),
    Section("nodes", "led", _led),
    Section("nodes", "loose", _loose),
    Section("nodes", "drift", _drift),
    Section("nodes", "hold", _hold),
    Section("nodes", "offsets", _offsets),
    Section("nodes", "parts", _parts),
    Section("nodes", "turns", _of_seat),
    Section("nodes", "place", _of_seat),
    Section("scene", "scene", _of_scene),
    Section("scene", "filming", _of_scene),
    Section("scene", "sounds", lambda chosen: {"sound_suffixes": ",".join(SUFFIXES)}),
    Section("scene", "moving", lambda chosen: {"creeps": len(creeps_of(chosen.scene))}),
    Section("scene", "seam", _seam),
    Section("scene", "markers", _of_scene),
    Section("scene", "guides", lambda chosen: {"walks": list_cards(chosen.floor.workspace)}),
    Section("scene", "cast", lambda chosen: {"puppets": list_documents(chosen.floor.workspace.store, "puppet")}),
)


def shown_sections(chosen: Choice) -> list[tuple[str, Mapping[str, Any]]]:
    """The templates that apply to a choice, in their order, each with what it shows."""
    rows = ((section.template, section.view(chosen)) for section in CARD if section.of == chosen.subject)
    return [(template, shown) for template, shown in rows if shown is not None]
