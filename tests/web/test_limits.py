"""Uploads beyond the limit are refused before they are read, and told where the user is."""

from gaitwire.formats.reading import LIMITS
from gaitwire.store.documents import list_documents


def test_a_hundred_megabytes_are_refused_unread(client, orchard):
    headers = {
        "Content-Length": str(100_000_000),
        "HX-Request": "true",
        "Content-Type": "multipart/form-data; boundary=b",
    }
    found = client.post("/puppets", content=b"", headers=headers)
    assert found.status_code == 413
    assert found.headers["HX-Retarget"] == "#remarks" and "larger than 60 MB" in found.text
    assert client.get("/").status_code == 200


def test_a_body_without_a_length_is_refused(client):
    assert client.post("/puppets", content=iter([b"abc"])).status_code == 413


def test_a_file_just_beyond_the_limit_is_refused_and_nothing_is_stored(client, orchard):
    before = list_documents(orchard.store, "puppet")
    data = b"<svg>" + b" " * LIMITS.packed
    found = client.post("/puppets", files={"art": ("big.svg", data, "image/svg+xml")}, headers={"HX-Request": "true"})
    assert found.status_code == 413 and "larger than 60 MB" in found.text
    assert list_documents(orchard.store, "puppet") == before
