"""Waiting for something to be so, however busy the machine is."""

from __future__ import annotations

import time
from collections.abc import Callable

LONG = 120.0
"""Seconds after which something is taken to be stuck; nothing that goes well comes near it."""


def until(check: Callable[[], object], seconds: float = LONG) -> None:
    """Wait until a check says yes."""
    end = time.monotonic() + seconds
    while not check():
        assert time.monotonic() < end, "never came true"
        time.sleep(0.02)
