"""The demo fills an empty library, and goes on where it was cut off."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from fernbrook.core.mix.commands import SetGain
from fernbrook.demo import library as demo
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


class CutOffError(Exception):
    pass


def test_it_goes_on_where_it_was_cut_off_and_is_made_once(
    services: Services, first: Made, second: Made, monkeypatch: pytest.MonkeyPatch
) -> None:
    tracks = [DemoTrack(m.song, m.path, m.truth.grid, steady=True) for m in (first, second)]
    heard: list[float] = []

    def cut_off(*_: object) -> None:
        raise CutOffError

    assert demo.is_wanted(services)
    with pytest.raises(CutOffError):
        demo.install(services, tracks, cut_off)
    assert demo.is_wanted(services), "the tracks are there, the mixes are not"
    monkeypatch.setattr(demo, "own_commands", cut_off)
    with pytest.raises(CutOffError):
        demo.install(services, tracks, heard.append)
    assert demo.is_wanted(services)
    begun = next(m for m in services.mixes.list() if m.name == demo.MIX)
    opened = services.mixes.open(begun.id)
    services.mixes.change(begun.id, opened.version, SetGain(entry_id="e1", gain_db=-3.0))
    lists = services.collection.gathered().lists
    monkeypatch.setattr(demo, "own_commands", lambda *_: [])
    demo.install(services, tracks, heard.append)
    assert not demo.is_wanted(services)
    assert {m.name for m in services.mixes.list()} == {demo.MIX, demo.UNTOUCHED, f"{demo.MIX} (cut off)"}
    assert services.mixes.open(begun.id).plan.mix.entries[0].gain_db == -3.0, "what somebody did to it is not lost"
    assert [len(services.mixes.open(m.id).plan.entries) for m in services.mixes.list()] == [2, 2, 2]
    assert len(services.catalogue.tracks()) == 2
    assert services.collection.gathered().lists == lists
    assert heard[-1] == 1.0
