"""The command line. Messages go to standard error; exit codes are 0, 1 (the work failed) and 2 (usage)."""

from gaitwire.cli import scenes, store
from gaitwire.cli.common import main

__all__ = ["main", "scenes", "store"]
