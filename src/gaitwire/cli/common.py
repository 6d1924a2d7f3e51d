"""What all commands share: the app, its options, an open workspace, and errors in one clear line."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from gaitwire import __version__
from gaitwire.core.errors import GaitWireError

if TYPE_CHECKING:
    from gaitwire.services.session.workspace import Workspace

app = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    help="Rig flat puppets, keyframe walks and body actions, and send them off as looping files.",
)  # fmt: skip

Data = Annotated[Path | None, typer.Option("--data", help="Folder that holds the store.")]
Demo = Annotated[
    bool, typer.Option("--demo", help="Fill an empty store with the orchard; without --data, a passing one.")
]
Unused = Annotated[Path | None, typer.Option("--data", hidden=True, help="Taken as everywhere; no store is needed.")]
UnusedDemo = Annotated[bool, typer.Option("--demo", hidden=True, help="Taken as everywhere; no store is needed.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON on standard output.")]


def say(text: str) -> None:
    """A message for the person who called."""
    print(text, file=sys.stderr)


def _print_version(asked: bool) -> None:
    if asked:
        print(f"gaitwire {__version__}")
        raise typer.Exit


@app.callback()
def options(
    version: Annotated[
        bool, typer.Option("--version", callback=_print_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    """Rig flat puppets, keyframe walks and body actions, and send them off as looping files."""


def folder_of(data: Path | None) -> Path:
    """The folder that holds the store: as named, as GAITWIRE_DATA says, or the user's own."""
    home = os.environ.get("GAITWIRE_DATA")
    return data or (Path(home) if home else Path.home() / ".local" / "share" / "gaitwire")


@contextmanager
def home_of(data: Path | None, demo: bool) -> Iterator[Path]:
    """The folder of the store; for a demo without one, a passing one that goes when it is left."""
    if data is None and demo:
        from gaitwire.services.session.locking import passing_folder

        with passing_folder() as passing:
            yield passing
    else:
        yield folder_of(data)


@contextmanager
def workspace_in(data: Path | None, demo: bool, who: str = "") -> Iterator[Workspace]:
    """An open workspace. `who` names a command that writes, and takes the lock; others only read.

    What only reads neither makes a store nor brings one up to date.
    """
    from gaitwire.services.session.locking import writing
    from gaitwire.services.session.workspace import Workspace
    from gaitwire.store import Store
    from gaitwire.store.backups import copy_before_update

    with ExitStack() as stack:
        folder = stack.enter_context(home_of(data, demo))
        writes = bool(who) or demo
        if writes:
            stack.enter_context(writing(folder, who or "a command"))
        store = Store(folder, reading=not writes, before_migrating=copy_before_update)
        stack.callback(store.close)
        workspace = Workspace(store)
        if demo:
            build_orchard(workspace)
        yield workspace


def build_orchard(workspace: Workspace) -> None:
    """Fill an empty store with the demo."""
    from gaitwire import demo

    if demo.build_orchard(workspace):
        say("The orchard was built.")


def main() -> None:
    """Run; every error becomes one clear line."""
    try:
        app()
    except GaitWireError as error:
        say(f"gaitwire: {error}")
        sys.exit(1)
    except OSError as error:
        say(f"gaitwire: {error.filename or ''} {error.strerror or error}".replace("  ", " "))
        sys.exit(1)
    except Exception as error:  # noqa: BLE001 - nobody is helped by a traceback; it is in the log
        from gaitwire.services.session.journal import close_log, keep_log, put_down

        log = keep_log(folder_of(None)) if folder_of(None).is_dir() else None
        number = put_down(error, f"the command {' '.join(sys.argv[1:2])}")
        close_log(log)
        where = f"it stands in {folder_of(None)}/gaitwire.log" if log else "run gaitwire doctor"
        say(f"gaitwire: Something went wrong in the program (number {number}; {where}).")
        sys.exit(1)
