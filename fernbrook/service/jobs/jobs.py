"""Long work: queued in the database, done in worker processes, watched, cancelled, and taken up again after a stop.

Every failure belongs to one job. What a job came to is held in memory until it could be noted, so that a full disk
costs nothing but the wait; progress is never written at all.
"""

from __future__ import annotations

import logging
import os
import time
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, replace
from datetime import datetime
from multiprocessing import get_context
from multiprocessing.sharedctypes import RawArray
from threading import Event as Flag
from threading import RLock, Thread
from typing import Any

from pebble import ProcessPool
from pydantic import BaseModel
from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.errors import DiskFullError, NotFoundError, RefusedError
from fernbrook.kept import KeptValues
from fernbrook.service.ground import Events, new_id
from fernbrook.service.jobs.outcome import WAITS, Outcome, failure, outcome_of
from fernbrook.service.work import worker
from fernbrook.service.work.worker import Result, Run
from fernbrook.store.database import Database
from fernbrook.store.folders import ARRIVED, Folders
from fernbrook.store.jobs import OPEN, JobState, count_open, forget_jobs, jobs_of_kind, open_jobs, waiting_jobs
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow, now
from fernbrook.whole import delete

LOOK_EVERY_S = 0.2
CLEARED_AFTER_S = 6.0
"""A worker that is told to end has gone by then, and nothing more of its work appears."""
REMEMBERED = 1000
"""Of so many jobs that did not end well it is known how they ended, whatever row somebody still has of them."""
AGAIN_AFTER_S = 2.0
"""How long to wait before what could not be noted is tried again."""
SHOWN_STEP = 0.005
LIGHT_WORKERS = 1
"""So many workers are there for light work alone, beside those that any work may have."""

Finish = Callable[[Session, JobRow, Result], None]

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class JobKind:
    """One kind of long work.

    ``run`` does it in a worker; ``finish`` writes what came of it, in the transaction that ends the job. Work that a
    stop has cut off waits again where ``again`` says so, and is marked as interrupted otherwise. ``light`` work never
    waits behind other: it is somebody's who looks on, or waits for a disk or a network itself.
    """

    name: str
    order: Stored[Any]
    run: Run
    finish: Finish
    again: bool = False
    light: bool = False


@dataclass(frozen=True)
class Job:
    """A piece of long work as it stands. ``result`` is what is known of it beforehand, then what came of it."""

    id: str
    kind: str
    subject: str
    title: str
    state: JobState
    progress: float
    error: str | None
    result: Result
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None

    @property
    def is_open(self) -> bool:
        """Whether it has not ended."""
        return self.state in OPEN

    @property
    def seconds(self) -> float | None:
        """How long it has been running, or ran."""
        if self.started_at is None:
            return None
        end = self.finished_at.timestamp() if self.finished_at else time.time()
        return max(0.0, end - self.started_at.timestamp())


@dataclass
class _Running:
    """A job that the pool has; ``owner`` is what its unfinished files are called by, another one at each try."""

    future: Future[Result]
    slot: int
    owner: str
    light: bool
    shown: float = -1.0


class Jobs:
    """The queue and its workers."""

    def __init__(self, folders: Folders, database: Database, events: Events, workers: int | None = None) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._workers = workers or max(1, os.cpu_count() or 1)
        self._kinds: dict[str, JobKind] = {}
        self._running: dict[str, _Running] = {}
        self._outcomes: dict[str, Outcome] = {}
        self._leftovers: dict[str, float] = {}
        self._ended: KeptValues[str, Outcome] = KeptValues(REMEMBERED)
        self._lock = RLock()
        self._board = RawArray("d", self._workers + LIGHT_WORKERS)
        self._looked_at: str | None = None
        self._pool: ProcessPool | None = None
        self._stop = Flag()
        self._wake = Flag()
        self._thread = Thread(target=self._watch, name="jobs", daemon=True)

    def register(self, kind: JobKind) -> None:
        """Make a kind of work known, before the start."""
        self._kinds[kind.name] = kind

    def start(self) -> None:
        """Begin to work on what is queued."""
        with self._database.write() as session:
            for job in open_jobs(session):
                if job.state == JobState.RUNNING:
                    again = job.kind in self._kinds and self._kinds[job.kind].again
                    job.state = JobState.WAITING if again else JobState.INTERRUPTED
                    job.error = None if again else "The application was stopped while this was under way."
        self._thread.start()

    def clear(self) -> None:
        """Delete the files of jobs that there are not: begun, and cut off before their job was noted, or after it was
        forgotten."""
        with self._database.read() as session:
            known = set(session.scalars(select(JobRow.id)))
        for folder in (self._folders.renders, self._folders.bundles):
            for path in folder.iterdir():
                if path.name.partition(".")[0] not in known and path.suffix != ARRIVED:
                    delete(path)

    def stop(self) -> None:
        """Stop all work; what is open is taken up at the next start."""
        self._stop.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join()
        if self._pool is not None:
            self._pool.stop()  # type: ignore[no-untyped-call]
            self._pool.join()

    def view(self, row: JobRow) -> Job:
        """A job as it stands, what is not noted yet included."""
        running, outcome = self._running.get(row.id), self._outcomes.get(row.id)
        if row.state in OPEN and outcome is None and running is None:
            outcome = self._ended.get(row.id)  # the row was read before its end was noted
        job = Job(
            id=row.id,
            kind=row.kind,
            subject=row.subject,
            title=row.title,
            state=JobState(row.state),
            progress=row.progress,
            error=row.error,
            result=row.result or {},
            created_at=row.created_at,
            started_at=row.started_at,
            finished_at=row.finished_at,
        )
        if outcome and outcome.state is JobState.DONE:
            return replace(job, progress=1.0, error=WAITS if outcome.held_up else None)
        if outcome:
            return replace(job, state=outcome.state, error=outcome.error)
        return replace(job, progress=self._board[running.slot]) if running else job

    def order_of(self, row: JobRow) -> Any:
        """The order of a job, in its present form."""
        return self._kinds[row.kind].order.from_json(row.order)

    def add(
        self,
        session: Session,
        kind: JobKind,
        subject: str,
        title: str,
        order: BaseModel,
        expected: Result | None = None,
        job_id: str | None = None,
    ) -> JobRow:
        """Queue a job, within the caller's transaction; call ``announce`` or ``wake`` after it.

        ``expected`` is what is known of the result beforehand.
        """
        job = JobRow(
            id=job_id or new_id(),
            kind=kind.name,
            subject=subject,
            title=title,
            order=kind.order.to_json(order),
            state=JobState.WAITING,
            result=expected,
            created_at=now(),
        )
        session.add(job)
        session.flush()
        return job

    def announce(self, job: JobRow) -> None:
        """Tell open pages of a new job, and have the queue looked at now."""
        self._tell(job)
        self.wake()

    def look_at(self, subject: str) -> None:
        """Somebody looks at this subject now: what waits about it is done next."""
        self._looked_at = subject

    def wake(self) -> None:
        """Have the queue looked at now."""
        self._wake.set()

    def cancel(self, job_id: str) -> None:
        """End a job that is waiting or running."""
        with self._lock:
            with self._database.read() as session:
                job = _get(session, job_id)
                if not self.view(job).is_open:
                    raise RefusedError(f"‘{job.title}’ has already ended.")
            running = self._running.pop(job_id, None)
            if running:
                self._end_work(running)
            self._outcomes[job_id] = Outcome(JobState.CANCELLED)
            self._note(job_id)
        self.wake()

    def drop(self, kind: JobKind, subject: str) -> None:
        """Forget all jobs of a kind about one subject; those that have not ended are cancelled first."""
        with self._lock:
            with self._database.write() as session:
                dropped = [row.id for row in jobs_of_kind(session, kind.name, subject)]
                forget_jobs(session, kind.name, subject)
            for job_id in dropped:
                self._outcomes.pop(job_id, None)
                running = self._running.pop(job_id, None)
                if running:
                    self._end_work(running)
        self.wake()

    def _end_work(self, running: _Running) -> None:
        """End the work on a job; what it has begun to write goes once its process has."""
        running.future.cancel()
        self._leftovers[running.owner] = time.monotonic() + CLEARED_AFTER_S

    def retry(self, job_id: str) -> None:
        """Queue a job that did not end well once more."""
        with self._lock, self._database.write() as session:
            job = _get(session, job_id)
            if job.state in (*OPEN, JobState.DONE):
                raise RefusedError(f"‘{job.title}’ needs no second try.")
            job.state, job.error, job.progress = JobState.WAITING, None, 0.0
            job.started_at = job.finished_at = None
            self._ended.drop(job_id)
        self._tell(job)
        self.wake()

    def _watch(self) -> None:
        """Hand out, follow and finish jobs until the end. Nothing that a job does ends this."""
        while not self._stop.is_set():
            held_up = False
            with self._lock:
                for step in (self._collect, self._hand_out):
                    try:
                        held_up |= step()
                    except Exception:  # of no job in particular: say it, and look again later
                        log.exception("the queue could not be looked at")
                        held_up = True
                busy = bool(self._running or self._leftovers)
            self._wake.wait(AGAIN_AFTER_S if held_up else LOOK_EVERY_S if busy else None)
            self._wake.clear()

    def _hand_out(self) -> bool:
        """Give as many waiting jobs to the pool as it has workers for them: the order stays ours until then.

        Returns whether something is to be tried again.
        """
        if len(self._running) >= len(self._board) or self._stop.is_set():
            return False
        for job_id in self._next():
            try:
                with self._database.write() as session:
                    job = _get(session, job_id)
                    job.state, job.started_at, job.progress = JobState.RUNNING, now(), 0.0
            except DiskFullError:
                return True
            try:
                self._running[job_id] = self._scheduled(job)
                self._tell(job)
            except Exception as error:  # this job cannot be done: the others can
                self._outcomes[job_id] = failure(error)
                self._note(job_id)
                self.wake()
        return bool(self._outcomes)

    def open_count(self) -> int:
        """How many jobs run or wait that take a worker for long; light ones do not count."""
        heavy = [kind.name for kind in self._kinds.values() if not kind.light]
        with self._database.read() as session:
            return count_open(session, heavy)

    def _next(self) -> list[str]:
        """Jobs that can begin now, in their order: what is looked at first, then as they came."""
        running = list(self._running.values())
        free, free_for_any = len(self._board) - len(running), self._workers - sum(not r.light for r in running)
        light = {kind.name for kind in self._kinds.values() if kind.light}
        with self._database.read() as session:
            # Behind a large import thousands wait: they are not looked through while none of them could begin.
            waiting = waiting_jobs(session, light if free_for_any <= 0 else None)
        found = []
        for job_id, kind, _ in sorted(waiting, key=lambda job: job[2] != self._looked_at):
            is_light = kind in light
            if free > 0 and (is_light or free_for_any > 0) and job_id not in self._outcomes:
                found.append(job_id)
                free, free_for_any = free - 1, free_for_any - (not is_light)
        return found

    def _scheduled(self, job: JobRow) -> _Running:
        kind = self._kinds[job.kind]
        order = kind.order.from_json(job.order)
        slot = next(s for s in range(len(self._board)) if s not in {r.slot for r in self._running.values()})
        self._board[slot] = 0.0
        owner = new_id()
        arguments = [kind.run, order, self._folders.root, slot, owner]
        try:
            future = self._started_pool().schedule(worker.do, args=arguments)
        except RuntimeError:  # the pool itself has broken: a new one
            self._pool = None
            future = self._started_pool().schedule(worker.do, args=arguments)
        future.add_done_callback(lambda _: self._wake.set())
        return _Running(future, slot, owner, kind.light)

    def _started_pool(self) -> ProcessPool:
        if self._pool is None:
            self._pool = ProcessPool(
                max_workers=len(self._board),
                context=get_context("spawn"),
                initializer=worker.begin,
                initargs=[self._board],
            )
        return self._pool

    def _collect(self) -> bool:
        """See what running jobs have come to, and note it. Returns whether something is to be tried again."""
        for job_id, running in list(self._running.items()):
            if running.future.done():
                del self._running[job_id]
                self._outcomes[job_id] = outcome = outcome_of(running.future)
                if outcome.state is not JobState.DONE:
                    self._leftovers[running.owner] = time.monotonic()
            elif abs(self._board[running.slot] - running.shown) >= SHOWN_STEP:
                running.shown = self._board[running.slot]
                with self._database.read() as session:
                    self._tell(_get(session, job_id))
        for job_id in list(self._outcomes):
            self._note(job_id)
        for owner, until in list(self._leftovers.items()):
            self._folders.clear_after(owner)
            if time.monotonic() > until:
                del self._leftovers[owner]
        return bool(self._outcomes)

    def _note(self, job_id: str) -> None:
        """Write down what a job came to. Where the disk is full it stays in memory, to be tried again."""
        try:
            self._end(job_id, self._outcomes[job_id])
        except DiskFullError as error:
            log.warning("job %s: %s", job_id, error)
            self._outcomes[job_id] = replace(self._outcomes[job_id], held_up=True)
            return
        except NotFoundError:  # it was deleted in the meantime
            del self._outcomes[job_id]
            return
        except Exception as error:  # what came of it cannot be used: that is this job's failure
            log.exception("the result of job %s could not be used", job_id)
            self._outcomes[job_id] = failure(error)
            try:
                self._end(job_id, self._outcomes[job_id])
            except Exception:
                log.exception("the failure of job %s could not be noted", job_id)
                return
        del self._outcomes[job_id]

    def _end(self, job_id: str, outcome: Outcome) -> None:
        with self._database.write() as session:
            job = _get(session, job_id)
            job.finished_at, job.state, job.error = now(), outcome.state, outcome.error
            if outcome.result is not None:
                job.progress, job.result = 1.0, (job.result or {}) | outcome.result
                self._kinds[job.kind].finish(session, job, outcome.result)
        if outcome.state is not JobState.DONE:
            self._ended.put(job_id, outcome)
        self._tell(job)

    def _tell(self, job: JobRow) -> None:
        state = self._outcomes[job.id].state if job.id in self._outcomes else job.state
        self._events.tell({"type": "job", "id": job.id, "kind": job.kind, "subject": job.subject, "state": state})


def _get(session: Session, job_id: str) -> JobRow:
    job = session.get(JobRow, job_id)
    if job is None:
        raise NotFoundError("That job is not there any more.")
    return job


def nothing_more(session: Session, job: JobRow, result: Result) -> None:
    """For jobs whose result needs nothing written but the result itself."""
