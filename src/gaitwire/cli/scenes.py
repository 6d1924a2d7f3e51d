"""Commands about puppets, scenes and walks."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from gaitwire.cli.common import AsJson, Data, Demo, Unused, UnusedDemo, app, say, workspace_in
from gaitwire.core.timing.easing import find_easing


@app.command("list")
def list_(data: Data = None, demo: Demo = False, as_json: AsJson = False) -> None:
    """List puppets and scenes."""
    from gaitwire.store.documents import list_documents

    with workspace_in(data, demo) as workspace:
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
    from gaitwire.services.library.art_in import import_pictures
    from gaitwire.services.library.bringing_in import bring_in

    files = (
        {str(p.relative_to(art)): p.read_bytes() for p in sorted(art.rglob("*")) if p.is_file()} if art.is_dir() else {}
    )
    content = b"" if art.is_dir() else art.read_bytes()
    with workspace_in(data, demo, "a command that brings in art") as workspace:
        if art.is_dir():
            came = import_pictures(workspace, files, name or art.name)
        else:
            came = bring_in(workspace, content, art.name, name)
    say(f"“{came.name}” came in.")
    for note in came.notes:
        say(f"To know: {note}")


@app.command()
def notes(
    scene: Annotated[str, typer.Argument(help="Name of a scene.")],
    data: Data = None,
    demo: Demo = False,
    as_json: AsJson = False,
) -> None:
    """Measure a scene: slipping feet, seams, snapping limbs, the two sides, the head."""
    from gaitwire.services.output.sendoff import find_scene
    from gaitwire.services.views.notes import note_rows

    with workspace_in(data, demo) as workspace:
        found = note_rows(workspace, find_scene(workspace, scene))
    if as_json:
        print(json.dumps({"scene": scene, "notes": found}))
        return
    for note in found:
        print(f"{note['frame']:g}: {note['puppet']}: {note['said']}")
    if not found:
        say("Nothing to note.")


@app.command()
def motion(
    scene: Annotated[str, typer.Argument(help="Name of a scene.")],
    puppet: Annotated[list[str] | None, typer.Option("--puppet", help="Only this one; may come again.")] = None,
    bone: Annotated[list[str] | None, typer.Option("--bone", help="Only this one; may come again.")] = None,
    frames: Annotated[str, typer.Option("--frames", help="Such as 0-47, counted from 0; all if not given.")] = "",
    data: Data = None,
    demo: Demo = False,
    as_json: AsJson = False,
) -> None:
    """Tell where bones are on each frame, as it is played: pixels of the stage, degrees of the world."""
    from gaitwire.services.output.sendoff import find_scene
    from gaitwire.services.views.motion import motion_of

    with workspace_in(data, demo) as workspace:
        found = motion_of(workspace, find_scene(workspace, scene), puppet or (), bone or (), frames)
    if as_json:
        print(json.dumps(found))
        return
    for row in found["bones"]:
        turned, way = np.ptp(row["turn"]), np.hypot(np.ptp(row["tip_x"]), np.ptp(row["tip_y"]))
        print(f"{row['puppet']}, {row['bone']}: turns by {turned:.1f}°, its tip within {way:.0f} px")


@app.command()
def pack(
    puppet: Annotated[str, typer.Argument(help="Name of a puppet.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="File to write, such as pip.puppet.zip.")],
    data: Data = None,
    demo: Demo = False,
) -> None:
    """Pack a puppet, rig and art and all, into one file."""
    from gaitwire.services.library.archives import find_puppet, pack_puppet

    with workspace_in(data, demo) as workspace:
        out.write_bytes(pack_puppet(workspace, find_puppet(workspace, puppet)))
    say(f"{out} was written.")


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
    from gaitwire.services.gait.named_walks import find_card, walk_report

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
    from gaitwire.services.gait.named_walks import fit_file, fit_report

    fitted = fit_file(table.read_bytes(), table.name)
    card, found = fitted.fit.card, fit_report(fitted)
    if out is not None:
        out.write_text(card_text(card), encoding="utf-8")
        say(f"{out} was written.")
    if fitted.fit.missed:
        missed = ", the ".join(fitted.fit.missed)
        say(f"This is hardly a walk as cards make them: it is missed at the {missed}.")
    if as_json:
        print(json.dumps({**found, "settings": card.model_dump()}))
        return
    for name, value in found.items():
        print(f"{name.replace('_', ' ')}: {value}")


@app.command()
def render(
    scene: Annotated[str, typer.Argument(help="Name of a scene.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="OUT.svg, OUT.gif, OUT.zip or a folder for PNGs.")],
    format_: Annotated[str, typer.Option("--format", help="Kind of file; else told by the ending of OUT.")] = "",
    scale: Annotated[float, typer.Option(help="Size against the stage.")] = 1.0,
    loops: Annotated[int, typer.Option(help="How often it plays; 0 is without end.")] = 0,
    background: Annotated[bool, typer.Option(help="With the scene's background, or on nothing.")] = True,
    data: Data = None,
    demo: Demo = False,
) -> None:
    """Send a scene off as an animated SVG, a GIF or a PNG sequence."""
    from gaitwire.services.output.sendoff import find_scene, format_of, render_to, settings_from

    chosen = format_of(out, format_)
    settings = settings_from(chosen, scale=scale, loops=loops, background=background)
    with workspace_in(data, demo) as workspace:
        render_to(workspace, find_scene(workspace, scene), out, chosen, settings)
    say(f"{out} was written.")


@app.command()
def bench(
    as_json: AsJson = False,
    compare: Annotated[
        Path | None, typer.Option("--compare", help="What an earlier run printed with --json; tells what changed.")
    ] = None,
    data: Unused = None,
    demo: UnusedDemo = False,
) -> None:
    """Measure how fast things are on this machine, on scenes made for it."""
    from gaitwire.measure import all_figures, earlier_figures

    earlier = earlier_figures(compare) if compare else None
    found = all_figures(lambda what: say(f"Measuring {what}."), earlier=earlier)
    if as_json:
        print(json.dumps(found))
        return
    beside, changed = found.pop("beside"), found.pop("compared", {})
    for name, value in found.items():
        print(f"{name}: {value}")
    for name, one in beside.items():
        since = f", {changed[name]:.2f} of what it was" if name in changed else ""
        print(f"{name} costs {one['cost']:g} references of {one['reference_ms']:g} ms{since}")
