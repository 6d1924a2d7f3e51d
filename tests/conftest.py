"""Shared by all tests: stores in passing folders, the orchard built once and copied."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from hypothesis import settings
from playwright.sync_api import BrowserContext, Page, expect, sync_playwright

from builders.waiting import LONG
from gaitwire.services.session.workspace import ContentCaches, Workspace
from gaitwire.store import Store
from orchard import SHARED, plant

settings.register_profile("untimed", deadline=None)  # speed is measured elsewhere
settings.load_profile("untimed")


@pytest.fixture(scope="session")
def orchard_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A store with the orchard in it; copy it, do not open it."""
    if shared := os.environ.get(SHARED):
        return Path(shared)
    folder = tmp_path_factory.mktemp("orchard")
    plant(folder)
    return folder


KNOWN = ContentCaches()
"""What was worked out of the orchard's art and scenes is the same in every test's copy of it."""


def _opened(folder: Path) -> Iterator[Workspace]:
    store = Store(folder)
    yield Workspace(store, KNOWN)
    store.close()


@pytest.fixture
def workspace(tmp_path: Path) -> Iterator[Workspace]:
    """An empty workspace."""
    yield from _opened(tmp_path / "store")


@pytest.fixture
def orchard(tmp_path: Path, orchard_folder: Path) -> Iterator[Workspace]:
    """A workspace with the orchard."""
    shutil.copytree(orchard_folder, tmp_path / "store")
    yield from _opened(tmp_path / "store")


@pytest.fixture(scope="module")
def modules_orchard(tmp_path_factory: pytest.TempPathFactory, orchard_folder: Path) -> Iterator[Workspace]:
    """The same for all tests of a module, which leave it as it is."""
    folder = tmp_path_factory.mktemp("orchard")
    shutil.copytree(orchard_folder, folder, dirs_exist_ok=True)
    yield from _opened(folder)


@pytest.fixture(scope="session")
def chromium() -> Iterator[BrowserContext]:
    """One headless Chromium for the whole run, with no way out of this machine.

    All pages share one context: a context of its own for each, which is a window to Chromium, takes
    longer than most tests. They share nothing by it, as every program has its own port.
    """
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell",
            chromium_sandbox=False,
            args=["--no-sandbox", "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost"],
        )
        context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        context.set_default_timeout(1000 * LONG)  # a machine may be busy; how fast it is is measured elsewhere
        expect.set_options(timeout=1000 * LONG)
        yield context
        browser.close()


@contextmanager
def fresh_page(chromium: BrowserContext) -> Iterator[Page]:
    """A page, closed with all that it opened; whatever a script complains about is an error."""
    page = chromium.new_page()
    complaints: list[str] = []
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.on(
        "console",
        lambda said: complaints.append(f"{said.text} {said.location.get('url', '')}") if said.type == "error" else None,
    )
    page.complaints = complaints  # type: ignore[attr-defined]
    yield page
    for opened in chromium.pages:
        opened.close()
    assert not complaints


@pytest.fixture
def page(chromium: BrowserContext) -> Iterator[Page]:
    """A fresh page."""
    with fresh_page(chromium) as found:
        yield found


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files of pages, which idle half of their time, are spread among the others, which do not."""
    files = list(dict.fromkeys(item.path for item in items))
    of_pages = [path for path in files if "browser" in path.parts]
    others = [path for path in files if path not in of_pages]
    place = {path: n / len(row) for row in (of_pages, others) for n, path in enumerate(row)}
    items.sort(key=lambda item: place[item.path])
