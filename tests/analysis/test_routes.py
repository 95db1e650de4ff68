"""Tempi that change in the middle of a track: far steps, ramps, and one way of counting through all of it."""

from __future__ import annotations

import dataclasses
from pathlib import Path

import numpy as np
import pytest

from fernbrook.analysis.analyse import analyse
from fernbrook.analysis.beat import fit
from fernbrook.analysis.beat.octaves import in_one_octave
from fernbrook.analysis.beat.ramps import with_ramps
from fernbrook.core.track import Grid
from fernbrook.core.track import grid_edits as edits
from fernbrook.demo.make import make
from fernbrook.demo.song import Song, true_grid
from fernbrook.demo.songs import SONGS

RATE = 200.0
BEATS = np.arange(240.0)
STEP = edits.tempo_from(Grid.constant(128.0, 0.5), 100.0, 150.0)
RAMP = edits.ramp_from(Grid.constant(150.0, 0.5), 100.0, 16.0, 110.0)


def _strength(truth: Grid) -> np.ndarray:
    """Onsets on all beats of a grid, and softer ones between them."""
    strength = np.zeros(int((float(truth.time_at(BEATS[-1])) + 2.0) * RATE))
    for beats, level in ((BEATS, 1.0), (BEATS + 0.5, 0.3)):
        strength[np.rint(truth.time_at(beats) * RATE).astype(int)] = level
    return strength


def _found(followed: Grid, truth: Grid) -> Grid:
    heard = np.array([a.time_s for a in followed.anchors]), np.array([a.beat for a in followed.anchors])
    steady = fit.runs(heard[1], heard[0], np.ones(len(heard[0])))
    return with_ramps(followed, steady, _strength(truth), RATE)


def _off_ms(found: Grid, truth: Grid) -> float:
    """How far the beats of a grid lie from those of the truth, whatever their numbers; the worst of them."""
    times = truth.time_at(BEATS[4:-4])
    beats = found.beat_at(times)
    return float(np.max(np.abs(beats - np.rint(beats)) * 60_000.0 / found.bpm_at(beats)))


def test_a_ramp_that_was_followed_by_many_anchors_becomes_one() -> None:
    rng = np.random.default_rng(2)
    followed = Grid.through(RAMP.time_at(BEATS) + rng.normal(0.0, 0.0005, len(BEATS)), BEATS)
    found = _found(followed, RAMP)
    assert [round(a.ramp, 3) for a in found.anchors] == [pytest.approx(110 / 150, abs=1e-3), 1.0]
    assert _off_ms(found, RAMP) < 5.0
    assert found.means_its_changes


def test_a_step_stays_a_step() -> None:
    found = _found(Grid.through(STEP.time_at(BEATS), BEATS), STEP)
    assert all(a.ramp == 1.0 for a in found.anchors)
    assert _off_ms(found, STEP) < 5.0


def test_a_player_who_strays_has_no_ramps() -> None:
    rng = np.random.default_rng(5)
    times = np.cumsum(60.0 / (118.0 * (1.0 + 0.015 * np.sin(BEATS / 23.0) + rng.normal(0.0, 0.004, len(BEATS)))))
    live = Grid.through(times, BEATS)
    assert _found(live, live) == live


@pytest.mark.parametrize(
    ("first", "then", "counted"), [(128, 87, 174), (100, 70, 140), (140, 100, 100), (90, 128, 128), (174, 87, 174)]
)
def test_the_count_goes_on_as_near_as_can_be(first: float, then: float, counted: float) -> None:
    times = np.concatenate((np.arange(100) * 60.0 / first, 100 * 60.0 / first + np.arange(100) * 60.0 / then))
    followed = Grid.through(times, np.arange(200.0))
    made = in_one_octave(followed, fit.runs(np.arange(200.0), times, np.ones(200)))
    assert made.bpm_before == pytest.approx(first)
    assert made.bpm_after == pytest.approx(counted)


@pytest.mark.parametrize(("bpm", "then", "over"), [(140.0, 100.0, 0.0), (124.0, 150.0, 32.0)])
def test_a_whole_track_is_found_with_its_change(bpm: float, then: float, over: float, tmp_path: Path) -> None:
    base = next(song for song in SONGS if song.second_bpm)
    song: Song = dataclasses.replace(base, bpm=bpm, second_bpm=then, ramp_beats=over, file="route.wav")
    found = analyse(make(song, tmp_path)).grid
    assert found is not None
    times = true_grid(song).time_at(np.arange(song.bars * 4.0 - 4.0))
    beats = found.beat_at(times)
    off_ms = np.abs(beats - np.rint(beats)) * 60_000.0 / found.bpm_at(beats)
    assert np.max(off_ms) < 5.0
    assert found.means_its_changes
