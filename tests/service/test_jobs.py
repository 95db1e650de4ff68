"""Every failure belongs to one job: the queue outlives all of them."""

from __future__ import annotations

import time
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from pydantic import BaseModel

from fernbrook.errors import DiskFullError, NotFoundError, RefusedError
from fernbrook.service.jobs import jobs as jobs_module
from fernbrook.service.jobs.jobs import Job, JobKind, nothing_more
from fernbrook.service.jobs.outcome import FAULT
from fernbrook.service.services import Services
from fernbrook.service.work.worker import Report
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow
from tests.service.conftest import until

pytestmark = pytest.mark.slow


class Order(BaseModel):
    """What a made-up piece of work does."""

    says: str = "done"
    seconds: float = 0.0
    fails: bool = False


def run_made_up(order: Order, _: Path, report: Report) -> dict[str, Any]:
    report(0.5)
    time.sleep(order.seconds)
    if order.fails:
        raise ValueError(order.says)
    return {"says": order.says}


class Queue:
    """Made-up work on the queue of the services."""

    def __init__(self, services: Services) -> None:
        self.services = services
        self.finished: list[str] = []
        self.kind = JobKind("made-up", Stored(Order, {}), run_made_up, self._finish)
        self.database = Database(services.folders.database)
        services.jobs.register(self.kind)

    def _finish(self, _: object, job: JobRow, result: dict[str, Any]) -> None:
        if result["says"] == "explode":
            raise RuntimeError("the result is of no use")
        self.finished.append(job.id)

    def add(self, **order: Any) -> str:
        with self.database.write() as session:
            row = self.services.jobs.add(session, self.kind, "s", "some work", Order(**order))
        self.services.jobs.announce(row)
        return row.id

    def view(self, job_id: str) -> Job:
        with self.database.read() as session:
            row = session.get(JobRow, job_id)
            assert row is not None
            return self.services.jobs.view(row)

    def ends(self, job_id: str) -> Job:
        until(lambda: not self.view(job_id).is_open, 30.0)
        return self.view(job_id)


@pytest.fixture
def queue(services: Services) -> Queue:
    queue = Queue(services)
    services.start()
    return queue


@pytest.mark.vital
def test_a_result_that_cannot_be_used_fails_its_job_and_the_next_is_done(queue: Queue) -> None:
    bad, good = queue.add(says="explode"), queue.add()
    failed = queue.ends(bad)
    assert (failed.state, failed.error) == ("failed", FAULT)
    assert queue.ends(good).state == "done"
    assert queue.finished == [good]


def test_work_that_raises_anything_says_so(queue: Queue) -> None:
    ended = queue.ends(queue.add(fails=True, says="a strange thing"))
    assert ended.state == "failed"
    assert ended.error == FAULT


@pytest.mark.vital
def test_only_what_did_not_end_well_is_tried_again(queue: Queue) -> None:
    done, failed = queue.add(), queue.add(fails=True)
    for job in (done, failed):
        queue.ends(job)
    with pytest.raises(RefusedError, match="needs no second try"):
        queue.services.jobs.retry(done)
    queue.services.jobs.retry(failed)
    assert queue.ends(failed).state == "failed"
    assert queue.finished == [done]


def test_an_order_that_cannot_be_read_fails_alone(queue: Queue) -> None:
    with queue.database.write() as session:
        row = queue.services.jobs.add(session, queue.kind, "s", "from the future", Order())
        row.order = {"version": 99, "state": {}}
    with queue.database.write() as session:
        unknown = queue.services.jobs.add(
            session, JobKind("gone", queue.kind.order, run_made_up, nothing_more), "s", "x", Order()
        )
    queue.services.jobs.wake()
    assert "newer Fernbrook" in (queue.ends(row.id).error or "")
    assert queue.ends(unknown.id).state == "failed"
    assert queue.ends(queue.add()).state == "done"


class _Threads:
    """A pool of threads in place of one of processes: seventy of those would take a minute to begin."""

    def __init__(self, max_workers: int, initargs: list[Any], **_: object) -> None:
        self._pool = ThreadPoolExecutor(max_workers)
        self._board = initargs[0]

    def schedule(self, _: Any, args: list[Any]) -> Future[Any]:
        run, order, root, slot, _ = args

        def report(share: float) -> None:
            self._board[slot] = share

        return self._pool.submit(run, order, root, report)

    def stop(self) -> None:
        self._pool.shutdown()

    def join(self) -> None:
        pass


def test_more_workers_than_there_ever_were_places_for(folders: Folders, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jobs_module, "ProcessPool", _Threads)
    services = Services(folders, workers=70)
    try:
        queue = Queue(services)
        jobs = [queue.add(seconds=0.5) for _ in range(75)]
        services.start()
        assert {queue.ends(j).state for j in jobs} == {"done"}
    finally:
        services.stop()


def test_a_pool_that_has_broken_is_made_anew(services: Services, monkeypatch: pytest.MonkeyPatch) -> None:
    class Broken(_Threads):
        """Takes one piece of work and then no more."""

        taken = 0

        def schedule(self, work: Any, args: list[Any]) -> Future[Any]:
            self.taken += 1
            if self.taken > 1:
                raise RuntimeError("the pool is closed")
            return super().schedule(work, args)

    monkeypatch.setattr(jobs_module, "ProcessPool", Broken)
    queue = Queue(services)
    services.start()
    assert [queue.ends(queue.add()).state for _ in range(3)] == ["done"] * 3


def test_a_job_that_was_deleted_while_it_ran_troubles_nobody(queue: Queue) -> None:
    gone = queue.add(seconds=0.6)
    until(lambda: queue.view(gone).state == "running")
    with queue.database.write() as session:
        session.delete(session.get(JobRow, gone))
    assert queue.ends(queue.add()).state == "done"
    with pytest.raises(NotFoundError):
        queue.services.jobs.cancel(gone)


def test_a_queue_that_cannot_look_looks_again(queue: Queue, monkeypatch: pytest.MonkeyPatch) -> None:
    jobs = queue.services.jobs
    real, calls = jobs._hand_out, []

    def once_broken() -> bool:
        calls.append(1)
        if len(calls) == 1:
            raise RuntimeError("a passing trouble")
        return real()

    monkeypatch.setattr(jobs, "_hand_out", once_broken)
    assert queue.ends(queue.add()).state == "done"


def test_progress_is_seen_without_being_written(queue: Queue) -> None:
    slow = queue.add(seconds=1.5)
    until(lambda: queue.view(slow).progress == 0.5)
    with queue.database.read() as session:
        row = session.get(JobRow, slow)
        assert row is not None
        assert row.progress == 0.0
    assert queue.ends(slow).progress == 1.0


def test_light_work_waits_behind_no_other(folders: Folders) -> None:
    services = Services(folders, workers=1)
    try:
        queue = Queue(services)
        light = JobKind("light", queue.kind.order, run_made_up, nothing_more, light=True)
        services.jobs.register(light)
        services.start()
        slow, behind = queue.add(seconds=300.0), queue.add()
        until(lambda: queue.view(slow).state == "running")
        with queue.database.write() as session:
            quick = services.jobs.add(session, light, "m", "quick", Order())
            # Who asks how long a render will take counts the two that take long.
        assert services.renders.paces().beside == 2
        services.jobs.wake()
        assert queue.ends(quick.id).state == "done"
        assert (queue.view(slow).state, queue.view(behind).state) == ("running", "waiting")
        services.jobs.cancel(slow)
        assert queue.ends(behind).state == "done"
    finally:
        services.stop()


def test_what_is_looked_at_is_done_next(folders: Folders) -> None:
    services = Services(folders, workers=1)
    try:
        queue = Queue(services)
        services.start()
        first = queue.add(seconds=1.0)
        until(lambda: queue.view(first).state == "running")
        second = queue.add()
        with queue.database.write() as session:
            wanted = services.jobs.add(session, queue.kind, "looked at", "wanted", Order())
        services.jobs.look_at("looked at")
        queue.ends(second)
        assert queue.finished == [first, wanted.id, second]
    finally:
        services.stop()


class _FullNow:
    """A disk that is full for the database from one moment to another."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, services: Services) -> None:
        self.full = False
        real = services.jobs._database.write

        def write() -> Any:
            if self.full:
                raise DiskFullError("The disk is full: the change was not kept.")
            return real()

        monkeypatch.setattr(services.jobs._database, "write", write)


def test_with_a_full_disk_results_wait_and_are_noted_when_there_is_room(
    queue: Queue, monkeypatch: pytest.MonkeyPatch
) -> None:
    disk = _FullNow(monkeypatch, queue.services)
    ok, bad = queue.add(seconds=0.6, says="kept"), queue.add(fails=True, says="no")
    until(lambda: queue.view(ok).state == "running")
    disk.full = True
    until(lambda: "full" in (queue.view(ok).error or ""), 20.0)
    assert queue.view(ok).is_open
    disk.full = False
    assert queue.ends(ok).result == {"says": "kept"}
    assert queue.ends(bad).state == "failed"


def test_a_render_that_fills_the_disk_can_be_cancelled(queue: Queue, monkeypatch: pytest.MonkeyPatch) -> None:
    disk = _FullNow(monkeypatch, queue.services)
    long = queue.add(seconds=60.0)
    until(lambda: queue.view(long).state == "running")
    disk.full = True
    queue.services.jobs.cancel(long)
    assert queue.view(long).state == "cancelled"
    with pytest.raises(RefusedError, match="already ended"):
        queue.services.jobs.cancel(long)
    disk.full = False
    assert queue.ends(queue.add()).state == "done"
    until(lambda: not queue.services.jobs._outcomes)


def explode(*_: object) -> Any:
    raise KeyError("row['owner'] at 0x7f32 /home/somebody/secret")


@pytest.mark.parametrize("where", ["run", "finish"])
def test_no_kind_of_work_shows_anybody_an_exception(
    services: Services, monkeypatch: pytest.MonkeyPatch, where: str
) -> None:
    monkeypatch.setattr(jobs_module, "ProcessPool", _Threads)
    made = {}
    for name, whole in list(services.jobs._kinds.items()):
        broken = {"run": explode} if where == "run" else {"run": run_made_up, "finish": explode}
        services.jobs._kinds[name] = kind = replace(whole, order=Stored(Order, {}), **broken)
        with services.jobs._database.write() as session:
            made[name] = services.jobs.add(session, kind, "s", name, Order()).id
    services.start()
    assert {"analyse", "render", "stick", "backup", "bundle", "open-bundle", "publish", "order"} < made.keys()
    for name, job_id in made.items():

        def view(job_id: str = job_id) -> Job:
            with services.jobs._database.read() as session:
                return services.jobs.view(session.get_one(JobRow, job_id))

        until(lambda: not view().is_open, 30.0)
        assert (name, view().state, view().error) == (name, "failed", FAULT)
