"""Tempi that change in the middle of a track: far steps, ramps, and one way of counting through all of it."""

from __future__ import annotations

import dataclasses
from pathlib import Path

import numpy as np
import pytest

from fernbrook.analysis import mend
from fernbrook.analysis.analyse import analyse
from fernbrook.analysis.beat import fit
from fernbrook.analysis.beat.octaves import in_one_octave
from fernbrook.analysis.beat.ramps import with_ramps
from fernbrook.analysis.features import Features
from fernbrook.core.track import Grid
from fernbrook.core.track import grid_edits as edits
from fernbrook.demo.make import make
from fernbrook.demo.song import Song, true_grid
from fernbrook.demo.songs import SONGS

RATE = 200.0
BEATS = np.arange(240.0)
STEP = edits.tempo_from(Grid.constant(128.0, 0.5), 100.0, 150.0)
RAMP = edits.ramp_from(Grid.constant(150.0, 0.5), 100.0, 16.0, 110.0)


def _routed(**how: float) -> Song:
    """A song of the demo with another change of tempo in its middle."""
    base = next(song for song in SONGS if song.second_bpm)
    return dataclasses.replace(base, file="route.wav", **how)


@pytest.fixture(scope="module")
def route(tmp_path_factory: pytest.TempPathFactory) -> tuple[Song, Features]:
    """A track that goes from 136 to 174, and what was heard in it."""
    song = _routed(bpm=136.0, second_bpm=174.0, ramp_beats=0.0)
    features = analyse(make(song, tmp_path_factory.mktemp("route"))).features
    assert features is not None
    return song, features


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
    song = _routed(bpm=bpm, second_bpm=then, ramp_beats=over)
    found = analyse(make(song, tmp_path)).grid
    assert found is not None
    times = true_grid(song).time_at(np.arange(song.bars * 4.0 - 4.0))
    beats = found.beat_at(times)
    off_ms = np.abs(beats - np.rint(beats)) * 60_000.0 / found.bpm_at(beats)
    assert np.max(off_ms) < 5.0
    assert found.means_its_changes


@pytest.mark.parametrize("off_s", [-0.02, 0.035])
def test_a_new_tempo_is_measured_from_the_attack_at_the_cursor(off_s: float, route: tuple[Song, Features]) -> None:
    song, features = route
    truth = true_grid(song)
    step = truth.anchors[-1]
    # The lines of the first tempo, put off so that none lies where the second begins.
    before = Grid.constant(song.bpm, truth.anchors[0].time_s)
    at_s = step.time_s + off_s
    beat = float(np.rint(before.beat_at(at_s)))
    made = mend.measured_from(features, before, beat, at_s)
    assert made.bpm_after == pytest.approx(song.second_bpm, abs=0.02)
    heard = truth.time_at(step.beat + np.arange(120.0))
    assert np.max(np.abs(made.time_at(beat + np.arange(120.0)) - heard)) < 0.005
    lines = np.arange(beat)
    assert np.allclose(made.time_at(lines), before.time_at(lines), atol=1e-9)


def test_a_range_says_how_the_new_tempo_is_counted(route: tuple[Song, Features]) -> None:
    song, features = route
    step = true_grid(song).anchors[-1]
    before = Grid.constant(song.bpm, 0.0)
    beat = float(np.rint(before.beat_at(step.time_s)))
    made = mend.measured_from(features, before, beat, step.time_s, (60.0, 100.0))
    assert made.bpm_after == pytest.approx(87.0, abs=0.02)


def test_the_grid_snaps_to_the_attack_at_the_cursor(route: tuple[Song, Features]) -> None:
    song, features = route
    truth = true_grid(song)
    beat = 64.0
    at_s = float(truth.time_at(beat))
    slid = edits.slide(truth, 0.17)
    made = mend.snapped(features, slid, beat, at_s + 0.01)
    assert float(made.time_at(beat)) == pytest.approx(at_s, abs=0.005)
