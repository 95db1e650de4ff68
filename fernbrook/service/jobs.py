"""Long work: queued in the database, done in worker processes, watched, cancelled, and taken up again after a stop."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, Future
from dataclasses import dataclass
from multiprocessing import get_context
from multiprocessing.sharedctypes import RawArray
from threading import Event as Flag
from threading import RLock, Thread
from typing import Any

from pebble import ProcessExpired, ProcessPool
from sqlalchemy.orm import Session

from fernbrook.audio.errors import AudioFileError
from fernbrook.service import work
from fernbrook.service.errors import NotFoundError, RefusedError
from fernbrook.service.events import Events
from fernbrook.service.ids import new_id
from fernbrook.store.database import Database
from fernbrook.store.jobs import OPEN, JobKind, JobState, open_jobs
from fernbrook.store.tables import JobRow, now

SLOTS = 64
LOOK_EVERY_S = 0.2
WORK: dict[JobKind, Callable[..., dict[str, Any]]] = {
    JobKind.ANALYSE: work.analyse_track,
    JobKind.RENDER: work.render_mix,
    JobKind.STRAIGHTEN: work.straighten_track,
}

Finish = Callable[[Session, JobRow, dict[str, Any]], None]


@dataclass
class _Running:
    """A job that the pool has."""

    future: Future[dict[str, Any]]
    slot: int
    shown: float = -1.0
    begun: bool = False


class Jobs:
    """The queue and its workers.

    ``finish`` holds, for each kind, what is to be written in the database when such a job is done.
    """

    def __init__(self, database: Database, events: Events, workers: int | None = None) -> None:
        self._database = database
        self._events = events
        self._workers = workers or max(1, os.cpu_count() or 1)
        self._running: dict[str, _Running] = {}
        self._lock = RLock()
        self._board = RawArray("d", SLOTS)
        self._pool: ProcessPool | None = None
        self._stop = Flag()
        self._wake = Flag()
        self._thread = Thread(target=self._watch, name="jobs", daemon=True)
        self.finish: dict[JobKind, Finish] = {}

    def start(self) -> None:
        """Begin to work. Analyses that a stop has cut off wait again; renders are marked, to be started by hand."""
        with self._database.write() as session:
            for job in open_jobs(session):
                if job.state == JobState.RUNNING:
                    again = job.kind == JobKind.ANALYSE
                    job.state = JobState.WAITING if again else JobState.INTERRUPTED
                    job.error = None if again else "The application was stopped while this was under way."
        self._thread.start()

    def stop(self) -> None:
        """Stop all work; what is open is taken up at the next start."""
        self._stop.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join()
        if self._pool is not None:
            self._pool.stop()  # type: ignore[no-untyped-call]
            self._pool.join()

    def add(
        self,
        session: Session,
        kind: JobKind,
        subject: str,
        title: str,
        order: dict[str, Any],
        expected: dict[str, Any] | None = None,
    ) -> JobRow:
        """Queue a job, within the caller's transaction; call ``wake`` after it.

        ``order`` are the arguments of its work; ``expected`` is what is known of the result beforehand.
        """
        job = JobRow(
            id=new_id(), kind=kind, subject=subject, title=title, order=order, state=JobState.WAITING, result=expected
        )
        session.add(job)
        session.flush()
        return job

    def announce(self, job: JobRow) -> None:
        """Tell open pages of a new job, and have the queue looked at now."""
        self._tell(job)
        self.wake()

    def wake(self) -> None:
        """Have the queue looked at now."""
        self._wake.set()

    def cancel(self, job_id: str) -> None:
        """End a job that is waiting or running."""
        with self._lock, self._database.write() as session:
            job = _get(session, job_id)
            if job.state not in OPEN:
                raise RefusedError(f"‘{job.title}’ has already ended.")
            running = self._running.pop(job_id, None)
            if running:
                running.future.cancel()
            job.state, job.finished_at = JobState.CANCELLED, now()
        self._tell(job)
        self.wake()

    def retry(self, job_id: str) -> None:
        """Queue a job that did not end well once more."""
        with self._database.write() as session:
            job = _get(session, job_id)
            if job.state in (*OPEN, JobState.DONE):
                raise RefusedError(f"‘{job.title}’ needs no second try.")
            job.state, job.error, job.progress = JobState.WAITING, None, 0.0
            job.started_at = job.finished_at = None
        self._tell(job)
        self.wake()

    def _watch(self) -> None:
        """Hand out, follow and finish jobs until the end."""
        while not self._stop.is_set():
            with self._lock:
                self._collect()
                self._hand_out()
                busy = bool(self._running)
            self._wake.wait(LOOK_EVERY_S if busy else None)
            self._wake.clear()

    def _hand_out(self) -> None:
        """Give as many waiting jobs to the pool as it has workers: the order stays ours until then."""
        free = self._workers - len(self._running)
        if free <= 0 or self._stop.is_set():
            return
        with self._database.write() as session:
            waiting = [j for j in open_jobs(session) if j.state == JobState.WAITING][:free]
            for job in waiting:
                slot = next(s for s in range(SLOTS) if s not in {r.slot for r in self._running.values()})
                self._board[slot] = 0.0
                function = WORK[JobKind(job.kind)]
                future = self._started_pool().schedule(function, kwargs={**job.order, "slot": slot})
                future.add_done_callback(lambda _: self._wake.set())
                self._running[job.id] = _Running(future, slot)
                job.state, job.started_at, job.progress = JobState.RUNNING, now(), 0.0
        for job in waiting:
            self._tell(job)

    def _started_pool(self) -> ProcessPool:
        if self._pool is None:
            self._pool = ProcessPool(
                max_workers=self._workers, context=get_context("spawn"), initializer=work.begin, initargs=[self._board]
            )
        return self._pool

    def _collect(self) -> None:
        """Write down what running jobs have come to."""
        for job_id, running in list(self._running.items()):
            if running.future.done():
                del self._running[job_id]
                self._end(job_id, running.future)
            elif abs(self._board[running.slot] - running.shown) >= 0.005:
                running.shown = self._board[running.slot]
                with self._database.write() as session:
                    job = _get(session, job_id)
                    job.progress = running.shown
                self._tell(job)

    def _end(self, job_id: str, future: Future[dict[str, Any]]) -> None:
        with self._database.write() as session:
            job = _get(session, job_id)
            job.finished_at = now()
            try:
                result = future.result()
            except CancelledError:
                job.state = JobState.CANCELLED
            except AudioFileError as error:
                job.state, job.error = JobState.FAILED, str(error)
            except ProcessExpired:
                job.state = JobState.FAILED
                job.error = (
                    "The worker process ended unexpectedly. Try again; if it happens again, memory may be short."
                )
            except OSError as error:
                job.state, job.error = JobState.FAILED, f"{error.strerror or error}. Is there room on the disk?"
            except Exception as error:  # the worker's failure is the job's result, whatever it was
                job.state, job.error = JobState.FAILED, f"Something unforeseen went wrong: {error!r}"
            else:
                job.state, job.result, job.progress = JobState.DONE, (job.result or {}) | result, 1.0
                self.finish[JobKind(job.kind)](session, job, result)
        self._tell(job)

    def _tell(self, job: JobRow) -> None:
        self._events.tell({"type": "job", "id": job.id, "kind": job.kind, "subject": job.subject, "state": job.state})


def _get(session: Session, job_id: str) -> JobRow:
    job = session.get(JobRow, job_id)
    if job is None:
        raise NotFoundError("That job is not there any more.")
    return job


def nothing_more(session: Session, job: JobRow, result: dict[str, Any]) -> None:
    """For jobs whose result needs nothing written but the result itself."""


def seconds_taken(job: JobRow) -> float | None:
    """How long a job has been running or ran."""
    if job.started_at is None:
        return None
    end = job.finished_at.timestamp() if job.finished_at else time.time()
    return max(0.0, end - job.started_at.timestamp())
