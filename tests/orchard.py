"""The orchard as a store on disk. Tests that run side by side share one: `python tests/orchard.py FOLDER` builds it."""

from __future__ import annotations

import sys
from pathlib import Path

SHARED = "GAITWIRE_TEST_ORCHARD"
"""Names the folder of one that is built already."""


def plant(folder: Path) -> None:
    """Build the orchard in a folder."""
    # Here, since each process that reads a file of art loads this script anew where it is the program.
    from gaitwire.demo import build_orchard  # noqa: PLC0415
    from gaitwire.services.session.workspace import Workspace  # noqa: PLC0415
    from gaitwire.store import Store  # noqa: PLC0415

    store = Store(folder)
    build_orchard(Workspace(store))
    store.close()


if __name__ == "__main__":
    plant(Path(sys.argv[1]))
