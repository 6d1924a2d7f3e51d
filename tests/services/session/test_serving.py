"""The server as a process: it ends when it is told to, offers copies of a damaged store, and leaves nobody behind."""

import json
import os
import shutil
import signal
import subprocess
import sys
import threading
import urllib.error
import urllib.parse
import urllib.request
from contextlib import contextmanager
from pathlib import Path

import pytest

from builders.commands import command
from builders.waiting import until
from gaitwire.store import Store, backups
from gaitwire.store.documents import list_documents
from gaitwire.store.opening import FILE_NAME

# Reading the size of history never ends, and holds the store's lock meanwhile.
STUCK = """
import sys, threading, time
import gaitwire.web.routers.shelf.keeping as keeping
def stuck(store):
    with store.lock:
        print("stuck", flush=True)
        time.sleep(3600)
if __name__ == "__main__":
    keeping.history_size = stuck
    sys.argv = ["gaitwire", *sys.argv[1:]]
    from gaitwire.cli import main
    main()
"""

CREW = """
import sys, time
from gaitwire.services.session.workers import humble, process_context
def work():
    import os
    humble(10**9)
    print(os.getpid(), flush=True)
    time.sleep(3600)
if __name__ == "__main__":
    process_context.set_forkserver_preload([])
    process_context.Process(target=work, daemon=True).start()
    time.sleep(3600)
"""


@pytest.fixture
def data(tmp_path, orchard_folder):
    shutil.copytree(orchard_folder, tmp_path / "orchard")
    return tmp_path / "orchard"


@contextmanager
def running(*command):
    """A program with its output to be read; killed when it is left."""
    process = subprocess.Popen(
        [sys.executable, *map(str, command)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    )
    try:
        yield process
    finally:
        process.kill()
        process.communicate()


def address_of(process):
    """The address that the server prints once it answers."""
    return process.stdout.readline().split()[-1].rstrip("/")


def ask(address, path, **form):
    body = urllib.parse.urlencode(form).encode() if form else None
    with urllib.request.urlopen(
        urllib.request.Request(address + path, body, {"Origin": address}), timeout=60
    ) as answer:
        return answer.read().decode()


def gone(pid):
    """Whether a process is no more, or only waits to be counted."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    except FileNotFoundError:
        return True


@pytest.mark.parametrize("sign", [signal.SIGTERM, signal.SIGINT])
def test_it_ends_when_it_is_told_to_though_a_request_never_ends(data, tmp_path, sign):
    (tmp_path / "stuck.py").write_text(STUCK)
    with running(tmp_path / "stuck.py", "serve", "--data", data, "--port", 0) as server:
        address = address_of(server)
        assert ask(address, "/").startswith("<!doctype html>")

        def waits():
            with pytest.raises(OSError):
                ask(address, "/keeping")

        waiting = threading.Thread(target=waits, daemon=True)
        waiting.start()
        assert server.stdout.readline() == "stuck\n"
        server.send_signal(sign)
        assert server.wait(timeout=60) == 0
        assert "Traceback" not in server.stderr.read()
        waiting.join(60)
    store = Store(data)
    assert len(list_documents(store, "scene")) == 16
    store.close()


def test_a_damaged_store_is_told_and_a_copy_of_it_restored_on_the_page(data):
    store = Store(data)
    copy = backups.make_copy(store)
    store.close()
    with (data / FILE_NAME).open("r+b") as file:
        file.seek((data / FILE_NAME).stat().st_size // 2 // 4096 * 4096)
        file.write(b"\x5a" * 40_000)
    with running("-m", "gaitwire", "serve", "--data", data, "--port", 0) as server:
        address = address_of(server)
        page = ask(address, "/floor/anything")
        assert "The store is damaged" in page and "16 scenes, 15 puppets" in page
        assert "Restored" in ask(address, "/rescue", name=copy.name)
        assert address_of(server) == address  # it answers there again, as itself
        assert "Pip hops" in ask(address, "/") and json.loads(ask(address, "/health"))["store"] == "ok"
    assert any(p.name.startswith("aside-") for p in data.iterdir())


def test_workers_of_a_killed_program_end(tmp_path):
    (tmp_path / "crew.py").write_text(CREW)
    with running(tmp_path / "crew.py") as program:
        worker = int(program.stdout.readline())
        assert not gone(worker)
        os.kill(program.pid, signal.SIGKILL)
        until(lambda: gone(worker))


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["--version"], 0, "gaitwire 0"),
        (["list", "--data", "{tmp}/typo"], 1, "There is no store in"),
        (["serve", "--data", "{tmp}/new", "--port", "99999"], 1, "ports go from 1 to 65535"),
        (["backup", "--list", "--data", "{tmp}/typo"], 0, "no copies"),
        (["restore", "last", "--data", "{tmp}/typo"], 1, "no copy called"),
        (["history", "--data", "{data}"], 0, "steps"),
        (["doctor", "--data", "{data}", "--json"], 0, '"check": "sound"'),
        (["doctor", "--data", "{tmp}/typo"], 1, "There is no store in"),
    ],
)  # fmt: skip
def test_commands_say_what_is_so_and_make_nothing(data, tmp_path, arguments, code, words):
    places = {"tmp": tmp_path, "data": data}
    filled = [a.format(**places) for a in arguments]
    done = command(*filled)
    said = done.stdout + done.stderr
    assert done.code == code and words in said and "Traceback" not in said
    assert arguments[0] == "restore" or not (tmp_path / "typo").exists()


def test_a_copy_is_made_listed_and_restored_by_commands(data):
    def run(*arguments):
        done = command(*arguments, "--data", data)
        assert done.code == 0, done.stderr
        return done

    run("backup")
    copy = json.loads(run("backup", "--list", "--json").stdout)[0]
    assert copy["made"] == "on request" and copy["bytes"] > 100_000
    store = Store(data)
    with store.atomic() as db:
        db.execute("UPDATE scenes SET name = 'Spoiled'")
    store.close()
    assert "was put in its place" in run("restore", copy["name"]).stderr
    assert "Pip hops" in run("list").stdout
