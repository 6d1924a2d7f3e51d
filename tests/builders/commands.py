"""Commands as the line gives them, in the tests' own process: starting another takes them seconds."""

from __future__ import annotations

import io
from contextlib import redirect_stderr, redirect_stdout
from typing import NamedTuple
from unittest.mock import patch

from gaitwire.cli import main


class Done(NamedTuple):
    """What a command came to."""

    code: int
    stdout: str
    stderr: str


def command(*arguments: object) -> Done:
    """`gaitwire ARGUMENTS`, with its exit code and all that it said."""
    out, err, code = io.StringIO(), io.StringIO(), 0
    with redirect_stdout(out), redirect_stderr(err), patch("sys.argv", ["gaitwire", *map(str, arguments)]):
        try:
            main()
        except SystemExit as ended:
            code = int(ended.code or 0)
    return Done(code, out.getvalue(), err.getvalue())
