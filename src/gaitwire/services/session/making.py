"""The worker that makes one file: it evaluates the scene once, and helpers that it forks draw pictures for it.

Helpers share what it has in memory. Their pictures come through pipes that hold one or two, in turns, so that they
are added in order and never held all at once.
"""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, NamedTuple

from gaitwire.core.errors import GaitWireError, JobError
from gaitwire.formats.exporting import Production
from gaitwire.formats.sinks import Format, PictureSink, Sink, drawing, fill
from gaitwire.services.session.workers import MAKING, limit_memory, wait_on_pages, watch_parent

HELPERS = 2
"""Processes that draw beside the one that puts the file together."""

BUDGET = 3_000_000_000
"""Bytes that all of them may take beyond what they start with."""

_HELPER = 3 * BUDGET // 8
_MAKER = BUDGET - HELPERS * _HELPER

_FEW = 2
"""Pictures for which no helper is worth its start."""

_forked = multiprocessing.get_context("fork")


class Added(NamedTuple):
    """A picture is in the file."""

    place: int


class Written(NamedTuple):
    """The file is whole, and in its place."""

    size: int


class Aside(NamedTuple):
    """What is told of it besides."""

    said: str


def make(pipe: Connection, format_: Format, production: Production[Any], target: Path, aside: bool) -> None:
    """A worker's whole life: the file beside its place, then moved there; tells what it does, and None at the end."""
    with suppress(OSError):
        os.setpgid(0, 0)  # it is ended together with its helpers
    with _told(pipe, "The file could not be written"):
        limit_memory(_MAKER)
        wait_on_pages(MAKING)
        part = target.with_suffix(".part")
        sink: Sink[Any] = format_.sink(production, part)
        for index in _filled(sink):
            pipe.send(Added(index))
        part.rename(target)
        pipe.send(Written(target.stat().st_size))
        if aside and (said := sink.aside()):
            pipe.send(Aside(said))
        pipe.send(None)


def _filled(sink: Sink[Any]) -> Iterator[int]:
    """Make a whole file; yields the place of each picture that is in it."""
    if isinstance(sink, PictureSink) and len(sink.production) > _FEW:
        return _fill_together(sink)
    watch_parent()
    return fill(sink)


@contextmanager
def _told(pipe: Connection, what: str) -> Iterator[None]:
    """Errors are sent to who asked, in words."""
    try:
        yield
    except GaitWireError as error:
        pipe.send(error)
    except MemoryError:
        pipe.send(JobError("This needs more memory than is allowed.", "Choose a smaller size or fewer frames."))
    except OSError as error:
        with suppress(OSError):  # who asked may be gone
            pipe.send(JobError(f"{what} ({error.strerror or error}).", "Make room on the disk."))


def _fill_together(sink: PictureSink[Any]) -> Iterator[int]:
    """Make a whole file of pictures that helpers draw; yields the place of each that is in it."""
    production = sink.production
    draw = drawing(production)
    sink.open(draw)
    del draw
    count = len(production.frames)  # evaluated before there are helpers, if nobody has asked for them yet
    pipes = []
    for n in range(HELPERS):
        receiver, sender = _forked.Pipe(duplex=False)
        helper = _forked.Process(target=_help, args=(sender, sink, range(n, count, HELPERS)), daemon=True)
        helper.start()
        sender.close()
        pipes.append(receiver)
    watch_parent()
    for index in range(count):
        sink.add(_piece_of(pipes[index % HELPERS]))
        yield index
    sink.close()


def _piece_of(pipe: Connection) -> bytes:
    """The next of a helper; raises what it raised, and JobError if it died."""
    try:
        piece: bytes | GaitWireError = pipe.recv()
    except EOFError:
        raise JobError(
            "A worker stopped without an answer.", "There may be too little memory; try a smaller size."
        ) from None
    if isinstance(piece, GaitWireError):
        raise piece
    return piece


def _help(pipe: Connection, sink: PictureSink[Any], indices: range) -> None:
    """A helper's whole life: draw some of the pictures."""
    limit_memory(_HELPER)
    watch_parent()
    with _told(pipe, "A picture could not be drawn"):
        draw = drawing(sink.production)
        for index in indices:
            pipe.send(sink.piece(draw(index)))
