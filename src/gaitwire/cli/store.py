"""Commands about the store: serve it, copy it, put a copy back, look after it."""

from __future__ import annotations

import json
import signal
import sys
import time
from contextlib import ExitStack
from pathlib import Path
from typing import Annotated

import typer

from gaitwire.cli.common import AsJson, Data, Demo, app, build_orchard, folder_of, home_of, say, workspace_in


def _leave(*_: object) -> None:
    sys.exit(0)


@app.command()
def serve(
    data: Data = None,
    demo: Demo = False,
    port: Annotated[int, typer.Option(help="Port on this machine; 0 takes a free one.")] = 8765,
) -> None:
    """Serve the pages on this machine."""
    from gaitwire.services.session.locking import clear_passing
    from gaitwire.web.serving import HOST, listen, serve_store

    signal.signal(signal.SIGTERM, _leave)
    with ExitStack() as stack:
        sock = stack.enter_context(listen(port))
        clear_passing()
        folder = stack.enter_context(home_of(data, demo))
        address = f"http://{HOST}:{sock.getsockname()[1]}/"
        serve_store(
            folder, sock,
            built=lambda workspace: build_orchard(workspace) if demo else None,
            started=lambda: print(f"Gait Wire is at {address}", flush=True),
            told=say,
        )  # fmt: skip


@app.command()
def backup(
    target: Annotated[Path | None, typer.Argument(help="File to write.")] = None,
    listed: Annotated[bool, typer.Option("--list", help="List the copies that were made by themselves.")] = False,
    data: Data = None,
    demo: Demo = False,
    as_json: AsJson = False,
) -> None:
    """Write a whole copy of the store, even while it is in use; without a file, one beside it."""
    from gaitwire.store.backups import list_copies, make_copy

    if listed:
        copies = list_copies(folder_of(data))
        if as_json:
            print(json.dumps([{"name": c.name, "made": c.said, "bytes": c.size} for c in copies]))
            return
        for copy in copies:
            print(f"{copy.name}  {copy.size / 1e6:.1f} MB  made {copy.said}")
        if not copies:
            say("There are no copies yet.")
        return
    with workspace_in(data, demo) as workspace:
        if target is None:
            target = make_copy(workspace.store, "asked").path
        else:
            workspace.store.backup(target)
    say(f"{target} was written.")


@app.command()
def restore(
    name: Annotated[str, typer.Argument(help="Name of a copy as backup --list says it, its file, or “last”.")],
    data: Data = None,
) -> None:
    """Put a copy in the place of the store; what stood there is kept beside it."""
    from gaitwire.services.session.locking import writing
    from gaitwire.store.backups import copy_of_file, find_copy, restore_file

    folder = folder_of(data)
    with writing(folder, "a command that restores a copy"):
        copy = copy_of_file(Path(name)) if Path(name).is_file() else find_copy(folder, name)
        aside = restore_file(folder, copy)
    say(f"{copy.name} was put in its place." + (f" What stood there lies in {aside}." if aside else ""))


@app.command()
def history(
    cut: Annotated[float | None, typer.Option("--cut", min=0, help="Forget steps older than so many days.")] = None,
    data: Data = None,
    as_json: AsJson = False,
) -> None:
    """Tell how much history there is; cut it by age, and make the file small again."""
    from gaitwire.store.upkeep import compact, cut_history, history_size

    with workspace_in(data, False, "" if cut is None else "a command that cuts history") as workspace:
        store = workspace.store
        if cut is not None:
            gone = cut_history(store, cut * 86_400)
            before, after = compact(store)
            say(f"{gone} steps can no longer be undone. The file has {after / 1e6:.1f} MB, {before / 1e6:.1f} before.")
        found = history_size(store)
    days = 0.0 if found.oldest is None else (time.time() - found.oldest) / 86_400
    if as_json:
        print(json.dumps({"steps": found.steps, "bytes": found.bytes, "days": round(days, 3)}))
    else:
        print(f"{found.steps} steps, {found.bytes / 1e6:.1f} MB, back to {days:.1f} days ago")


@app.command()
def doctor(data: Data = None, as_json: AsJson = False) -> None:
    """Look everything over: version, store, sizes, checks, libraries, workers."""
    from gaitwire.services.session.health import examine

    found = examine(folder_of(data))
    if as_json:
        print(json.dumps(found.rows))
    else:
        for key, value in found.rows.items():
            print(f"{key}: {value}")
    for fault in found.faults:
        say(f"gaitwire: {fault}")
    if found.faults:
        raise typer.Exit(1)
