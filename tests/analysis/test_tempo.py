from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fernbrook.analysis.beat.follow import follow, local_tempo
from fernbrook.analysis.beat.tempo import coherence, preferring_whole, refined, rough_tempi
from fernbrook.core.track import Grid
from tests.analysis.heard import RATE, drums

LENGTH_S = 60.0


def strength(grid: Grid, length_s: float = LENGTH_S) -> np.ndarray:
    return np.sqrt(drums(grid, length_s).evened).mean(axis=0, dtype=np.float64)


@settings(max_examples=15)
@given(st.floats(64.0, 190.0), st.floats(0.0, 1.0))
def test_a_steady_tempo_is_among_the_rough_ones_and_exact_when_refined(bpm: float, start_s: float) -> None:
    heard = strength(Grid.constant(bpm, start_s))
    rough = np.array(rough_tempi(heard, RATE))
    octave = 2.0 ** np.rint(np.log2(rough / bpm))
    near = int(np.argmin(np.abs(rough / octave - bpm)))
    assert rough[near] / octave[near] == pytest.approx(bpm, rel=0.01)
    assert refined(heard, RATE, rough[near]) / octave[near] == pytest.approx(bpm, abs=0.01)


def test_rough_tempi_are_no_octaves_of_each_other() -> None:
    found = rough_tempi(strength(Grid.constant(118.0, 0.3)), RATE)
    for i, one in enumerate(found):
        for other in found[i + 1 :]:
            octaves = np.log2(one / other)
            assert abs(octaves - round(octaves)) > 0.02


@pytest.mark.parametrize(("measured", "true", "chosen"), [
    (120.004, 120.0, 120.0),
    (97.501, 97.5, 97.5),
    (128.303, 128.3, 128.3),
    (126.52, 126.52, 126.52),
    (119.93, 119.93, 119.93),
])  # fmt: skip
def test_whole_tempi_are_preferred_only_where_they_fit_as_well(measured: float, true: float, chosen: float) -> None:
    heard = strength(Grid.constant(true, 0.4), 120.0)
    assert preferring_whole(heard, RATE, measured) == pytest.approx(chosen, abs=0.006)


def test_coherence_tells_a_pulse_from_noise() -> None:
    steady = strength(Grid.constant(122.0, 0.4))
    assert coherence(steady, RATE, 122.0) > 0.95
    assert coherence(steady, RATE, 117.0) < 0.5
    noise = np.random.default_rng(2).random(len(steady))
    assert coherence(noise, RATE, 122.0) < 0.6


def test_the_local_tempo_follows_a_slow_change_and_bridges_a_silence() -> None:
    beats = np.arange(0.0, 130.0)
    times = 0.4 + np.cumsum(60.0 / (110.0 + 8.0 * beats / 130.0))
    faster = Grid.through(times, beats)
    heard = np.sqrt(drums(faster, LENGTH_S, silent=(25.0, 33.0)).evened).mean(axis=0, dtype=np.float64)
    at, tempi = local_tempo(heard, RATE, 114.0)
    true = faster.bpm_at(faster.beat_at(at))
    inside = (at > 4.0) & (at < LENGTH_S - 4.0)
    assert np.abs(tempi - true)[inside].max() < 1.5
    found = follow(heard, RATE, 114.0)
    loud = found[(found > 2.0) & (found < 24.0) | (found > 34.0) & (found < LENGTH_S - 2.0)]
    places = faster.beat_at(loud)
    off = np.abs(places - np.rint(places)) * 60.0 / 114.0
    assert np.percentile(off, 95) < 0.03
    assert np.abs(np.diff(found) - 60.0 / 114.0).max() < 0.1
