from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.analysis.analyse import analyse
from fernbrook.analysis.beat.onsets import OnsetMeter
from fernbrook.analysis.peaks import BUCKETS, PeaksMeter
from fernbrook.demo.make import make
from fernbrook.demo.songs import SONGS
from tests import songs
from tests.conftest import Made

pytestmark = pytest.mark.slow

RATE = 44_100


@pytest.mark.parametrize("name", ["first", "second", "other_rate"])
def test_steady_tracks_get_their_true_grid(name: str, request: pytest.FixtureRequest) -> None:
    made: Made = request.getfixturevalue(name)
    grid = analyse(made.path).grid
    assert grid is not None
    true = made.truth.grid
    assert grid.bpm_after == pytest.approx(true.bpm_after, abs=0.02)
    beat = float(true.beat_at(grid.time_at(0.0)))
    assert beat * 60_000 / true.bpm_after == pytest.approx(0.0, abs=5.0)


@pytest.mark.parametrize("number", [8, 9])
def test_fast_and_slow_broken_beats_keep_their_octave(number: int, tmp_path: Path) -> None:
    song = songs.short(SONGS[number], "x.wav")
    grid = analyse(make(song, tmp_path)).grid
    assert grid is not None
    assert grid.bpm_after == pytest.approx(song.bpm, abs=0.02)


def test_pick_up_and_beatless_intro_come_before_bar_one(tmp_path: Path) -> None:
    for changes in ({"pick_up_beats": 1.0}, {"intro_s": 10.0}):
        song = songs.short(SONGS[0], "x.wav", **({"intro_s": 0.0} | changes))
        grid = analyse(make(song, tmp_path)).grid
        assert grid is not None
        expected = 0.05 + song.intro_s + song.pick_up_beats * 60 / song.bpm
        assert float(grid.time_at(0.0)) == pytest.approx(expected, abs=0.005)


def test_progress_rises_to_its_end_and_sound_is_bounded(first: Made, tmp_path: Path) -> None:
    padded = np.concatenate((np.zeros((RATE, 2)), first.sound()[: 20 * RATE], np.zeros((2 * RATE, 2))))
    soundfile.write(tmp_path / "x.wav", padded, RATE)
    told: list[float] = []
    found = analyse(tmp_path / "x.wav", told.append)
    assert told == sorted(told)
    assert told[-1] == 1.0
    assert found.sound_start_s == pytest.approx(1.05, abs=0.02)
    assert found.sound_end_s == pytest.approx(21.0, abs=0.2)


def test_onsets_do_not_depend_on_the_blocks() -> None:
    noise = np.random.default_rng(0).standard_normal(RATE * 3).astype(np.float32)
    whole, pieces = OnsetMeter(RATE), OnsetMeter(RATE)
    whole.add(noise)
    for piece in np.array_split(noise, 13):
        pieces.add(piece)
    assert np.allclose(whole.result().bands, pieces.result().bands, atol=1e-4)


def test_peaks_show_each_band_at_every_resolution() -> None:
    t = np.arange(4 * RATE) / RATE
    for hz, band in ((60, 0), (800, 1), (9000, 2)):
        meter = PeaksMeter(RATE)
        meter.add((0.8 * np.sin(2 * np.pi * hz * t)).astype(np.float32))
        levels = meter.result()
        assert set(levels) == set(BUCKETS)
        for bucket, peaks in levels.items():
            assert len(peaks) == -(-4 * RATE // bucket)
            quarter = len(peaks) // 4
            strongest = peaks[quarter : max(quarter + 1, 3 * quarter)].max(axis=0).astype(int)
            assert np.argmax(strongest) == band
            assert strongest[band] == pytest.approx(204, abs=25)
