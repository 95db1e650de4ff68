"""The demo fills an empty library, and goes on where it was cut off."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from fernbrook.core.mix.commands import SetGain
from fernbrook.demo import library as demo
from fernbrook.demo.make import DemoTrack
from fernbrook.service.house import House
from fernbrook.store.folders import Folders
from tests.conftest import Made

pytestmark = pytest.mark.slow


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    house = House(Folders(tmp_path / "data"), workers=1)
    house.start()
    yield house
    house.stop()


class CutOffError(Exception):
    pass


def test_it_goes_on_where_it_was_cut_off_and_is_made_once(
    house: House, first: Made, second: Made, monkeypatch: pytest.MonkeyPatch
) -> None:
    tracks = [DemoTrack(m.song, m.path, m.truth.grid, steady=True) for m in (first, second)]
    heard: list[float] = []

    def cut_off(*_: object) -> None:
        raise CutOffError

    assert demo.is_wanted(house)
    with pytest.raises(CutOffError):
        demo.install(house, tracks, cut_off)
    assert demo.is_wanted(house), "the tracks are there, the mixes are not"
    monkeypatch.setattr(demo, "own_commands", cut_off)
    with pytest.raises(CutOffError):
        demo.install(house, tracks, heard.append)
    assert demo.is_wanted(house)
    begun = next(m for m in house.mixes.list() if m.name == demo.MIX)
    opened = house.mixes.open(begun.id)
    house.mixes.change(begun.id, opened.version, SetGain(entry_id="e1", gain_db=-3.0))
    lists = house.collection.gathered().lists
    monkeypatch.setattr(demo, "own_commands", lambda *_: [])
    demo.install(house, tracks, heard.append)
    assert not demo.is_wanted(house)
    assert {m.name for m in house.mixes.list()} == {demo.MIX, demo.UNTOUCHED, f"{demo.MIX} (cut off)"}
    assert house.mixes.open(begun.id).plan.mix.entries[0].gain_db == -3.0, "what somebody did to it is not lost"
    assert [len(house.mixes.open(m.id).plan.entries) for m in house.mixes.list()] == [2, 2, 2]
    assert len(house.catalogue.tracks()) == 2
    assert house.collection.gathered().lists == lists
    assert heard[-1] == 1.0
