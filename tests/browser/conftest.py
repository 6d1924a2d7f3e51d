"""The real program on a free port, over a copy of the orchard."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import cache

import pytest
import uvicorn
from playwright.sync_api import Page

from builders.waiting import until as so
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import list_documents
from gaitwire.web.app import create_app


def until(page: Page, script: str, seconds: float = 30.0) -> None:
    """Wait for a script to say yes; the page's policy keeps Playwright's own polling out."""
    end = time.monotonic() + seconds
    while not page.evaluate(f"Boolean({script})"):
        assert time.monotonic() < end, f"never came true: {script}"
        page.wait_for_timeout(25)


def painted(page: Page) -> None:
    """Wait until the page has drawn twice, by the browser's own clock: by then it has begun what it was told."""
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))")


def patiently(page: Page, check: Callable[[], object], seconds: float = 30.0) -> None:
    """Wait for something outside the page to be so, while the page goes on."""
    end = time.monotonic() + seconds
    while not check():
        assert time.monotonic() < end, "never came true"
        page.wait_for_timeout(25)


@dataclass
class Program:
    """A running program, and short ways to its pages."""

    home: str
    workspace: Workspace
    page: Page

    def id_of(self, kind: str, name: str) -> str:
        return next(e.id for e in list_documents(self.workspace.store, kind) if e.name == name)

    def until(self, script: str, page: Page | None = None) -> None:
        until(page or self.page, script)

    def open(self, path: str = "/") -> Page:
        self.page.goto(self.home + path)
        return self.page

    def bench(self, name: str) -> Page:
        self.open(f"/bench/{self.id_of('puppet', name)}")
        self.until("window.gaitwire?.revision !== undefined")
        self.page.wait_for_selector("#card h2")
        return self.page

    def floor(self, name: str) -> Page:
        self.open(f"/floor/{self.id_of('scene', name)}")
        self.ready()
        return self.page

    def ready(self) -> None:
        """Wait until the Floor has all its frames and its card."""
        self.until("window.gaitwire?.player.all")
        self.page.wait_for_selector("#card h2")

    def settled(self) -> None:
        """Wait until what a hand did has gone out, edits are answered and what they changed is shown."""
        # An edit goes out when the last live answer is there, which may be late on a busy machine.
        self.page.evaluate("window.gaitwire?.live?.settled?.()")
        painted(self.page)
        self.until("document.querySelector('.standing.busy') === null")
        self.page.evaluate("window.gaitwire.settled()")
        self.until(
            "String(window.gaitwire.revision) === document.getElementById('standing').dataset.revision"
            " && window.gaitwire.calm"
        )

    def at(self, x: float, y: float) -> tuple[float, float]:
        """Where a point of the stage is on the page."""
        px, py = self.page.evaluate("([x, y]) => window.gaitwire.toPage(x, y)", [x, y])
        return px, py

    def drag(self, start: tuple[float, float], end: tuple[float, float], steps: int = 8) -> None:
        """Drag with the mouse, in page pixels, and wait for what it does."""
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move(*end, steps=steps)
        self.page.mouse.up()
        self.settled()


@cache
def _port() -> int:
    """The same free port for all programs of a run: the browser then knows their files, and has them compiled."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def running(workspace: Workspace, page: Page) -> Iterator[Program]:
    """The program over a workspace, which is closed with it."""
    port = _port()
    config = uvicorn.Config(
        create_app(workspace), host="127.0.0.1", port=port, log_level="error", ws_per_message_deflate=False
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    so(lambda: server.started)
    yield Program(f"http://127.0.0.1:{port}", workspace, page)
    if page.url.startswith("http"):
        page.evaluate("localStorage.clear()")  # a port may come again
    page.goto("about:blank")
    _end(server, thread)


def _end(server: uvicorn.Server, thread: threading.Thread) -> None:
    """Stop a server whole, before the next one takes its port.

    Browsers open connections to spare. One that is taken on while the server is closing is closed by
    nobody, and its page's next request, meant for the next program, would go to the one that has ended.
    """
    server.should_exit = True
    closed = set()
    while thread.is_alive():
        # Lines of the live socket are closed by the server itself, in words.
        idle = {c for c in server.server_state.connections.copy() if getattr(c, "cycle", c) is None}
        for connection in idle - closed:
            closed.add(connection)
            with suppress(RuntimeError):  # its loop has ended just now
                connection.loop.call_soon_threadsafe(connection.shutdown)
        thread.join(0.1)


@pytest.fixture
def program(orchard: Workspace, page: Page) -> Iterator[Program]:
    """The program, running."""
    with running(orchard, page) as found:
        yield found
