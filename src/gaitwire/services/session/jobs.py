"""Long work in worker processes: progress, cancel, and a result kept until it is fetched."""

from __future__ import annotations

import os
import shutil
import signal
import threading
import uuid
from collections import OrderedDict, deque
from collections.abc import Callable
from contextlib import ExitStack, suppress
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Any, Literal

from gaitwire.core.errors import GaitWireError, JobError, NotFoundError
from gaitwire.formats.exporting import Production
from gaitwire.formats.sinks import Format, format_named
from gaitwire.services.session.journal import put_down
from gaitwire.services.session.locking import passing_folder
from gaitwire.services.session.making import BUDGET, HELPERS, Added, Aside, Written, make
from gaitwire.services.session.workers import process_context

KEPT = 12
MOST_WAITING = 40

JobState = Literal["waiting", "working", "done", "failed", "cancelled"]

ProductionMaker = Callable[[], Production[Any]]
"""Makes what an export needs, once it is its turn: it may take much memory, and few are made at a time."""


@dataclass
class Job:
    """One send-off under way, or finished."""

    id: str
    format: Format
    name: str
    total: int
    folder: Path
    done: int = 0
    state: JobState = "waiting"
    before: int = 0
    """How many jobs have their turn before it."""
    error: str = ""
    size: int = 0
    """Bytes of the finished file."""
    aside: str = ""
    """What is told of the finished file besides."""
    told: bool = False
    """Whether that is all, and nothing is worked out any more."""
    cancelled: threading.Event = field(default_factory=threading.Event)

    @property
    def file(self) -> Path:
        return self.folder / f"{self.name}{self.format.suffix}"

    @property
    def share(self) -> float:
        return 1.0 if self.state == "done" else min(0.99, self.done / max(1, self.total + 1))


class _Maker:
    """The worker process of one job, watched."""

    def __init__(self, job: Job) -> None:
        self.job = job

    def run(self, production: Production[Any], aside: bool) -> None:
        """Until it is done; raises what it raised, and JobError when it dies or on cancel."""
        receiver, sender = process_context.Pipe(duplex=False)
        args = (sender, self.job.format, production, self.job.file, aside)
        process = process_context.Process(target=make, args=args)
        try:
            process.start()
        except OSError as error:
            raise JobError("A worker could not be started.", f"{error.strerror or error}.") from error
        sender.close()
        try:
            while self._goes_on(receiver):
                if self.job.cancelled.is_set():
                    raise JobError("This was cancelled.")
        finally:
            _end(process)
            receiver.close()

    def _goes_on(self, pipe: Connection) -> bool:
        """Take one message, if there is one within a moment; whether the worker goes on."""
        if not pipe.poll(0.1):
            return True
        try:
            message = pipe.recv()
        except EOFError:
            raise JobError(
                "A worker stopped without an answer.", "There may be too little memory; try a smaller size."
            ) from None
        if isinstance(message, GaitWireError):
            raise message
        if isinstance(message, Added):
            self.job.done += 1
        elif isinstance(message, Written):
            self.job.size, self.job.state = message.size, "done"
        elif isinstance(message, Aside):
            self.job.aside = message.said
        return message is not None


def _end(process: ForkServerProcess) -> None:
    """End a worker with all its helpers."""
    with suppress(OSError):
        if process.pid is not None:
            os.killpg(process.pid, signal.SIGKILL)
    process.kill()
    process.join()
    process.close()


def run_job(job: Job, making: ProductionMaker, aside: bool = True) -> None:
    """Do all of a job's work, in worker processes; its state says how it ended.

    What may be told of the finished file besides (`aside`) is worked out when the job is done already.
    """
    job.state = "working"
    try:
        _Maker(job).run(making(), aside)
    except GaitWireError as error:
        if not job.size:
            job.state, job.error = ("cancelled", "") if job.cancelled.is_set() else ("failed", str(error))
    except Exception as error:  # noqa: BLE001 - those who wait behind it still have their turn; the log has it all
        number = put_down(error, f"send-off {job.format.name}")
        job.state, job.error = "failed", f"Something went wrong in the program (number {number})."
    finally:
        job.file.with_suffix(".part").unlink(missing_ok=True)
        job.told = True


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
            for working in self._jobs.values():
                if working.state == "done":
                    working.cancelled.set()  # its file is there: nobody waits for what else could be told of it
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
                run_job(job, making, aside=not self._waiting)
            with self._changed:
                self._count()

    def counts(self) -> dict[str, int]:
        """How many jobs wait, are worked on, and the processes and bytes that there are for them."""
        with self._changed:
            states = [j.state for j in self._jobs.values()]
        return {
            "waiting": states.count("waiting"), "working": states.count("working"), "workers": HELPERS + 1,
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
    format_ = format_named(kind)
    job_id = str(uuid.uuid4())
    folder = home / job_id
    folder.mkdir(parents=True)
    safe = "".join(ch if ch.isalnum() or ch in "-_ " else "_" for ch in name).strip() or "scene"
    return Job(job_id, format_, safe, frames if format_.drawn else 0, folder)
