"""Phrases as files: what is written is read again, and what is no phrase is refused with a reason."""

import json

import pytest

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.ready import READY, phrase_of
from gaitwire.formats.phrase_file import MOST_BYTES, phrase_text, read_phrase


@pytest.mark.parametrize("name", READY)
def test_a_phrase_comes_back_as_it_was(name):
    phrase = phrase_of(READY[name], {})
    assert read_phrase(phrase_text(phrase).encode()) == phrase.model_copy(update={"id": ""})


def changed(**values):
    return json.dumps({**json.loads(phrase_text(phrase_of(READY["nod"], {}))), **values}).encode()


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"\xff\x00", "no phrase"),
        (b"[]", "no phrase"),
        (b'{"format": "gait card"}', "no phrase"),
        (b"[" * 100_000, "no phrase"),
        (b" " * (MOST_BYTES + 1), "too long"),
        (changed(version=9), "version 9"),
        (changed(length=-1), "“length” does not fit"),
        (changed(length=2), "within it"),
        (changed(rows=[]), "“rows” does not fit"),
        (changed(tags=["x" * 50]), "a tag has"),
        (changed(seat=0), "without size"),
    ],
)
def test_what_is_no_phrase_is_refused(data, said):
    with pytest.raises(InvalidInputError, match=said):
        read_phrase(data)
