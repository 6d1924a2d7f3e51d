"""Files that mean harm, and files that are broken: a clear refusal, never a crash."""

import sqlite3

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from builders.making import hog, spin
from gaitwire.core.errors import GaitWireError, UnreadableArtError
from gaitwire.formats.reading import LIMITS
from gaitwire.formats.svg import read_svg
from gaitwire.formats.svg.document import parse_document
from gaitwire.services.library.art_in import import_art
from gaitwire.services.session.workers import run_limited

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 9 9">'
GOOD = '<rect width="9" height="9"/>'


def svg(body):
    return f"{HEAD}{body}</svg>".encode()


BOMB = (
    "".join(f'<g id="b{i}">' + f'<use href="#b{i + 1}"/>' * 10 + "</g>" for i in range(8))
    + '<rect id="b8" width="1" height="1"/>'
)
ENTITIES = b'<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]>' + svg("<text>&b;</text>")
OUTSIDE = b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>' + svg("<text>&x;</text>")
LONG = b'<!DOCTYPE svg [<!ENTITY a "' + b"a" * 301 + b'">]>' + svg("<text>&a;</text>")

CORPUS = {
    "empty": (b"", "empty"),
    "not xml": (b"hello", "readable"),
    "not svg": (b"<html><body/></html>", "not an SVG"),
    "broken off": (svg(GOOD)[:-9], "readable"),
    "script": (svg(GOOD + "<script>alert(1)</script>"), "script"),
    "event": (svg('<rect width="9" height="9" onload="alert(1)"/>'), "actions"),
    "outside picture": (svg('<image href="http://orchard.example/a.png" width="9" height="9"/>'), "links to another file"),
    "file picture": (svg('<image xlink:href="file:///etc/passwd" width="9" height="9"/>'), "links to another file"),
    "outside use": (svg('<use href="other.svg#a"/>'), "links to another file"),
    "import": (svg(GOOD + "<style>@import url(http://orchard.example/a.css);</style>"), "another file"),
    "style url": (svg('<rect width="9" height="9" style="fill:url(http://orchard.example/#a)"/>'), "another file"),
    "style sheet": (b'<?xml-stylesheet href="a.css"?>' + svg(GOOD), "another file"),
    "entities": (ENTITIES, "entities"),
    "outside entity": (OUTSIDE, "entities"),
    "long entities": (LONG, "entities"),
    "use bomb": (svg(BOMB), "Repeated by"),
    "too many": (svg("<g/>" * (LIMITS.nodes + 1)), "more than"),
    "too deep": (svg("<g>" * 100 + GOOD + "</g>" * 100), "deep"),
    "too large": (svg(GOOD + " " * LIMITS.bytes), "larger than"),
    "overflow": (svg('<rect x="1e300" width="9" height="9"/>'), "no number"),
    "far transform": (svg('<g transform="translate(1e99 0)"><rect width="9" height="9"/></g>'), "no number"),
    "huge page": (b'<svg xmlns="http://www.w3.org/2000/svg" width="1e9" height="9"><rect width="9" height="9"/></svg>', "no number"),
    "no page": (b'<svg xmlns="http://www.w3.org/2000/svg" width="0" height="9"><rect width="9" height="9"/></svg>', "page"),
    "nothing": (svg('<rect width="0" height="9"/>'), "nothing to draw"),
    "wrong encoding": (b'<?xml version="1.0" encoding="utf-8"?>' + svg("<title>Bl\u00e4tter</title>" + GOOD).decode().encode("latin-1"), "readable"),
    "unknown encoding": (b'<?xml version="1.0" encoding="klingon"?>' + svg(GOOD), "readable"),
}  # fmt: skip


@pytest.mark.parametrize("name", CORPUS)
def test_each_is_refused_with_a_clear_message(name):
    data, words = CORPUS[name]
    with pytest.raises(UnreadableArtError) as refused:
        read_svg(data)
    assert words in str(refused.value)
    assert refused.value.hint


@pytest.mark.parametrize("name", ["script", "use bomb", "broken off"])
def test_nothing_is_stored_of_a_refused_file(workspace, name):
    with pytest.raises(UnreadableArtError):
        import_art(workspace, CORPUS[name][0], "a.svg")
    for table in ("puppets", "bones", "parts", "blobs", "steps"):
        with sqlite3.connect(workspace.store.path) as other:
            assert other.execute(f"SELECT count(*) FROM {table}").fetchone() == (0,), table
        other.close()


@pytest.mark.parametrize("bad", ["NaN", "inf", "1e400", "--3", "", "5,5,,", "9%%", "\u221e"])
def test_bad_numbers_anywhere_never_crash(bad):
    body = (
        f'<rect x="{bad}" y="{bad}" width="9" height="{bad}" rx="{bad}"/><circle r="{bad}" cx="{bad}"/>'
        f'<path d="M{bad} 0L{bad} 9Z"/><polygon points="{bad}"/><g transform="rotate({bad})">{GOOD}</g>'
        f'<path d="M0 0H9V9Z" stroke="red" stroke-width="{bad}" stroke-dasharray="{bad}" opacity="{bad}"/>{GOOD}'
    )
    try:
        assert read_svg(svg(body)).parts
    except UnreadableArtError as refused:
        assert refused.message


words = st.sampled_from(
    ["<g>", "</g>", "<path d='", "'/>", "M0 0", "C1 2 3", "Z", "<use href='#a'/>", "<rect id='a' width='5' height='5'/>",
     "transform='", "scale(", "1e9", "-", ")", "fill='url(#a)'", "<clipPath id='a'>", "</clipPath>", "clip-path='url(#a)'",
     "<style>", "</style>", "* { fill", ": red }", "<mask id='a'/>", "\x00", "&amp;", "<!--"]
)  # fmt: skip


@settings(max_examples=200)
@given(st.lists(words, max_size=25))
def test_shuffled_svg_is_read_or_refused(pieces):
    try:
        read_svg(svg(" ".join(pieces)))
    except GaitWireError as refused:
        assert refused.message


@settings(max_examples=100)
@given(st.binary(max_size=300))
def test_noise_is_refused(data):
    with pytest.raises(GaitWireError):
        read_svg(data)


def test_a_worker_that_takes_too_much_is_stopped():
    with pytest.raises(GaitWireError, match="memory"):
        run_limited(hog)
    with pytest.raises(GaitWireError, match="longer than 1 seconds"):
        run_limited(spin, seconds=1.0)


def test_plain_abbreviations_of_namespaces_are_read():
    """As some drawing programs write them; what they stand for is put in, and nothing is fetched."""
    text = (
        b"<?xml version='1.0'?>\n<!DOCTYPE svg PUBLIC '-//W3C//DTD SVG 1.1//EN' 'http://www.w3.org/svg11.dtd' [\n"
        b"\t<!ENTITY ns_svg \"http://www.w3.org/2000/svg\">\n\t<!ENTITY red '#a03020'>\n]>\n"
        b'<svg xmlns="&ns_svg;" viewBox="0 0 9 9"><rect fill="&red;" width="9" height="9"/><text>&amp;</text></svg>'
    )
    root = parse_document(text)
    assert root.tag == "{http://www.w3.org/2000/svg}svg" and root[0].get("fill") == "#a03020" and root[1].text == "&"
    with pytest.raises(UnreadableArtError, match="no readable SVG"):
        parse_document(text.replace(b"&red;", b"&blue;"))
