"""Serving the pages on this machine, and on no other."""

from __future__ import annotations

import gc
import logging
import os
import socket
import threading
import time
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from types import FrameType

import uvicorn

from gaitwire import __version__
from gaitwire.core.errors import GaitWireError
from gaitwire.services.session.journal import close_log, keep_log, log
from gaitwire.services.session.locking import writing
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.backups import copy_before_update
from gaitwire.store.faults import BrokenStoreError, ReadOnlyStoreError, StoreError
from gaitwire.web.app import create_app
from gaitwire.web.rescue import create_rescue

HOST = "127.0.0.1"

GRACE = 1
"""Seconds in which requests under way may end once the program is told to."""

LATEST = 2.5
"""Seconds after which the program ends in any case."""


class PortError(GaitWireError):
    """The port cannot be had."""


def listen(port: int) -> socket.socket:
    """A socket on the port (0: any free one); raises PortError when another program has it."""
    # Its protocol named, asyncio sends at once; else every answer waits 40 ms for the one before to be taken.
    sock = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        sock.bind((HOST, port))
    except (OSError, OverflowError) as error:
        sock.close()
        why = getattr(error, "strerror", None) or "ports go from 1 to 65535"
        raise PortError(f"Port {port} cannot be used ({why}).", "Choose another with --port.") from None
    return sock


def serve_store(
    folder: Path, sock: socket.socket, built: Callable[[Workspace], None], started: Callable[[], None],
    told: Callable[[str], None],
) -> None:  # fmt: skip
    """Serve the store in a folder until stopped; one that is damaged is first offered to be put right.

    `built` is given the open workspace before it is served; `started` is called once the address answers;
    `told` takes what the person at the terminal should know.
    """
    port = sock.getsockname()[1]
    quiet_server()
    with ExitStack() as stack:
        why = None
        try:
            stack.enter_context(writing(folder, f"a server on port {port}"))
        except ReadOnlyStoreError as error:
            why = error
        stack.callback(close_log, None if why else keep_log(folder))
        store = None
        while store is None:
            try:
                store = Store(folder, reading=why is not None, before_migrating=copy_before_update)
            except BrokenStoreError as error:
                log.error("the store is damaged")
                told(f"gaitwire: {error}")
                if not _rescued(folder, error, sock, started):
                    return
                sock = stack.enter_context(listen(port))
        stack.callback(store.close)
        store.read_only = why or store.read_only
        if store.read_only:
            told(f"gaitwire: {store.read_only} The pages can be looked at, and nothing can be changed.")
        for line in store.told:
            log.warning("on opening: %s", line)
            told(f"On opening: {line}.")
        if store.mended:
            told("The store's indexes were damaged and were made anew; nothing else was.")
        log.info("version %s serves %s on port %d", __version__, folder, port)
        workspace = Workspace(store)
        built(workspace)
        run(workspace, sock, started)


class _NoTracebacks(logging.Filter):
    """Errors have been answered and stand in the log of ours: the terminal is told what happened, not where."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.exc_info = record.exc_text = None
        return not record.getMessage().startswith(("Exception in ASGI", "Traceback"))


def quiet_server() -> None:
    """Let the web server's own messages through to the terminal, without tracebacks."""
    server_log = logging.getLogger("uvicorn")
    if not server_log.handlers:
        handler = logging.StreamHandler()
        handler.addFilter(_NoTracebacks())
        server_log.addHandler(handler)
    server_log.setLevel(logging.WARNING)
    server_log.propagate = False


def _rescued(folder: Path, fault: StoreError, sock: socket.socket, started: Callable[[], None]) -> bool:
    """Serve the page on which a copy is put in the place of a damaged store; whether that was done."""
    app = create_rescue(folder, fault)
    server = Server(uvicorn.Config(app, log_config=None, timeout_graceful_shutdown=GRACE), started)
    app.state.done = server.leave
    server.run(sockets=[sock])
    return bool(app.state.restored)


def run(workspace: Workspace, sock: socket.socket, started: Callable[[], None]) -> None:
    """Serve until stopped. Frames are not compressed: that would take longer than sending them."""
    # Scenes are trees of many small objects that stay: looking through them all for rubbish holds
    # every answer up for a tenth of a second, and finds none.
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 100)
    config = uvicorn.Config(
        create_app(workspace), log_config=None, ws_per_message_deflate=False, ws_max_size=1 << 20,
        timeout_graceful_shutdown=GRACE,
    )  # fmt: skip
    Server(config, started).run(sockets=[sock])


class Server(uvicorn.Server):
    """Ends soon when it is told to, whatever it is at: an edit is on disk before it is acknowledged."""

    def __init__(self, config: uvicorn.Config, started: Callable[[], None]) -> None:
        super().__init__(config)
        self._tell = started

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        if self.started:
            self._tell()

    def leave(self) -> None:
        """End because the work is done."""
        self.should_exit = True

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        if not self.should_exit:
            threading.Thread(target=_end_late, name="end", daemon=True).start()
        super().handle_exit(sig, frame)


def _end_late() -> None:
    """What still runs after the grace is given up, and with it the process: threads cannot be ended otherwise."""
    time.sleep(LATEST)
    log.warning("ended while something was still under way")
    os._exit(0)
