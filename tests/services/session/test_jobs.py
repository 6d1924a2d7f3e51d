"""Send-offs as jobs: what fails says so, what is cancelled stops, and neither leaves a file behind."""

import threading
from dataclasses import replace

import pytest

from builders.making import die
from builders.sinks import FATAL
from builders.waiting import until
from gaitwire.core.errors import GaitWireError, InvalidInputError, NotFoundError
from gaitwire.core.puppet.art import Art
from gaitwire.formats.exporting import ExportSettings, SvgSettings
from gaitwire.formats.sinks import SINKS
from gaitwire.services.output.sendoff import find_scene, prepare, render_to
from gaitwire.services.session.jobs import KEPT, MOST_WAITING, JobBoard, new_job, run_job


@pytest.fixture
def production(orchard):
    return prepare(orchard, find_scene(orchard, "Pip hops"), SvgSettings(scale=0.2))


@pytest.fixture
def home(tmp_path):
    """A folder with nothing else in it."""
    (tmp_path / "home").mkdir()
    return tmp_path / "home"


def lined_up(kind, production, home):
    return new_job(kind, production.name, len(production), home)


def left_behind(folder):
    return sorted(p.name for p in folder.rglob("*") if p.is_file())


def test_a_finished_job_leaves_its_file_and_nothing_else(production, home):
    job = lined_up("png", production, home)
    run_job(job, lambda: production)
    assert (job.state, job.done, job.share) == ("done", 24, 1.0)
    assert left_behind(home) == ["Pip hops.zip"]


def test_a_job_whose_art_cannot_be_drawn_fails_with_words(production, home):
    key = next(iter(production.arts))
    from_elsewhere = {"kind": "picture", "hash": "gone", "width": 4, "height": 4, "matrix": (1, 0, 0, 1, 0, 0)}
    art = Art.model_validate({"nodes": [from_elsewhere], "box": (0, 0, 4, 4)})
    broken = replace(production, arts={**production.arts, key: [art]}, pictures={"gone": ("image/png", b"no picture")})
    job = lined_up("png", broken, home)
    run_job(job, lambda: broken)
    assert job.state == "failed" and "cannot be decoded" in job.error
    assert left_behind(home) == []


def test_a_worker_that_dies_is_told(production, home, monkeypatch):
    monkeypatch.setattr("gaitwire.services.session.jobs.make", die)
    job = lined_up("png", production, home)
    run_job(job, lambda: production)
    assert job.state == "failed" and "stopped without an answer" in job.error
    assert left_behind(home) == []


def test_a_helper_that_dies_is_told(production, home):
    job = replace(lined_up("png", production, home), format=FATAL)
    run_job(job, lambda: production)
    assert job.state == "failed" and "stopped without an answer" in job.error
    assert left_behind(home) == []


def test_what_is_told_of_a_file_comes_after_it_and_holds_nothing_up(production, home):
    job = lined_up("svg", production, home)
    run_job(job, lambda: production)
    assert job.state == "done" and job.told and job.aside.startswith("every frame written out it would be")
    quiet = lined_up("svg", production, home)
    run_job(quiet, lambda: production, aside=False)
    assert quiet.state == "done" and quiet.told and quiet.aside == ""
    assert quiet.file.read_bytes() == job.file.read_bytes()


def test_a_cancelled_job_stops_soon_and_leaves_nothing(orchard):
    production = prepare(orchard, find_scene(orchard, "Tamsin waits"), ExportSettings(scale=3))
    board = JobBoard()
    job = board.start("png", production.name, len(production), lambda: production)
    until(lambda: job.done >= 1)
    board.cancel(job.id)
    until(lambda: job.state not in ("waiting", "working"))
    assert job.state == "cancelled" and job.done < 96
    assert left_behind(job.folder) == []
    board.close()


def test_many_at_once_wait_their_turn_one_after_the_other(production, monkeypatch):
    """Twenty at once take no more processes and memory than one."""
    board, go, order, at_once = JobBoard(), threading.Event(), [], []

    def held(job, making, aside):
        at_once.append(board.counts()["working"])
        go.wait(60)
        making()
        order.append(job.id)
        job.state = "done"

    monkeypatch.setattr("gaitwire.services.session.jobs.run_job", held)
    made = []
    jobs = [board.start("svg", f"job {n}", 1, lambda n=n: made.append(n)) for n in range(20)]
    until(lambda: board.counts()["working"])
    assert [j.before for j in jobs[1:]] == list(range(1, 20)) and made == []  # nothing is worked out before its turn
    board.cancel(jobs[5].id)
    assert jobs[5].state == "cancelled" and jobs[6].before == 5
    go.set()
    until(lambda: not any(j.state in ("waiting", "working") for j in jobs))
    assert order == [j.id for j in jobs if j is not jobs[5]] and set(at_once) == {1}
    board.close()


def test_too_many_are_told_to_wait(production, monkeypatch):
    board, go = JobBoard(), threading.Event()
    monkeypatch.setattr("gaitwire.services.session.jobs.run_job", lambda job, making, aside: go.wait(60))
    with pytest.raises(GaitWireError, match="wait already"):
        for n in range(MOST_WAITING + 2):
            board.start("svg", f"job {n}", 1, lambda: production)
    go.set()
    board.close()


def test_the_last_results_are_kept_and_older_ones_go(production):
    board = JobBoard()
    jobs = []
    for _ in range(KEPT + 2):
        job = board.start("svg", production.name, len(production), lambda: production)
        until(lambda job=job: job.state not in ("waiting", "working"))
        jobs.append(job)
    with pytest.raises(NotFoundError, match="not kept"):
        board.get(jobs[0].id)
    assert not jobs[0].folder.exists()
    assert board.get(jobs[-1].id).file.exists()
    board.close()
    assert not jobs[-1].folder.exists()


def test_names_become_safe_files_and_unknown_kinds_are_refused(production, home):
    odd = replace(production, name="../up: a/b?")
    assert lined_up("svg", odd, home).file.parent.parent == home
    with pytest.raises(InvalidInputError, match="svg, gif, png"):
        lined_up("tapestry", production, home)


def test_a_failed_render_leaves_no_target(orchard, home, monkeypatch):
    monkeypatch.setattr("gaitwire.services.session.jobs.make", die)
    with pytest.raises(GaitWireError, match="stopped without an answer"):
        render_to(orchard, find_scene(orchard, "Pip hops"), home / "a.svg", SINKS["svg"])
    assert left_behind(home) == []
