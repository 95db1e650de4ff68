from __future__ import annotations

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

import pytest

from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.ground.events import WAITING_MOST, Events
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.service.conftest import analysed, until

pytestmark = pytest.mark.slow

T = TypeVar("T")


def _run(story: Coroutine[Any, Any, T]) -> T:
    """Run a coroutine in a thread of its own: the browser's tests leave a loop running in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, story).result()


def test_every_listener_hears_every_event_until_the_end() -> None:
    async def story() -> list[list[int]]:
        events = Events()

        async def listen() -> list[int]:
            return [event["n"] async for event in events.listen()]

        listeners = [asyncio.create_task(listen()) for _ in range(2)]
        await asyncio.sleep(0)
        for n in range(3):
            await asyncio.to_thread(events.tell, {"n": n})
        await asyncio.sleep(0.01)
        events.close()
        return [await task for task in listeners]

    assert _run(story()) == [[0, 1, 2], [0, 1, 2]]


def test_a_listener_who_does_not_read_loses_the_oldest() -> None:
    async def story() -> int:
        events = Events()
        stream = events.listen()
        first = asyncio.create_task(anext(stream))
        await asyncio.sleep(0)
        for n in range(WAITING_MOST + 50):
            events.tell({"n": n})
        await first
        await asyncio.sleep(0)
        return int((await anext(stream))["n"])

    assert _run(story()) > 1


def test_an_analysis_is_cancelled_and_tried_again(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    job = services.library.get(track.id).job
    assert job is not None
    services.jobs.cancel(job.id)
    assert services.library.get(track.id).job.state == "cancelled"
    services.start()
    services.library.analyse_again(track.id)
    until(lambda: analysed(services) and services.library.get(track.id).job is None)
    assert services.library.get(track.id).bpm == pytest.approx(120.0, abs=0.02)


def test_what_has_ended_cannot_be_cancelled_and_what_is_open_not_retried(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    job = services.library.get(track.id).job
    with pytest.raises(RefusedError, match="needs no second try"):
        services.jobs.retry(job.id)
    services.jobs.cancel(job.id)
    with pytest.raises(RefusedError, match="already ended"):
        services.jobs.cancel(job.id)
    with pytest.raises(NotFoundError):
        services.jobs.cancel("none")


def test_what_waits_at_a_stop_is_done_after_the_next_start(services: Services, folders: Folders, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    services.stop()
    again = Services(folders, workers=1)
    try:
        again.start()
        until(lambda: analysed(again))
        assert again.library.get(track.id).has_peaks
    finally:
        again.stop()


def test_progress_is_told_as_it_comes(services: Services, second: Made) -> None:
    seen: list[dict] = []
    services.events.tell = seen.append
    services.library.bring_in_path(second.path)
    services.start()
    until(lambda: analysed(services))
    states = [e["state"] for e in seen if e["type"] == "job"]
    assert states[0] == "running"
    assert states[-1] == "done"
    assert {"type": "tracks"} in seen
