"""A rotating log beside the store: what went wrong and where in the program, nothing of what was drawn."""

from __future__ import annotations

import logging
import secrets
import sqlite3
import traceback
from logging.handlers import RotatingFileHandler
from pathlib import Path

FILE_NAME = "gaitwire.log"
MOST_BYTES = 500_000
KEPT = 3

log = logging.getLogger("gaitwire")


class _Quiet(RotatingFileHandler):
    """Writes where it can: a full disk must not make an error of every line."""

    def handleError(self, record: logging.LogRecord) -> None:  # noqa: N802 - the name is logging's
        return


def keep_log(folder: Path) -> logging.Handler | None:
    """Write the program's log into the folder from now on; None where it cannot be written."""
    try:
        handler = _Quiet(folder / FILE_NAME, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8")
    except OSError:
        return None
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    log.addHandler(handler)
    log.setLevel(logging.INFO)
    return handler


def close_log(handler: logging.Handler | None) -> None:
    """Write to it no more."""
    if handler is not None:
        log.removeHandler(handler)
        handler.close()


def put_down(error: BaseException, where: str) -> str:
    """Log an error that nobody foresaw; the number by which it is found there.

    Of its message only what the system says is kept: others may quote what was typed or drawn.
    """
    number = secrets.token_hex(3).upper()
    said = f": {error}" if isinstance(error, OSError | sqlite3.Error) else ""
    frames = "".join(traceback.format_tb(error.__traceback__))
    log.error("%s %s at %s%s\n%s", number, type(error).__name__, where, said, frames)
    return number
