"""Stems as a job: made once, known to the mix, heard, thrown away."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.core.mix.commands import AddTracks, PutEdits
from fernbrook.core.mix.edits import DropOut
from fernbrook.core.plan.plan import RATE
from fernbrook.core.track.stems import Stem
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.service.house import House
from tests.conftest import Made
from tests.service.conftest import analysed, until

pytestmark = pytest.mark.slow


def heard(house: House, mix_id: str, start: int, end: int) -> np.ndarray:
    return np.concatenate(list(house.listening.preview(mix_id, start, end, None)[1]))


def test_stems_are_made_heard_and_thrown_away(house: House, first: Made) -> None:
    track = house.library.bring_in_path(first.path).track.id
    with pytest.raises(RefusedError, match="no beat grid"):
        house.stems.start(track)
    house.start()
    until(lambda: analysed(house))
    assert house.stems.state(track) == (None, None)
    made = house.mixes.create("Night")
    opened = house.mixes.change(made.id, made.version, AddTracks(track_ids=(track,)))
    drop = DropOut(id="d", start=8.0, end=16.0, stems=(Stem.DRUMS,))
    house.mixes.change(opened.id, opened.version, PutEdits(entry_id="e1", edits=(drop,)))
    plain = heard(house, opened.id, 5 * RATE, 7 * RATE)
    house.stems.start(track)
    with pytest.raises(RefusedError, match="being made already"):
        house.stems.start(track)
    until(lambda: house.stems.state(track)[0] is not None)
    fact, job = house.stems.state(track)
    assert job is None
    assert fact is not None
    assert fact.words.endswith(".")
    without = heard(house, opened.id, 5 * RATE, 7 * RATE)
    assert np.mean(without**2) < 0.7 * np.mean(plain**2)
    for file in house.folders.stems.glob("*.drums.flac"):
        file.unlink()
    with pytest.raises(AudioFileError, match="are gone"):
        heard(house, opened.id, 5 * RATE, 7 * RATE)
    house.stems.remove(track)
    assert np.array_equal(heard(house, opened.id, 5 * RATE, 7 * RATE), plain)
    assert list(house.folders.stems.iterdir()) == []
    with pytest.raises(NotFoundError):
        house.stems.remove("gone")
