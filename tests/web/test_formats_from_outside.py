"""Kinds of file added by one line each: the page, the jobs and the command line know them by the list alone."""

import re

import pytest

from builders.sinks import GREYS, TOPS
from builders.waiting import until
from gaitwire.core.errors import InvalidInputError
from gaitwire.formats.sinks import SINKS
from gaitwire.services.output.sendoff import find_scene, format_of, render_to


@pytest.fixture(autouse=True)
def known(monkeypatch):
    for format_ in (GREYS, TOPS):
        monkeypatch.setitem(SINKS, format_.name, format_)


def test_the_page_lists_makes_shows_and_hands_out_one(client, orchard):
    scene = find_scene(orchard, "Pip hops")
    page = client.get(f"/send-off/{scene}").text
    assert "how grey every frame is" in page and "the part on top of every frame" in page
    assert re.search(r'data-of="svg gif">\s*<fieldset class="row plays"', page)  # what they have no use for
    base = f"/send-off/{scene}"
    made = client.post(f"{base}/make", data={"kind": "greys", "scale": "20", "last": "9"}).text
    job = base + "/jobs/" + re.search(r'data-job="([^"]+)"', made)[1]
    until(lambda: "Save" in client.get(job).text)
    until(lambda: "11 lines" in client.get(f"{job}/aside").text)
    file = client.get(f"{job}/file?save=true")
    assert file.headers["content-disposition"].endswith("Pip%20hops.greys")
    assert file.headers["content-type"].startswith("text/plain")
    first, *rest = file.text.splitlines()
    assert first == f"Pip hops, first {rest[0]}" and len(rest) == 10 and len(set(rest)) > 5
    assert client.get(f"{job}/frames/0.png").status_code == 404


def test_the_command_line_knows_it_by_its_ending_or_its_name(orchard, tmp_path):
    scene = find_scene(orchard, "Pip hops")
    render_to(orchard, scene, tmp_path / "pip.tops", format_of(tmp_path / "pip.tops"))
    assert len((tmp_path / "pip.tops").read_text().splitlines()) == 25  # and the one at the end of its time
    assert format_of(tmp_path / "pip.txt", "greys") is GREYS
    assert format_of(tmp_path / "a folder") is SINKS["png"]
    with pytest.raises(InvalidInputError, match="no kind of file"):
        format_of(tmp_path / "pip.txt")
