"""Work in a process of its own, with limits of memory and time, so that bad input harms nothing."""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import resource
import signal
import threading
import traceback
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from gaitwire.core.errors import GaitWireError, JobError, TooLargeError, UnreadableArtError
from gaitwire.services.session.journal import log

Result = TypeVar("Result")

MEMORY = 1_500_000_000
"""Bytes a worker may take beyond what it starts with."""

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
process_context = multiprocessing.get_context("forkserver")
process_context.set_forkserver_preload(["gaitwire.services.session.preload"])


def warm_up() -> None:
    """Start the process that others are forked from, with what they need loaded, before it is wanted."""
    process = process_context.Process(target=_nothing, daemon=True)
    process.start()


def _nothing() -> None:
    return


PAGE = resource.getpagesize()
"""Bytes of a page of memory."""


def pages_in_use() -> tuple[int, int]:
    """Pages of memory of this process: all that it was given, and what is held in memory now.

    Raises OSError where the system does not say.
    """
    with open("/proc/self/statm") as statm:  # noqa: PTH123
        given, held = statm.read().split()[:2]
    return int(given), int(held)


def give_memory_back() -> None:
    """Let the system have what was freed in small pieces; C libraries that know no such call keep it."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)


def limit_memory(extra: int) -> None:
    """Let this process grow by `extra` bytes at most, where the system can say how large it is."""
    try:
        most = pages_in_use()[0] * PAGE + extra
        resource.setrlimit(resource.RLIMIT_AS, (most, resource.getrlimit(resource.RLIMIT_AS)[1]))
    except (OSError, ValueError):
        return


READING, MAKING = 4, 10
"""By how much workers stand back for pages: somebody waits for a file to be read, a film may take its time."""


def humble(extra: int) -> None:
    """Make this worker one that harms nobody: after the pages in turn, with a limit, and gone when its program is."""
    limit_memory(extra)
    wait_on_pages(READING)
    watch_parent()


def wait_on_pages(by: int) -> None:
    """Have the program's pages go first."""
    with suppress(OSError):
        os.nice(by)


def watch_parent() -> None:
    """End when whoever started this process has ended; takes a thread, so whoever forks does so before."""
    threading.Thread(target=_end_with_parent, daemon=True).start()


def _end_with_parent() -> None:
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)


_turns = threading.BoundedSemaphore(2)
"""Workers that read files at a time; who comes later waits."""


def _child(pipe: Connection, work: Callable[..., Any], args: tuple[Any, ...], seconds: float) -> None:
    humble(MEMORY)
    whole = int(seconds) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (whole, whole + 1))
    try:
        pipe.send((True, work(*args)))
    except GaitWireError as error:
        pipe.send((False, error))
    except MemoryError:
        pipe.send((False, TooLargeError("This file needs more memory than is allowed.", "Make it simpler.")))
    except Exception as error:  # noqa: BLE001 - a mistake of a reader; the program's log has where it was
        pipe.send((False, _MistakeError("".join(traceback.format_tb(error.__traceback__)), type(error).__name__)))


class _MistakeError(GaitWireError):
    """What nobody foresaw in a worker: where it was, and the error's kind."""


def run_limited(work: Callable[..., Result], *args: Any, seconds: float = 60.0) -> Result:
    """work(*args) in a worker process; its errors of ours come back as they are.

    Raises TooLargeError when it takes too long or too much, JobError when it dies. `seconds` are those in which it
    works; where others keep the machine busy it may take longer.
    """
    with _turns:
        return _run_limited(work, args, seconds)


_PATIENCE = 3
"""How many times as long as it may work a worker may take, before it is taken to be stuck."""


def _too_long(seconds: float) -> TooLargeError:
    return TooLargeError(f"Reading this took longer than {seconds:g} seconds.", "Make it simpler.")


def _run_limited(work: Callable[..., Result], args: tuple[Any, ...], seconds: float) -> Result:
    receiver, sender = process_context.Pipe(duplex=False)
    process = process_context.Process(target=_child, args=(sender, work, args, seconds), daemon=True)
    process.start()
    sender.close()
    try:
        if not receiver.poll(_PATIENCE * seconds):
            raise _too_long(seconds)
        good, value = receiver.recv()
    except EOFError:
        process.join()
        if process.exitcode == -signal.SIGXCPU:
            raise _too_long(seconds) from None
        raise JobError("The worker stopped without an answer.", "The file may be too large; make it simpler.") from None
    finally:
        process.kill()
        process.join()
        process.close()
        receiver.close()
    if isinstance(value, _MistakeError):
        log.error("%s in a worker\n%s", value.hint, value.message)
        raise UnreadableArtError(
            "This could not be read: it is damaged, or made in a way that is not understood here.",
            "Open it in the program that it comes from and save it again.",
        )
    if not good:
        raise value
    return value  # type: ignore[no-any-return]
