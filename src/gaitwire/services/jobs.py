"""Long work in worker processes: progress, cancel, and a result kept until it is fetched."""

from __future__ import annotations

import shutil
import tempfile
import threading
import uuid
from collections import OrderedDict
from dataclasses import dataclass, field
from multiprocessing.connection import Connection, wait
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Literal

from gaitwire.core.errors import GaitWireError, JobError, NotFoundError
from gaitwire.formats.exporting import Production
from gaitwire.formats.exports import EXPORTS, draw_frames
from gaitwire.services.workers import process_context

WORKERS = 2
KEPT = 12

State = Literal["working", "done", "failed", "cancelled"]


@dataclass
class Job:
    """One send-off under way, or finished."""

    id: str
    kind: str
    name: str
    total: int
    folder: Path
    done: int = 0
    state: State = "working"
    error: str = ""
    size: int = 0
    sampled_size: int = 0
    cancelled: threading.Event = field(default_factory=threading.Event)

    @property
    def file(self) -> Path:
        return self.folder / f"{self.name}{EXPORTS[self.kind].suffix}"

    @property
    def share(self) -> float:
        return 1.0 if self.state == "done" else min(0.99, self.done / max(1, self.total + 1))


def _draw(pipe: Connection, production: Production, kind: str, indices: list[int], folder: Path) -> None:
    """A worker's whole life: draw frames into files, report each."""

    def keep(index: int, data: bytes) -> None:
        (folder / f"{index:06d}").write_bytes(data)
        pipe.send(index)

    try:
        draw_frames(production, EXPORTS[kind], indices, keep)
        pipe.send(None)
    except GaitWireError as error:
        pipe.send(error)


def _write(pipe: Connection, production: Production, kind: str, count: int, folder: Path, target: Path) -> None:
    """The last step: put the file together beside its place, then move it there."""
    export = EXPORTS[kind]
    try:
        if export.write is not None:
            data = export.write(production)
        elif export.assemble is not None:
            data = export.assemble(production, [(folder / f"{i:06d}").read_bytes() for i in range(count)])
        part = target.with_suffix(".part")
        part.write_bytes(data)
        part.rename(target)
        pipe.send(None)
    except GaitWireError as error:
        pipe.send(error)


class _Crew:
    """Worker processes of one job, watched together."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self._processes: list[ForkServerProcess] = []
        self._pipes: list[Connection] = []

    def start(self, work: object, *args: object) -> None:
        receiver, sender = process_context.Pipe(duplex=False)
        process = process_context.Process(target=work, args=(sender, *args), daemon=True)  # type: ignore[arg-type]
        try:
            process.start()
        except OSError as error:
            raise JobError("A worker could not be started.", f"{error.strerror or error}.") from error
        sender.close()
        self._processes.append(process)
        self._pipes.append(receiver)

    def watch(self) -> None:
        """Until all are done; raises what a worker raised, and JobError when one dies or on cancel."""
        open_ = list(self._pipes)
        try:
            while open_:
                if self.job.cancelled.is_set():
                    raise JobError("This was cancelled.")
                for pipe in wait(open_, timeout=0.1):
                    if self._take(pipe):  # type: ignore[arg-type]
                        open_.remove(pipe)  # type: ignore[arg-type]
        finally:
            self._end()

    def _take(self, pipe: Connection) -> bool:
        """One message; whether that worker is done."""
        try:
            message = pipe.recv()
        except EOFError:
            raise JobError(
                "A worker stopped without an answer.", "There may be too little memory; try a smaller size."
            ) from None
        if isinstance(message, GaitWireError):
            raise message
        if message is None:
            return True
        self.job.done += 1
        return False

    def _end(self) -> None:
        for process in self._processes:
            process.kill()
            process.join()
            process.close()
        for pipe in self._pipes:
            pipe.close()
        self._processes, self._pipes = [], []


def run_job(job: Job, production: Production) -> None:
    """Do all of a job's work, in worker processes; its state says how it ended."""
    frames = job.folder / "frames"
    frames.mkdir()
    count = len(production.frames)
    try:
        if EXPORTS[job.kind].encode is not None:
            crew = _Crew(job)
            workers = min(WORKERS, count)
            for n in range(workers):
                crew.start(_draw, production, job.kind, list(range(n, count, workers)), frames)
            crew.watch()
        crew = _Crew(job)
        crew.start(_write, production, job.kind, count, frames, job.file)
        crew.watch()
        job.size = job.file.stat().st_size
        job.state = "done"
    except GaitWireError as error:
        job.state, job.error = ("cancelled", "") if job.cancelled.is_set() else ("failed", str(error))
    except OSError as error:
        job.state, job.error = "failed", f"The file could not be written: {error.strerror or error}."
    finally:
        shutil.rmtree(frames, ignore_errors=True)


class JobBoard:
    """All jobs of a running program, the last few kept with their files."""

    def __init__(self) -> None:
        self._home = Path(tempfile.mkdtemp(prefix="gaitwire-"))
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = threading.Lock()

    def start(self, kind: str, production: Production) -> Job:
        """Begin a job; it goes on by itself."""
        job = new_job(kind, production, self._home)
        with self._lock:
            self._jobs[job.id] = job
            finished = [j for j in self._jobs.values() if j.state != "working"]
            for old in finished[: max(0, len(self._jobs) - KEPT)]:
                del self._jobs[old.id]
                shutil.rmtree(old.folder, ignore_errors=True)
        threading.Thread(target=run_job, args=(job, production), name=f"job {job.id}", daemon=True).start()
        return job

    def get(self, job_id: str) -> Job:
        """The job; raises NotFoundError."""
        with self._lock:
            job = self._jobs.get(job_id)
        if job is None:
            raise NotFoundError("This send-off is not kept any more.", "Make it again.")
        return job

    def cancel(self, job_id: str) -> Job:
        """Ask a job to stop; its workers end within a moment and leave nothing."""
        job = self.get(job_id)
        job.cancelled.set()
        return job

    def close(self) -> None:
        """Cancel what is under way and remove all files."""
        with self._lock:
            for job in self._jobs.values():
                job.cancelled.set()
        shutil.rmtree(self._home, ignore_errors=True)


def new_job(kind: str, production: Production, home: Path) -> Job:
    """A job with a folder of its own; raises JobError for an unknown kind."""
    if kind not in EXPORTS:
        raise JobError(f"There is no export “{kind}”.", f"Known: {', '.join(EXPORTS)}.")
    job_id = str(uuid.uuid4())
    folder = home / job_id
    folder.mkdir(parents=True)
    frames = len(production.frames) if EXPORTS[kind].encode is not None else 0
    safe = "".join(ch if ch.isalnum() or ch in "-_ " else "_" for ch in production.name).strip() or "scene"
    return Job(job_id, kind, safe, frames, folder)
