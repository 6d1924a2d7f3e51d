"""Long work in worker processes: progress, cancel, and a result kept until it is fetched."""

from __future__ import annotations

import shutil
import threading
import uuid
from collections import OrderedDict, deque
from collections.abc import Callable
from contextlib import ExitStack, suppress
from dataclasses import dataclass, field
from multiprocessing.connection import Connection, wait
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Literal, NamedTuple

from gaitwire.core.errors import GaitWireError, InvalidInputError, JobError, NotFoundError
from gaitwire.formats.exporting import Production
from gaitwire.formats.exports import EXPORTS, draw_frames
from gaitwire.services.session.locking import passing_folder
from gaitwire.services.session.workers import humble, process_context

WORKERS = 2
"""Processes that draw, for all jobs together: one job has its turn at a time, the others wait for theirs."""

BUDGET = 3_000_000_000
"""Bytes that they may take beyond what they start with, all together."""

KEPT = 12
MOST_WAITING = 40

JobState = Literal["waiting", "working", "done", "failed", "cancelled"]

ProductionMaker = Callable[[], Production]
"""Makes what an export needs, once it is its turn: it may take much memory, and few are made at a time."""


@dataclass
class Job:
    """One send-off under way, or finished."""

    id: str
    kind: str
    name: str
    total: int
    folder: Path
    done: int = 0
    state: JobState = "waiting"
    before: int = 0
    """How many jobs have their turn before it."""
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


class Sampled(NamedTuple):
    """Bytes of a file that keeps structure, if every frame were written out instead."""

    size: int


def _draw(pipe: Connection, production: Production, kind: str, indices: list[int], folder: Path) -> None:
    """A worker's whole life: draw frames into files, report each."""
    humble(BUDGET // WORKERS)

    def keep(index: int, data: bytes) -> None:
        (folder / f"{index:06d}").write_bytes(data)
        pipe.send(index)

    try:
        draw_frames(production, EXPORTS[kind], indices, keep)
        pipe.send(None)
    except GaitWireError as error:
        pipe.send(error)
    except MemoryError:
        pipe.send(JobError(_TOO_MUCH, _SMALLER))
    except OSError as error:
        with suppress(OSError):  # who asked may be gone, and its folder with it
            pipe.send(JobError(f"A frame could not be kept ({error.strerror or error}).", "Make room on the disk."))


_TOO_MUCH = "This needs more memory than is allowed."
_SMALLER = "Choose a smaller size or fewer frames."


def _write(pipe: Connection, production: Production, kind: str, count: int, folder: Path, target: Path) -> None:
    """The last step: put the file together beside its place, then move it there."""
    export = EXPORTS[kind]
    humble(BUDGET)
    try:
        if export.write is not None:
            data = export.write(production)
            pipe.send(Sampled(len(export.write(production.all_sampled))))
        elif export.assemble is not None:
            data = export.assemble(production, [(folder / f"{i:06d}").read_bytes() for i in range(count)])
        part = target.with_suffix(".part")
        part.write_bytes(data)
        part.rename(target)
        pipe.send(None)
    except GaitWireError as error:
        pipe.send(error)
    except MemoryError:
        pipe.send(JobError(_TOO_MUCH, _SMALLER))
    except OSError as error:
        pipe.send(JobError(f"The file could not be written ({error.strerror or error}).", "Make room on the disk."))


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
        if isinstance(message, Sampled):
            self.job.sampled_size = message.size
            return False
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


def run_job(job: Job, making: ProductionMaker) -> None:
    """Do all of a job's work, in worker processes; its state says how it ended."""
    frames = job.folder / "frames"
    job.state = "working"
    try:
        frames.mkdir()
        production = making()
        count = len(production.frames)
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
    """All jobs of a running program: they have their turns one by one, and the last few are kept with their files."""

    def __init__(self) -> None:
        self._stack = ExitStack()
        self._home = self._stack.enter_context(passing_folder())
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._waiting: deque[tuple[Job, ProductionMaker]] = deque()
        self._changed = threading.Condition()
        self._over = False
        self._thread: threading.Thread | None = None

    def start(self, kind: str, name: str, frames: int, making: ProductionMaker) -> Job:
        """Line a job up; it goes on by itself. Raises JobError where too many wait already."""
        with self._changed:
            if len(self._waiting) >= MOST_WAITING:
                raise JobError(f"{MOST_WAITING} send-offs wait already.", "Wait until some are done, or cancel them.")
            job = new_job(kind, name, frames, self._home)
            self._jobs[job.id] = job
            finished = [j for j in self._jobs.values() if j.state not in ("waiting", "working")]
            for old in finished[: max(0, len(self._jobs) - KEPT)]:
                del self._jobs[old.id]
                shutil.rmtree(old.folder, ignore_errors=True)
            self._waiting.append((job, making))
            self._count()
            if self._thread is None:
                self._thread = threading.Thread(target=self._work, name="jobs", daemon=True)
                self._thread.start()
            self._changed.notify()
        return job

    def _count(self) -> None:
        """Tell those who wait how many have their turn before them."""
        working = sum(j.state == "working" for j in self._jobs.values())
        for n, (job, _) in enumerate(self._waiting):
            job.before = n + working

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._waiting or self._over)
                if self._over:
                    return
                job, making = self._waiting.popleft()
                job.state = "cancelled" if job.cancelled.is_set() else "working"
                self._count()
            if job.state == "working":
                run_job(job, making)
            with self._changed:
                self._count()

    def counts(self) -> dict[str, int]:
        """How many jobs wait, are worked on, and the processes and bytes that there are for them."""
        with self._changed:
            states = [j.state for j in self._jobs.values()]
        return {
            "waiting": states.count("waiting"), "working": states.count("working"), "workers": WORKERS,
            "budget_bytes": BUDGET,
        }  # fmt: skip

    def get(self, job_id: str) -> Job:
        """The job; raises NotFoundError."""
        with self._changed:
            job = self._jobs.get(job_id)
        if job is None:
            raise NotFoundError("This send-off is not kept any more.", "Make it again.")
        return job

    def cancel(self, job_id: str) -> Job:
        """Ask a job to stop; its workers end within a moment and leave nothing."""
        job = self.get(job_id)
        job.cancelled.set()
        with self._changed:
            if job.state == "waiting":
                self._waiting = deque(row for row in self._waiting if row[0] is not job)
                job.state = "cancelled"
                self._count()
        return job

    def close(self) -> None:
        """Cancel what is under way and remove all files."""
        with self._changed:
            self._over = True
            self._waiting.clear()
            for job in self._jobs.values():
                job.cancelled.set()
            self._changed.notify()
        if self._thread is not None:
            self._thread.join(1.0)  # its workers have ended then, and nobody writes into the folder
        self._stack.close()


def new_job(kind: str, name: str, frames: int, home: Path) -> Job:
    """A job with a folder of its own; raises InvalidInputError for an unknown kind."""
    if kind not in EXPORTS:
        raise InvalidInputError(f"There is no export “{kind}”.", f"Known: {', '.join(EXPORTS)}.")
    job_id = str(uuid.uuid4())
    folder = home / job_id
    folder.mkdir(parents=True)
    safe = "".join(ch if ch.isalnum() or ch in "-_ " else "_" for ch in name).strip() or "scene"
    return Job(job_id, kind, safe, frames if EXPORTS[kind].encode is not None else 0, folder)
