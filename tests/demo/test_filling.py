"""The demo is made while the library is in use."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from pathlib import Path
from threading import Event

import pytest

from fernbrook.demo import filling as module
from fernbrook.demo import library as demo
from fernbrook.demo.filling import Filling
from fernbrook.demo.make import DemoTrack
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from tests.conftest import Made

pytestmark = pytest.mark.slow


@pytest.fixture
def services(tmp_path: Path) -> Iterator[Services]:
    services = Services(Folders(tmp_path / "data"), workers=1)
    services.start()
    yield services
    services.stop()


def track_of(made: Made) -> DemoTrack:
    return DemoTrack(made.song, made.path, made.truth.grid, steady=True)


def waited_for(is_so: Callable[[], bool]) -> None:
    for _ in range(600):
        if is_so():
            return
        time.sleep(0.1)
    raise AssertionError("it never came to be so")


def test_tracks_arrive_one_by_one_and_the_mixes_at_the_end(
    services: Services, first: Made, second: Made, monkeypatch: pytest.MonkeyPatch
) -> None:
    seen, goes_on = Event(), Event()

    def one_by_one(_folder: Path, _is_over: Callable[[], bool]) -> Iterator[DemoTrack]:
        yield track_of(second)
        seen.set()
        assert goes_on.wait(60)
        yield track_of(first)

    monkeypatch.setattr(module, "making", one_by_one)
    monkeypatch.setattr(module, "SONGS", (first.song, second.song))
    monkeypatch.setattr("fernbrook.demo.make.SONGS", (first.song, second.song))
    monkeypatch.setattr(demo, "own_commands", lambda *_: [])
    filling = Filling(services)
    filling.start()
    assert seen.wait(60)
    now = services.under_way.now
    assert now is not None
    assert (now.share, now.error) == (module.MADE_SHARE / 2, None)
    assert [t.title for t in services.catalogue.tracks()] == [second.song.title]
    goes_on.set()
    waited_for(lambda: services.under_way.now is None)
    assert {m.name for m in services.mixes.list()} == {demo.MIX, demo.UNTOUCHED}
    opened = services.mixes.open(services.mixes.list()[0].id)
    assert [e.track.title for e in opened.plan.entries] == [first.song.title, second.song.title]
    assert not demo.is_wanted(services)
    filling.stop()


def test_what_is_stopped_goes_on_at_the_next_start(
    services: Services, first: Made, monkeypatch: pytest.MonkeyPatch
) -> None:
    def endless(_folder: Path, is_over: Callable[[], bool]) -> Iterator[DemoTrack]:
        yield track_of(first)
        while not is_over():
            time.sleep(0.01)

    monkeypatch.setattr(module, "making", endless)
    filling = Filling(services)
    filling.start()
    waited_for(lambda: len(services.catalogue.tracks()) == 1)
    filling.stop()
    assert demo.is_wanted(services)
    assert services.mixes.list() == []


def test_why_it_was_given_up_is_said(services: Services, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(_folder: Path, _is_over: Callable[[], bool]) -> Iterator[DemoTrack]:
        raise OSError("no room left")
        yield

    monkeypatch.setattr(module, "making", broken)
    filling = Filling(services)
    filling.start()
    waited_for(lambda: services.under_way.now is not None and services.under_way.now.error is not None)
    assert services.under_way.now is not None
    assert "no room left" in (services.under_way.now.error or "")
    filling.stop()
