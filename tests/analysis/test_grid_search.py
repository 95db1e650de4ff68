from __future__ import annotations

import numpy as np
import pytest

from fernbrook.analysis.beat import fit
from fernbrook.analysis.beat.drift import drift
from fernbrook.analysis.beat.grid_search import Found, Kind, find_grid
from fernbrook.analysis.confidence import doubts
from fernbrook.analysis.features import Features
from fernbrook.analysis.mend import following, measured, nearest_onset, snapped
from fernbrook.analysis.tone.key import find_key
from fernbrook.core.track import DoubtKind, Grid, GridEditError, slide
from fernbrook.core.track.grid_edits import set_tempo
from tests.analysis.heard import RATE, features

LENGTH_S = 90.0


def _found(heard: Features, tempo_range: tuple[float, float] = (60.0, 200.0)) -> Found:
    found, _ = find_grid(heard.onsets, heard.harmony, tempo_range)
    assert found is not None
    return found


def _worst_ms(grid: Grid, true: Grid) -> float:
    """The largest distance of a true beat from the nearest line, in ms."""
    times = true.time_at(np.arange(4.0, true.beat_at(LENGTH_S - 2.0)))
    lines = grid.time_at(np.rint(grid.beat_at(times)))
    return float(np.abs(lines - times).max()) * 1000.0


@pytest.mark.parametrize("bpm", [84.0, 97.3, 120.0, 128.75, 151.0])
def test_a_steady_tempo_is_found_to_the_hundredth_with_its_downbeats(bpm: float) -> None:
    true = Grid.constant(bpm, 0.7)
    found = _found(features(true))
    assert found.kind is Kind.CONSTANT
    assert found.grid.bpm_after == pytest.approx(bpm, abs=0.01)
    assert _worst_ms(found.grid, true) < 3.0
    bar = float(true.beat_at(found.grid.time_at(0.0))) / 4
    assert bar == pytest.approx(round(bar), abs=0.01)


def test_a_change_of_tempo_becomes_two_stretches() -> None:
    true = Grid.through([0.5, 40.5, 90.0], [0.0, 80.0, 80.0 + 49.5 * 126.0 / 60.0])
    found = _found(features(true))
    assert found.kind is Kind.STRETCHES
    assert found.grid.bpm_before == pytest.approx(120.0, abs=0.05)
    assert found.grid.bpm_after == pytest.approx(126.0, abs=0.05)
    assert _worst_ms(found.grid, true) < 12.0
    listed = doubts(found, found.clarity, None, LENGTH_S)
    assert listed[0].text == "The tempo changes between 120.0 and 126.0 BPM."


def test_a_player_who_wanders_is_followed() -> None:
    beats = np.arange(0.0, 190.0)
    times = 0.5 + beats * 0.5 + 0.25 * np.sin(beats / 14.0)
    true = Grid.through(times[times < 100.0], beats[times < 100.0])
    found = _found(features(true, jitter_s=0.003))
    assert found.kind is Kind.FREE
    assert _worst_ms(found.grid, true) < 15.0
    assert doubts(found, found.clarity, None, LENGTH_S)[0].kind is DoubtKind.UNSTEADY


def test_a_long_silence_is_bridged_and_named() -> None:
    true = Grid.constant(124.0, 0.4)
    found = _found(features(true, silent=(30.0, 58.0)))
    assert found.grid.bpm_after == pytest.approx(124.0, abs=0.01)
    assert _worst_ms(found.grid, true) < 3.0
    gap = next(d for d in doubts(found, found.clarity, None, LENGTH_S) if d.kind is DoubtKind.GAP)
    assert gap.text.startswith("Almost no beat from 0:")
    assert gap.at_s == pytest.approx(30.0, abs=3.0)


def test_the_range_decides_the_octave() -> None:
    heard = features(Grid.constant(120.0, 0.7))
    assert _found(heard, (50.0, 75.0)).grid.bpm_after == pytest.approx(60.0, abs=0.02)
    assert _found(heard, (180.0, 260.0)).grid.bpm_after == pytest.approx(240.0, abs=0.05)


def test_few_stretches_are_exact_and_none_are_made_of_a_random_walk() -> None:
    beats = np.arange(160.0)
    times = np.where(beats < 64, beats * 0.5, 32.0 + (beats - 64) * 0.48)
    grid = fit.stretches(beats, times, np.ones(160))
    assert grid is not None
    assert np.abs(grid.time_at(beats) - times).max() < 1e-3
    walk = np.cumsum(0.5 + 0.01 * np.random.default_rng(1).standard_normal(160))
    assert fit.stretches(beats, walk, np.ones(160)) is None


@pytest.mark.parametrize("by_s", [-0.03, 0.0, 0.012, 0.04])
def test_drift_tells_how_late_the_sound_is(by_s: float) -> None:
    true = Grid.constant(118.0, 0.6)
    found = drift(features(true).onsets.evened, RATE, slide(true, -by_s))
    assert found.heard.mean() > 0.9
    assert np.median(found.late_s[found.heard]) == pytest.approx(by_s, abs=0.002)


def test_drift_runs_along_a_tempo_that_is_a_little_off() -> None:
    true = Grid.constant(118.0, 0.6)
    wrong = set_tempo(true, 117.95, 88.0)
    found = drift(features(true).onsets.evened, RATE, wrong)
    expected = true.time_at(found.beats) - wrong.time_at(found.beats)
    assert np.abs(found.late_s - expected)[found.heard].max() < 0.004


def test_lines_snap_to_onsets_and_follow_them() -> None:
    true = Grid.constant(110.0, 0.6)
    heard = features(true)
    off = slide(true, 0.03)
    assert _worst_ms(snapped(heard, off, 24.0), true) < 3.0
    at = float(true.time_at(33.0))
    assert nearest_onset(heard, at + 0.02) == pytest.approx(at, abs=0.003)
    assert _worst_ms(following(heard, off, None, 4), true) < 4.0
    assert _worst_ms(measured(heard, (80.0, 160.0), (20.0, 60.0)), true) < 6.0
    with pytest.raises(GridEditError, match="No sound begins"):
        snapped(features(true, silent=(20.0, 50.0)), true, 64.0)
    with pytest.raises(GridEditError, match="in this span"):
        measured(heard, (80.0, 160.0), (0.0, 2.0))


def test_features_are_stored_and_read_back() -> None:
    heard = features(Grid.constant(120.0, 0.5), 20.0)
    again = Features.from_bytes(heard.to_bytes())
    assert np.allclose(again.onsets.bands, heard.onsets.bands, atol=0.01)
    assert np.allclose(again.harmony.chroma, heard.harmony.chroma, atol=1e-3)
    assert heard.picture().shape == (heard.onsets.bands.shape[1], 2)


@pytest.mark.parametrize("up", [0, 3, 7])
def test_the_key_is_that_of_the_chord_on_which_phrases_begin(up: int) -> None:
    grid = Grid.constant(120.0, 0.0)
    harmony = features(grid).harmony
    moved = type(harmony)(
        np.roll(harmony.chroma, up, axis=1), harmony.level, harmony.rate, np.roll(harmony.fine, 5 * up)
    )
    found = find_key(moved, grid)
    assert found is not None
    assert (found.key.tonic, found.key.minor) == ((9 + up) % 12, True)
    assert abs(found.tuning_cents) < 5.0
    silent = type(harmony)(harmony.chroma[:0], harmony.level[:0], harmony.rate, np.zeros(60))
    assert find_key(silent, None) is None
