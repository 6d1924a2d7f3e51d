"""Serving the pages on this machine, and on no other."""

from __future__ import annotations

import gc
import socket

import uvicorn

from gaitwire.core.errors import GaitWireError
from gaitwire.services.workspace import Workspace
from gaitwire.web.app import create_app

HOST = "127.0.0.1"


class PortError(GaitWireError):
    """The port cannot be had."""


def listen(port: int) -> socket.socket:
    """A socket on the port (0: any free one); raises PortError when another program has it."""
    # Its protocol named, asyncio sends at once; else every answer waits 40 ms for the one before to be taken.
    sock = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        sock.bind((HOST, port))
    except OSError as error:
        sock.close()
        raise PortError(f"Port {port} cannot be used ({error.strerror}).", "Choose another with --port.") from None
    return sock


def run(workspace: Workspace, sock: socket.socket) -> None:
    """Serve until stopped. Frames are not compressed: that would take longer than sending them."""
    # Scenes are trees of many small objects that stay: looking through them all for rubbish holds
    # every answer up for a tenth of a second, and finds none.
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 100)
    config = uvicorn.Config(
        create_app(workspace), log_level="warning", ws_per_message_deflate=False, ws_max_size=1 << 20
    )
    uvicorn.Server(config).run(sockets=[sock])
