"""The command line as its users call it; and a server killed in mid-burst."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import urllib.error
import urllib.parse
import urllib.request

import numpy as np
import pytest
from PIL import Image

from builders.commands import command
from builders.making import lead
from builders.markers import RATE, markers_of
from builders.waiting import until
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.recorded import MARKERS
from gaitwire.store import Store
from gaitwire.store.documents import list_documents, load_scene


def gaitwire(*args, code=0):
    done = command(*args)
    assert done.code == code, done.stderr
    return done


def test_the_program_is_called_by_its_name():
    done = subprocess.run([sys.executable, "-m", "gaitwire", "ease", "linear", "0.5"], capture_output=True, text=True)
    assert done.returncode == 0 and "0.5" in done.stdout and not done.stderr


def answers(address):
    try:
        urllib.request.urlopen(address, timeout=5).close()
    except urllib.error.URLError:
        return False
    return True


def test_list_import_and_backup(tmp_path):
    (tmp_path / "leaf.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path id="Leaf" d="M0 0H9V9Z"/></svg>'
    )
    data = tmp_path / "data"
    gaitwire("import", tmp_path / "leaf.svg", "--name", "Leaf", "--data", data)
    found = json.loads(gaitwire("list", "--json", "--data", data).stdout)
    assert found == {"puppets": [{"name": "Leaf", "parts": 1, "bones": 1}], "scenes": []}
    gaitwire("backup", tmp_path / "copy.sqlite3", "--data", data)
    assert (tmp_path / "copy.sqlite3").stat().st_size > 10_000


@pytest.fixture
def data(tmp_path, orchard_folder):
    """A folder with the orchard in it."""
    shutil.copytree(orchard_folder, tmp_path / "orchard")
    return tmp_path / "orchard"


def test_failures_say_why_on_standard_error(tmp_path, data):
    (tmp_path / "bad.svg").write_text("no svg")
    bad = gaitwire("import", tmp_path / "bad.svg", "--data", tmp_path / "d", code=1)
    assert "no readable SVG" in bad.stderr and not bad.stdout
    assert "Tamsin waits" in gaitwire("render", "Nobody", "-o", tmp_path / "a.svg", "--data", data, code=1).stderr
    assert "no kind of file" in gaitwire("render", "Pip hops", "-o", tmp_path / "a.xyz", "--data", data, code=1).stderr
    gaitwire("import", tmp_path / "missing.svg", code=1)
    gaitwire("list", "--nonsense", code=2)
    gaitwire("ease", "back-out", "a", code=2)


def test_a_port_that_is_taken_is_told_in_one_line(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        found = gaitwire("serve", "--data", tmp_path, "--port", port, code=1)
    assert f"Port {port} cannot be used" in found.stderr and "--port" in found.stderr
    assert found.stdout == "" and not list(tmp_path.iterdir())


def test_notes_tell_what_is_measured(data):
    found = json.loads(gaitwire("notes", "Pip hops", "--data", data, "--json").stdout)
    assert found["scene"] == "Pip hops" and isinstance(found["notes"], list)
    for note in found["notes"]:
        assert note.keys() >= {"kind", "fault", "puppet", "bone", "frame", "value", "unit", "said"}


def test_motion_tells_where_bones_are_as_they_are_played(data):
    told = gaitwire(
        "motion", "Tamsin climbs", "--bone", "plait", "--bone", "plait 2", "--frames", "90-130", "--data", data
    )
    assert "plait 2: turns by" in told.stdout
    only = ("--puppet", "Tamsin", "--bone", "plait", "--frames", "0-227")
    found = json.loads(gaitwire("motion", "Tamsin climbs", *only, "--json", "--data", data).stdout)
    assert (found["scene"], found["rate"], found["frames"]) == ("Tamsin climbs", 24.0, [*range(228)])
    (plait,) = found["bones"]
    x, y, tip_x, tip_y, turn = (np.array(plait[name]) for name in ("x", "y", "tip_x", "tip_y", "turn"))
    assert plait["puppet"] == "Tamsin" and len(turn) == 228
    # It is as long as ever, points where its turn says, and falls when she hangs head down.
    reach = np.hypot(tip_x - x, tip_y - y)
    assert reach == pytest.approx(reach[0], rel=0.02)
    assert np.cos(np.radians(turn)) == pytest.approx((tip_x - x) / reach, abs=1e-3)
    assert np.degrees(np.arctan2(tip_y - y, tip_x - x))[-1] > 20 and np.abs(np.diff(turn)).max() < 60
    assert "has no bone “tail”" in gaitwire("motion", "Pip hops", "--bone", "tail", "--data", data, code=1).stderr
    assert "no span of this scene" in gaitwire("motion", "Pip hops", "--frames", "5-999", "--data", data, code=1).stderr


def test_ease_prints_values():
    found = json.loads(gaitwire("ease", "sine-in-out", "0", "0.5", "1", "--json").stdout)
    assert found == {"name": "sine-in-out", "values": pytest.approx([0, 0.5, 1])}


def test_render_writes_each_kind_whole(tmp_path, data):
    gaitwire("render", "Pip hops", "-o", tmp_path / "pip.svg", "--data", data, "--loops", 3)
    assert 'repeatCount="3"' in (tmp_path / "pip.svg").read_text()
    gaitwire("render", "Pip hops", "-o", tmp_path / "pip.gif", "--data", data, "--scale", 0.25)
    with Image.open(tmp_path / "pip.gif") as gif:
        assert (gif.n_frames, gif.size, gif.info["loop"]) == (24, (320, 180), 0)
    gaitwire("render", "Pip hops", "-o", tmp_path / "pngs", "--data", data, "--scale", 0.25, "--no-background")
    names = sorted(p.name for p in (tmp_path / "pngs").iterdir())
    assert names[0] == "Pip_hops_0000.png" and len(names) == 24
    with Image.open(tmp_path / "pngs" / names[0]) as png:
        assert png.mode == "RGBA" and png.getpixel((0, 0))[3] == 0


def _free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def _post(home, path, **values):
    body = urllib.parse.urlencode(values).encode()
    return urllib.request.urlopen(urllib.request.Request(home + path, body, {"Origin": home}), timeout=20)


def test_what_was_acknowledged_survives_a_kill(data):
    """The server is killed in the middle of a burst of edits; each one that was answered is there."""
    port = _free_port()
    home = f"http://127.0.0.1:{port}"
    server = subprocess.Popen(
        [sys.executable, "-m", "gaitwire", "serve", "--data", data, "--port", str(port)],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        assert home in server.stdout.readline()
        until(lambda: answers(home))
        assert "is in use" in gaitwire("import", __file__, "--data", data, code=1).stderr
        store = Store(data)
        scene = load_scene(store, list_documents(store, "scene")[0].id)
        store.close()
        instance = lead(scene).id
        acknowledged = []
        killer = None
        for i in range(400):
            values = json.dumps([[instance, instance, "shift_x", float(i)]])
            try:
                _post(home, f"/floor/{scene.id}/values", frame=i % scene.frames, values=values).close()
                acknowledged.append(i)
            except OSError:
                break
            if i == 40:
                killer = subprocess.Popen(["sh", "-c", f"sleep 0.05; kill -9 {server.pid}"])
        killer.wait()
        assert 40 < len(acknowledged) < 400
    finally:
        if server.poll() is None:
            os.kill(server.pid, signal.SIGKILL)
        server.wait()
        server.stdout.close()
    store = Store(data)
    found = load_scene(store, scene.id)
    channel = next(c.id for c in found.channels if c.owner_id == instance and c.property == "shift_x")
    stored = {k.time: k.value for k in found.keys if k.channel_id == channel}
    wanted = {float(i % scene.frames): float(i) for i in acknowledged}
    missing = {t: v for t, v in wanted.items() if stored.get(t, -1.0) < v}
    store.close()
    assert not missing


def test_a_walk_is_measured(tmp_path):
    found = json.loads(gaitwire("walk", "plain", "--json").stdout)
    assert found["stance_share"] == pytest.approx(61) and len(found["knee"]) == 101
    (tmp_path / "own.json").write_text('{"format": "gait card", "version": 1, "name": "own", "frames_a_step": 10}')
    assert "cadence: 144" in gaitwire("walk", tmp_path / "own.json").stdout
    assert "Known: plain, brisk" in gaitwire("walk", "nobody", code=1).stderr


def test_a_card_is_fitted_to_markers_in_a_table(tmp_path):
    rows = ["time," + ",".join(f"{n}_{a}" for n in MARKERS for a in "xy")]
    places = markers_of(CHARACTERS["brisk"])
    for n, moment in enumerate(np.arange(len(places["hip"])) / RATE):
        rows.append(
            ",".join([f"{moment:.4f}", *(f"{v:.2f}" for m in MARKERS for v in (places[m][n].real, -places[m][n].imag))])
        )
    (tmp_path / "walk.csv").write_text("\n".join(rows))
    found = json.loads(gaitwire("fit", tmp_path / "walk.csv", "-o", tmp_path / "card.json", "--json").stdout)
    assert found["strides"] >= 2 and found["rmse"]["knee"] < 5 and found["correlation"]["hip"] > 0.97
    assert json.loads(gaitwire("walk", tmp_path / "card.json", "--json").stdout)["card"] == "walk"
    (tmp_path / "bad.csv").write_text("time,hip_x\n0,1\n")
    assert "hip_y" in gaitwire("fit", tmp_path / "bad.csv", code=1).stderr
