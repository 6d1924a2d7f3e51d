"""Scripts, styles and fonts: kept by browsers as long as they are the same."""

import re
from posixpath import join, normpath

from gaitwire.store.documents import list_documents
from gaitwire.web.static_files import stamp


def imports_of(client, address, seen):
    """All scripts that a script asks for, by the addresses that a browser makes of them."""
    if address in seen:
        return
    seen[address] = found = client.get(address)
    for name in re.findall(r"""(?:from|import|import\(|URL\()\s*["'`](\.[^"'`$]+\.js)""", found.text):
        imports_of(client, normpath(join(address, "..", name)), seen)


def test_all_that_a_page_loads_may_be_kept(client, orchard):
    floor = client.get(f"/floor/{list_documents(orchard.store, 'scene')[0].id}").text
    asked = {}
    for address in set(re.findall(r'(?:src|href)="(/static/[^"]+)"', floor)):
        imports_of(client, address, asked)
    assert len(asked) > 60 and any(a.endswith("stage/painter.js") for a in asked)
    assert {a: r.status_code for a, r in asked.items() if r.status_code != 200} == {}
    assert [a for a in asked if not a.startswith(f"/static/{stamp()}/")] == []
    assert [a for a, r in asked.items() if "immutable" not in r.headers["cache-control"]] == []


def test_a_page_from_before_a_renewal_gets_what_is_there_now_and_keeps_nothing(client):
    for address in ("/static/v0123456789/js/shared/lamp.js", "/static/js/shared/lamp.js"):
        found = client.get(address)
        assert found.status_code == 200 and found.headers["cache-control"] == "no-cache"
        assert client.get(address, headers={"If-None-Match": found.headers["etag"]}).status_code == 304
