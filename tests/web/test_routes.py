"""Every route of the program, with numbers, names and documents that no page would send: each answer helps."""

import importlib
import json
import pkgutil
import random
import re
from collections.abc import Mapping

import numpy as np
import pytest
from fastapi.routing import APIRoute

from builders.acting import only
from builders.named import id_of
from gaitwire.core.errors import HistoryError
from gaitwire.services.session.journal import close_log, keep_log
from gaitwire.store.documents import list_documents
from gaitwire.store.history import SHELF, take_step
from gaitwire.web import routers

NUMBERS = ["1e308", "-1e308", "nan", "-inf", "1e400", "9" * 400, "-1", "0", "9223372036854775808", "-9223372036854775809",
           "1e-320", "10001", "40001", "-40001", "²", "٣", "0x10", "1_000"]  # fmt: skip
NAMES = [
    "",
    "camera",
    "\x00",
    "a" * 5000,
    "../../x",
    "é\u202e\u0000",
    "'; DROP TABLE keys; --",
    "{{ 7 * 7 }}",
    "null",
    " ",
]
BREAKS = [
    "[]",
    "[[]]",
    "{}",
    "null",
    "[null]",
    '[["a", "b", 1e999]]',
    '[["a"]]',
    "[1e400]",
    '"',
    "[" * 3000,
    '[["\\ud800", "x", 0]]',
]
HOSTILE = NUMBERS + NAMES + BREAKS
EACH = 1
"""Hostile values tried for each field of each route, chosen by a fixed seed."""


def known_fields():
    """Names of what can be set one by one: the tables of readers in the routers."""
    found = set()
    for module in pkgutil.iter_modules(routers.__path__):
        for value in vars(importlib.import_module(f"{routers.__name__}.{module.name}")).values():
            if isinstance(value, Mapping):
                found |= {k for k, read in value.items() if isinstance(k, str) and callable(read)}
    return sorted(found)


def params(dependant):
    yield from (("path", p) for p in dependant.path_params)
    yield from (("query", p) for p in dependant.query_params)
    yield from (("form", p) for p in dependant.body_params)
    for inner in dependant.dependencies:
        yield from params(inner)


@pytest.fixture
def plausible(orchard):
    """What each field would hold if a page had sent it: ids of things that are there."""
    only(orchard, "Off the crate", "Along the rows", "Tamsin climbs", "Stook has his say")
    scene = orchard.scene(id_of(orchard, "scene", "Off the crate"))
    seats = [i for i in scene.instances if not i.aside and any(c.instance_id == i.id for c in scene.channels)]
    seat = seats[0]
    puppet = orchard.puppet(seat.puppet_id)
    channel = next(c for c in scene.channels if c.instance_id == seat.id and c.owner_kind == "bone")
    key = next(k for k in scene.keys if k.channel_id == channel.id)
    tamsin = orchard.puppet(id_of(orchard, "puppet", "Tamsin"))
    node = [seat.id, channel.owner_id]

    def first(items):
        return next((x.id for x in items), "none")

    return {
        "scene_id": scene.id, "puppet_id": tamsin.id, "document_id": scene.id, "instance": seat.id, "instance_id": seat.id,
        "puppet": puppet.id, "source": puppet.id, "source_id": puppet.id, "bone": tamsin.bones[3].id, "bone_id": tamsin.bones[3].id,
        "part": tamsin.parts[2].id, "part_id": tamsin.parts[2].id, "ids": tamsin.bones[3].id, "parent": tamsin.bones[0].id,
        "pin_id": first(tamsin.pins), "limb_id": first(tamsin.limbs), "control_id": first(tamsin.controls), "entry_id": first(tamsin.entries),
        "tip": tamsin.bones[-1].id, "root": tamsin.bones[0].id, "pose_id": first(scene.poses), "marker_id": first(scene.markers),
        "offset_id": first(scene.offsets), "guide_id": first(scene.guides), "sound_id": first(scene.sounds), "gait_id": first(scene.gaits),
        "turn_id": first(scene.turns), "use_id": first(scene.phrase_uses), "link_id": first(scene.plants), "channel": channel.id, "key": key.id,
        "nodes": json.dumps([node]), "beads": json.dumps([[*node, key.time]]), "values": json.dumps([[*node, "turn", 5.0]]),
        "frame": "3", "first": "0", "last": "9", "start": "2", "stop": "9", "time": "4", "x": "5", "y": "6", "number_": "0", "index": "0",
        "ref": "plain", "card": "plain", "on": tamsin.id, "direction": "undo", "name": "Oak", "owners": json.dumps([["part", tamsin.parts[2].id]]),
        "layer": "none", "settings": "{}", "gesture": "turn", "digest": tamsin.parts[2].art_hash, "h": tamsin.parts[2].art_hash, "job_id": "none",
        "days": "30", "about": "first", "way": "even", "share": "0.5", "frames": "24", "rate": "24", "field": "x", "value": "3", "width": "10",
    }  # fmt: skip


def one_request(client, route, plausible, chance, hostile=None, value=None):
    """Ask a route, with everything as a page would send it but for one field."""
    path, query, form = {}, {}, {}
    for place, p in params(route.dependant):
        said = value if p.name == hostile else plausible.get(p.name, "1")
        kinds = getattr(p.field_info.annotation, "__args__", ())
        if p.name != hostile and p.name not in plausible and kinds and all(isinstance(k, str) for k in kinds):
            said = chance.choice(kinds)
        {"path": path, "query": query, "form": form}[place][p.alias] = said
    address = route.path
    for name, said in path.items():
        quoted = "".join(
            ch if (ch.isascii() and ch.isalnum()) or ch in "-_" else "".join(f"%{b:02X}" for b in ch.encode())
            for ch in said
        )
        address = address.replace(f"{{{name}}}", quoted or "%20").replace(f"{{{name}:path}}", quoted or "%20")
    method = next(iter(route.methods))
    headers = {"HX-Request": "true"}
    uploads = [n for n in form if "UploadFile" in str({p.name: p for _, p in params(route.dependant)}.get(n, ""))]
    files = dict.fromkeys(uploads, ("a.bin", b"\x00\x01", "application/octet-stream"))
    data = {n: v for n, v in form.items() if n not in uploads}
    return client.request(method, address, params=query, data=data or None, files=files or None, headers=headers)


def take_back(orchard, stands):
    """Undo what a route did, so that the next one finds everything as it was."""
    for document, revision in stands.items():
        rows = orchard.store.rows("SELECT revision FROM documents WHERE id = ?", (document,))
        for _ in range(rows[0]["revision"] - revision):
            try:
                take_step(orchard.store, document, "undo")
            except HistoryError:
                break


def test_no_route_answers_anything_with_a_raw_error(client, orchard, plausible):
    chance = random.Random(17)
    fields = known_fields()
    assert len(fields) > 40
    wrong, asked = [], 0
    watched = [plausible["scene_id"], plausible["puppet_id"], plausible["puppet"], SHELF]
    for route in [r for r in client.app.routes if isinstance(r, APIRoute)]:
        stands = {
            row["id"]: row["revision"]
            for row in orchard.store.rows("SELECT id, revision FROM documents")
            if row["id"] in watched
        }
        names = [p.name for _, p in params(route.dependant)]
        tries = [(None, None)] + [(n, v) for n in dict.fromkeys(names) for v in chance.sample(HOSTILE, EACH)]
        if {"field", "value"} <= set(names):
            tries += [(field, v) for field in chance.sample(fields, 20) for v in chance.sample(HOSTILE, 1)]
        for name, value in tries:
            given = plausible
            if name in fields and name not in names:
                given, name = {**plausible, "field": name}, "value"
            answer = one_request(client, route, given, chance, name, value)
            asked += 1
            if answer.status_code >= 500:
                wrong.append((route.path, name, (value or "")[:40], given["field"] if name == "value" else ""))
            assert "content-security-policy" in answer.headers
        take_back(orchard, stands)
    assert not wrong, f"{len(wrong)} of {asked}: {wrong}"
    for kind, page in (("scene", "floor"), ("puppet", "bench")):
        for entry in list_documents(orchard.store, kind):
            assert client.get(f"/{page}/{entry.id}").status_code == 200
            assert orchard.frames(entry.id, np.zeros(1)) if kind == "scene" else orchard.compiled_puppet(entry.id)


HX = {"HX-Request": "true"}


@pytest.mark.parametrize(
    ("method", "path", "data", "status"),
    [
        ("post", "/bench/{puppet}/parts/{part}/drawing/0", {"act": "remove"}, 422),
        ("post", "/floor/{scene}/markers/put", {"frame": "-1", "name": "x"}, 422),
        ("post", "/floor/{scene}/puppets/{instance}/set", {"field": "depth", "value": "9223372036854775808"}, 422),
        ("post", "/floor/{scene}/puppets/{instance}/depth/9223372036854775808", {}, 422),
        ("get", "/bench/camera", None, 404),
        ("post", "/bench/camera/puppet", {"name": "Oak"}, 404),
        ("get", "/floor/{scene}/frames.bin?at=1e308", None, 422),
        ("get", "/pictures/scene/{scene}.png?frame=-inf", None, 422),
        ("get", "/static/%00", None, 404),
        ("get", "/static/" + "a" * 5000, None, 404),
        (
            "post",
            "/floor/{scene}/ride",
            {"nodes": "{nodes}", "gesture": "turn", "x": "0", "y": "0", "places": "[[0, 1e308, 0], [5, 3, 3]]"},
            422,
        ),
        ("post", "/bench/{puppet}/parts/set", {"ids": "{part}", "field": "shadow", "value": "10001"}, 422),
        ("post", "/send-off/{scene}/make", {"kind": "tapestry"}, 422),
        ("post", "/floor/{scene}/key-pose", {"frame": "1e9", "nodes": "{nodes}"}, 422),
    ],
)
def test_what_was_once_a_raw_error_is_told(client, orchard, plausible, method, path, data, status):
    names = {"scene": "scene_id", "puppet": "puppet_id", "part": "part_id", "instance": "instance_id", "nodes": "nodes"}
    ids = {short: plausible[name] for short, name in names.items()}
    before = [tuple(e) for kind in ("scene", "puppet") for e in list_documents(orchard.store, kind)]
    data = data and {k: v.format(**ids) if v.startswith("{") else v for k, v in data.items()}
    answer = client.request(method, path.format(**ids), data=data, headers=HX)
    assert answer.status_code == status, answer.text
    assert [tuple(e) for kind in ("scene", "puppet") for e in list_documents(orchard.store, kind)] == before


def test_an_origin_that_is_none_is_another_page(client):
    assert client.post("/scenes", data={"name": "Oak"}, headers={"Origin": "http://["}).status_code == 403


def test_what_nobody_foresaw_is_answered_with_a_number_that_is_in_the_log(client, orchard, tmp_path, monkeypatch):
    handler = keep_log(tmp_path)

    def fails(*_):
        raise RuntimeError(" ".join(["a", "secret", "drawing"]))

    monkeypatch.setattr("gaitwire.web.routers.shelf.page.list_documents", fails)
    answer = client.get("/")
    close_log(handler)
    number = re.search(r"<strong>([0-9A-F]{6})</strong>", answer.text)[1]
    log = (tmp_path / "gaitwire.log").read_text()
    assert answer.status_code == 500 and "default-src 'none'" in answer.headers["content-security-policy"]
    assert number in log and "RuntimeError" in log and "a secret drawing" not in log


def test_health_is_told_in_numbers(client):
    found = client.get("/health").json()
    assert found["store"] == "ok" and found["jobs"]["working"] == 0 and found["file_bytes"] > 100_000
