"""Host, Origin and the policy, on every kind of request."""

import re

import pytest
from starlette.websockets import WebSocketDisconnect

from gaitwire.store.documents import list_documents

OK = "http://127.0.0.1:8765"


@pytest.mark.parametrize("host", ["orchard.example", "127.0.0.1.orchard.example", "", "localhost.", "192.168.0.7:8765"])
@pytest.mark.parametrize("path", ["/", "/static/js/shared/lamp.js", "/blobs/x"])
def test_only_this_machines_names_are_answered(client, host, path):
    assert client.get(path, headers={"Host": host}).status_code == 403


@pytest.mark.parametrize("host", ["127.0.0.1:8765", "localhost:1", "[::1]:8765", "LOCALHOST"])
def test_all_of_this_machines_names_are(client, host):
    assert client.get("/", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "origin", ["http://orchard.example", "null", "http://127.0.0.1:9999", "http://localhost:8765", None]
)
def test_writes_from_elsewhere_change_nothing(client, orchard, origin):
    headers = {"Origin": origin} if origin else {}
    del client.headers["Origin"]
    found = client.post("/scenes", data={"name": "Intruder"}, headers=headers)
    assert found.status_code == 403
    assert "Intruder" not in {e.name for e in list_documents(orchard.store, "scene")}


def test_sockets_from_elsewhere_are_closed(client, orchard):
    scene = list_documents(orchard.store, "scene")[0].id
    with (
        pytest.raises(WebSocketDisconnect) as closed,
        client.websocket_connect(
            f"ws://127.0.0.1:8765/live/scene/{scene}", headers={"Origin": "http://orchard.example"}
        ),
    ):
        pass
    assert closed.value.code == 1008


def test_every_answer_carries_the_policy_and_pages_need_nothing_inline(client, orchard):
    paths = ["/", "/nowhere", "/static/css/app.css"]
    paths += [f"/bench/{e.id}" for e in list_documents(orchard.store, "puppet")[:1]]
    for e in list_documents(orchard.store, "scene")[:1]:
        paths += [f"/floor/{e.id}", f"/send-off/{e.id}"]
    for path in paths:
        found = client.get(path)
        policy = found.headers["content-security-policy"]
        assert "default-src 'none'" in policy and "unsafe" not in policy
        assert found.headers["x-content-type-options"] == "nosniff"
        if "html" in found.headers["content-type"]:
            assert not re.search(r"<script(?![^>]*\bsrc=)", found.text), path
            assert not re.search(r"\s(style|on\w+)=", found.text), path


def test_a_page_that_is_not_there_helps(client):
    found = client.get("/bench/00000000-0000-0000-0000-000000000000")
    assert found.status_code == 404
    assert "Shelf" in found.text


def test_an_upload_beyond_the_limit_is_refused(client):
    found = client.post(
        "/puppets", files={"art": ("a.svg", b" " * 60_000_001, "image/svg+xml")}, headers={"HX-Request": "true"}
    )
    assert found.status_code == 413
    assert "larger than 60 MB" in found.text
