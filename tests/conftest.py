"""Shared by all tests: stores in passing folders, the orchard built once and copied."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest

from gaitwire.demo import build_orchard
from gaitwire.services.workspace import Workspace
from gaitwire.store import Store


@pytest.fixture(scope="session")
def orchard_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A store with the orchard in it; copy it, do not open it."""
    folder = tmp_path_factory.mktemp("orchard")
    store = Store(folder)
    build_orchard(Workspace(store))
    store.close()
    return folder


def _opened(folder: Path) -> Iterator[Workspace]:
    store = Store(folder)
    yield Workspace(store)
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
