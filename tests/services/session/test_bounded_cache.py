"""Shelves of values: bounded in number and in bytes, each value made once."""

from threading import Event, Thread

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from gaitwire.services.session.bounded_cache import Shelfful, held_bytes


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 400)), max_size=60))
def test_no_more_is_kept_than_there_is_room_for(asked):
    shelf = Shelfful(5, 6000)
    for key, size in asked:
        assert len(shelf.get((key, size), lambda size=size: np.zeros(size, np.uint8))) == size
        kept = [shelf.peek((k, s)) for k in range(10) for s in range(401)]
        held = [held_bytes(v) for v in kept if v is not None]
        assert len(held) <= 5 and (sum(held) <= 6000 or len(held) == 1)


def test_what_is_asked_for_often_stays():
    shelf = Shelfful(2)
    for key in ("a", "b", "a", "c"):
        shelf.get(key, lambda key=key: key.upper())
    assert (shelf.peek("a"), shelf.peek("b"), shelf.peek("c")) == ("A", None, "C")


def test_who_asks_while_it_is_made_waits_for_that_one_and_a_failure_leaves_nothing():
    shelf, begun, go = Shelfful(2), Event(), Event()
    made = []

    def slow():
        begun.set()
        go.wait(60)
        made.append(1)
        return "one"

    first = Thread(target=lambda: shelf.get("key", slow))
    first.start()
    begun.wait(60)
    second = Thread(target=lambda: shelf.get("key", slow))
    second.start()
    go.set()
    for thread in (first, second):
        thread.join(60)
    assert made == [1] and shelf.peek("key") == "one"
    try:
        shelf.get("bad", lambda: 1 / 0)
    except ZeroDivisionError:
        assert shelf.get("bad", lambda: 2) == 2


def test_bytes_are_counted_through_what_values_are_made_of():
    one = held_bytes(np.zeros(1000))
    assert 8000 <= one < 8200
    assert held_bytes({"a": (np.zeros(1000), "x" * 500)}) >= one + 500
