"""The real program on a free port, over a copy of the orchard."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable, Coroutine, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache
from typing import Any

import pytest
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import Page
from starlette.responses import PlainTextResponse
from starlette.types import Receive, Scope, Send

from builders.waiting import LONG
from builders.waiting import until as so
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import list_documents
from gaitwire.web.app import create_app


def until(page: Page, script: str, seconds: float = LONG) -> None:
    """Wait for a script to say yes; the page's policy keeps Playwright's own polling out."""
    end = time.monotonic() + seconds
    while not page.evaluate(f"Boolean({script})"):
        assert time.monotonic() < end, f"never came true: {script}"
        page.wait_for_timeout(25)


def painted(page: Page) -> None:
    """Wait until the page has drawn twice, by the browser's own clock: by then it has begun what it was told."""
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))")


def patiently(page: Page, check: Callable[[], object], seconds: float = LONG) -> None:
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


class Door:
    """One server for all tests of a run, which passes what comes to the program that is open.

    So its port stays, and with it what the browser knows of the program's files and has compiled of them.
    """

    def __init__(self) -> None:
        self.program: FastAPI | None = None
        self.within = 0
        """Requests and live lines that are being seen to."""
        self.loop = asyncio.new_event_loop()
        config = uvicorn.Config(
            self, host="127.0.0.1", port=0, log_level="error", ws_per_message_deflate=False, lifespan="off"
        )
        self.server = uvicorn.Server(config)
        threading.Thread(target=self.loop.run_until_complete, args=(self.server.serve(),), daemon=True).start()
        so(lambda: self.server.started)
        self.port = int(self.server.servers[0].sockets[0].getsockname()[1])

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self.within += 1
        try:
            await (self.program or PlainTextResponse("closed", 503))(scope, receive, send)
        finally:
            self.within -= 1

    def soon(self, work: Coroutine[Any, Any, object]) -> None:
        """Done by the server's own loop."""
        asyncio.run_coroutine_threadsafe(work, self.loop).result()


@cache
def _door() -> Door:
    return Door()


@contextmanager
def running(workspace: Workspace, page: Page) -> Iterator[Program]:
    """The program over a workspace, which is closed with it."""
    door, app = _door(), create_app(workspace)
    life = app.router.lifespan_context(app)
    door.soon(life.__aenter__())
    door.program = app
    yield Program(f"http://127.0.0.1:{door.port}", workspace, page)
    if page.url.startswith("http"):
        page.evaluate("localStorage.clear()")  # the next program is at the same address
    for opened in page.context.pages:
        opened.goto("about:blank")
    door.program = None
    so(lambda: door.within == 0)
    door.soon(life.__aexit__(None, None, None))


@pytest.fixture
def program(orchard: Workspace, page: Page) -> Iterator[Program]:
    """The program, running."""
    with running(orchard, page) as found:
        yield found
