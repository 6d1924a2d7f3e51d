"""Values kept: bounded in number or in bytes, each made once."""

from threading import Event, Thread

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from gaitwire.services.session.bounded_cache import BoundedCache, held_bytes


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 4000)), max_size=60))
def test_no_more_is_kept_than_there_is_room_for(asked):
    shelf = BoundedCache(most_bytes=6000)
    for key, size in asked:
        assert len(shelf.get((key, size), lambda size=size: np.zeros(size, np.uint8))) == size
        kept = [shelf.peek((k, s)) for k in range(10) for s in {size for _, size in asked}]
        held = [held_bytes(v) for v in kept if v is not None]
        assert sum(held) <= 6000


def test_what_is_asked_for_often_stays():
    shelf = BoundedCache(2)
    for key in ("a", "b", "a", "c"):
        shelf.get(key, lambda key=key: key.upper())
    assert (shelf.peek("a"), shelf.peek("b"), shelf.peek("c")) == ("A", None, "C")


def test_who_asks_while_it_is_made_waits_for_that_one_and_a_failure_leaves_nothing():
    shelf, begun, go = BoundedCache(2), Event(), Event()
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
