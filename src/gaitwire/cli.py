"""The command line. Messages go to standard error; exit codes are 0, 1 (the work failed) and 2 (usage)."""

from __future__ import annotations

import json
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import typer

from gaitwire.core.errors import GaitWireError
from gaitwire.core.timing.easing import find_easing

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, help=__doc__)

Data = Annotated[Path | None, typer.Option("--data", help="Folder that holds the store.")]
Demo = Annotated[
    bool, typer.Option("--demo", help="Fill an empty store with the orchard; without --data, a passing one.")
]
Unused = Annotated[Path | None, typer.Option("--data", hidden=True, help="Taken as everywhere; no store is needed.")]
UnusedDemo = Annotated[bool, typer.Option("--demo", hidden=True, help="Taken as everywhere; no store is needed.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON on standard output.")]


def _say(text: str) -> None:
    print(text, file=sys.stderr)


def _default_folder() -> Path:
    home = os.environ.get("GAITWIRE_DATA")
    return Path(home) if home else Path.home() / ".local" / "share" / "gaitwire"


@contextmanager
def _workspace(data: Path | None, demo: bool, who: str = "") -> Iterator[Any]:
    """An open workspace; `who` names a command that writes, and takes the lock."""
    from gaitwire.services.locking import writing
    from gaitwire.services.workspace import Workspace
    from gaitwire.store import Store

    with tempfile.TemporaryDirectory() as passing:
        folder = data or (Path(passing) if demo else _default_folder())
        with writing(folder, who) if who or demo else _nothing():
            store = Store(folder)
            try:
                workspace = Workspace(store)
                if demo:
                    _build_orchard(workspace)
                yield workspace
            finally:
                store.close()


def _build_orchard(workspace: Any) -> None:
    from gaitwire.demo import build_orchard

    if build_orchard(workspace):
        _say("The orchard was built.")


@contextmanager
def _nothing() -> Iterator[None]:
    yield


@app.command()
def serve(
    data: Data = None,
    demo: Demo = False,
    port: Annotated[int, typer.Option(help="Port on this machine; 0 takes a free one.")] = 8765,
) -> None:
    """Serve the pages on this machine."""
    from gaitwire.web.serving import listen, run

    with listen(port) as sock:
        port = sock.getsockname()[1]
        with _workspace(data, demo, f"a server on port {port}") as workspace:
            print(f"Gait Wire is at http://127.0.0.1:{port}/", flush=True)
            run(workspace, sock)


@app.command("list")
def list_(data: Data = None, demo: Demo = False, as_json: AsJson = False) -> None:
    """List puppets and scenes."""
    from gaitwire.store.documents import list_documents

    with _workspace(data, demo) as workspace:
        puppets = [workspace.puppet(e.id) for e in list_documents(workspace.store, "puppet")]
        scenes = [workspace.scene(e.id) for e in list_documents(workspace.store, "scene")]
    found = {
        "puppets": [{"name": p.name, "parts": len(p.parts), "bones": len(p.bones)} for p in puppets],
        "scenes": [{"name": s.name, "frames": s.frames, "rate": float(s.rate), "loop": s.loop} for s in scenes],
    }
    if as_json:
        print(json.dumps(found))
        return
    for kind, rows in found.items():
        print(f"{kind}:")
        for row in rows:
            print("  " + ", ".join(str(v) if k == "name" else f"{k} {v}" for k, v in row.items()))


@app.command("import")
def import_(
    art: Annotated[
        Path, typer.Argument(help="A layered SVG, OpenRaster, PNG, WebP, a folder or zip of those, or a packed puppet.")
    ],
    name: Annotated[str, typer.Option(help="Name of the puppet.")] = "",
    data: Data = None,
    demo: Demo = False,
) -> None:
    """Bring in art as a puppet, or open a packed one."""
    from gaitwire.services.art_in import import_pictures
    from gaitwire.services.bringing_in import bring_in

    files = (
        {str(p.relative_to(art)): p.read_bytes() for p in sorted(art.rglob("*")) if p.is_file()} if art.is_dir() else {}
    )
    content = b"" if art.is_dir() else art.read_bytes()
    with _workspace(data, demo, "a command that brings in art") as workspace:
        if art.is_dir():
            came = import_pictures(workspace, files, name or art.name)
        else:
            came = bring_in(workspace, content, art.name, name)
    _say(f"“{came.name}” came in.")
    for note in came.notes:
        _say(f"To know: {note}")


@app.command()
def notes(
    scene: Annotated[str, typer.Argument(help="Name of a scene.")],
    data: Data = None,
    demo: Demo = False,
    as_json: AsJson = False,
) -> None:
    """Measure a scene: slipping feet, seams, snapping limbs, the two sides, the head."""
    from gaitwire.services.noting import note_rows
    from gaitwire.services.sendoff import find_scene

    with _workspace(data, demo) as workspace:
        found = note_rows(workspace, find_scene(workspace, scene))
    if as_json:
        print(json.dumps({"scene": scene, "notes": found}))
        return
    for note in found:
        print(f"{note['frame']:g}: {note['puppet']}: {note['said']}")
    if not found:
        _say("Nothing to note.")


@app.command()
def pack(
    puppet: Annotated[str, typer.Argument(help="Name of a puppet.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="File to write, such as pip.puppet.zip.")],
    data: Data = None,
    demo: Demo = False,
) -> None:
    """Pack a puppet, rig and art and all, into one file."""
    from gaitwire.services.archiving import find_puppet, pack_puppet

    with _workspace(data, demo) as workspace:
        out.write_bytes(pack_puppet(workspace, find_puppet(workspace, puppet)))
    _say(f"{out} was written.")


@app.command()
def schema(data: Unused = None, demo: UnusedDemo = False) -> None:
    """Print the JSON Schema of a packed puppet's puppet.json."""
    from gaitwire.formats.archive import schema_text

    print(schema_text(), end="")


@app.command()
def ease(
    name: Annotated[str, typer.Argument(help="Such as sine-in-out or back-out.")],
    times: Annotated[list[float], typer.Argument(help="Time shares from 0 to 1.")],
    as_json: AsJson = False,
    data: Unused = None,
    demo: UnusedDemo = False,
) -> None:
    """Print an easing's values at time shares."""
    values = [float(v) for v in find_easing(name)(np.array(times))]
    print(json.dumps({"name": name, "values": values}) if as_json else "\n".join(f"{v:.9g}" for v in values))


@app.command()
def walk(
    card: Annotated[str, typer.Argument(help="Name of a gait card, such as plain or weary, or a file, CARD.json.")],
    far: Annotated[bool, typer.Option("--far", help="The far leg instead of the near one.")] = False,
    as_json: AsJson = False,
    data: Unused = None,
    demo: UnusedDemo = False,
) -> None:
    """Measure one stride of a gait card: joint angles, contacts, lengths, cadence."""
    from gaitwire.services.walking import find_card, walk_report

    found = walk_report(find_card(card), far)
    if as_json:
        print(json.dumps(found))
        return
    for name, value in found.items():
        shown = f"{min(value):.2f} to {max(value):.2f}" if isinstance(value, list) else value
        print(f"{name.replace('_', ' ')}: {shown}")


@app.command()
def fit(
    table: Annotated[
        Path, typer.Argument(help="BVH, or CSV with time, hip_x, hip_y, and so on for knee, ankle, heel, toe.")
    ],
    out: Annotated[Path | None, typer.Option("-o", "--out", help="File to write the card to, CARD.json.")] = None,
    as_json: AsJson = False,
    data: Unused = None,
    demo: UnusedDemo = False,
) -> None:
    """Find the gait card that comes closest to a measured walk."""
    from gaitwire.formats.gait_card import card_text
    from gaitwire.services.walking import fit_file, fit_report

    fitted = fit_file(table.read_bytes(), table.name)
    card, found = fitted.fit.card, fit_report(fitted)
    if out is not None:
        out.write_text(card_text(card), encoding="utf-8")
        _say(f"{out} was written.")
    if fitted.fit.missed:
        missed = ", the ".join(fitted.fit.missed)
        _say(f"This is hardly a walk as cards make them: it is missed at the {missed}.")
    if as_json:
        print(json.dumps({**found, "settings": card.model_dump()}))
        return
    for name, value in found.items():
        print(f"{name.replace('_', ' ')}: {value}")


@app.command()
def render(
    scene: Annotated[str, typer.Argument(help="Name of a scene.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="OUT.svg, OUT.gif or a folder for PNGs.")],
    scale: Annotated[float, typer.Option(help="Size against the stage.")] = 1.0,
    loops: Annotated[int, typer.Option(help="How often it plays; 0 is without end.")] = 0,
    background: Annotated[bool, typer.Option(help="With the scene's background, or on nothing.")] = True,
    data: Data = None,
    demo: Demo = False,
) -> None:
    """Send a scene off as an animated SVG, a GIF or a PNG sequence."""
    from gaitwire.services.sendoff import find_scene, render_to, settings_from

    settings = settings_from(scale=scale, loops=loops, background=background)
    with _workspace(data, demo) as workspace:
        render_to(workspace, find_scene(workspace, scene), out, settings)
    _say(f"{out} was written.")


@app.command()
def bench(as_json: AsJson = False, data: Unused = None, demo: UnusedDemo = False) -> None:
    """Measure how fast things are on this machine, on scenes made for it."""
    from gaitwire.measure import all_figures

    found = all_figures(lambda what: _say(f"Measuring {what}."))
    if as_json:
        print(json.dumps(found))
        return
    for name, value in found.items():
        print(f"{name}: {value}")


@app.command()
def backup(
    target: Annotated[Path, typer.Argument(help="File to write.")], data: Data = None, demo: Demo = False
) -> None:
    """Write a whole copy of the store, even while it is in use."""
    with _workspace(data, demo) as workspace:
        workspace.store.backup(target)
    _say(f"{target} was written.")


def main() -> None:
    """Run; errors of ours become one clear line."""
    try:
        app()
    except GaitWireError as error:
        _say(f"gaitwire: {error}")
        sys.exit(1)
    except OSError as error:
        _say(f"gaitwire: {error.filename or ''} {error.strerror or error}".replace("  ", " "))
        sys.exit(1)
