"""A client as a browser on this machine would be."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from starlette.testclient import TestClient

from gaitwire.services.session.workspace import Workspace
from gaitwire.web.app import create_app

HOME = "http://127.0.0.1:8765"


@pytest.fixture
def client(orchard: Workspace) -> Iterator[TestClient]:
    """The program's pages over the orchard; writes come from its own pages."""
    with TestClient(
        create_app(orchard), base_url=HOME, headers={"Origin": HOME}, raise_server_exceptions=False
    ) as made:
        yield made
