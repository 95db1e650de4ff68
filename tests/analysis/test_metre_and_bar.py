from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fernbrook.analysis.beat.bar import find_bar
from fernbrook.analysis.beat.metre import EVIDENCE, drum_patterns, hypotheses, readings
from fernbrook.analysis.beat.network import network
from fernbrook.analysis.beat.onsets import Onsets
from fernbrook.analysis.tone.harmony import Harmony
from fernbrook.core.track import Grid
from tests.analysis.heard import HARMONY_RATE, RATE, chords, drums

LENGTH_S = 120.0
WIDE = (40.0, 300.0)


def test_the_network_was_trained_on_the_evidence_of_now() -> None:
    """Else run ``python -m bench.fitting``."""
    assert network("metre").evidence == EVIDENCE


@pytest.mark.parametrize("of_pulse", [0.5, 1.0, 2.0])
@pytest.mark.parametrize("bpm", [96.0, 124.0, 140.0])
def test_the_same_beat_is_read_from_any_pulse(bpm: float, of_pulse: float) -> None:
    true = Grid.constant(bpm, 0.5)
    pulse = Grid.constant(bpm * of_pulse, 0.5)
    first, *others = readings(drums(true, LENGTH_S), chords(true, LENGTH_S), pulse, WIDE)
    assert first.bpm == pytest.approx(bpm)
    beat = pulse.counted(first.beats_per_pulse, first.phase)
    place = float(true.beat_at(beat.time_at(0.0)))
    assert place == pytest.approx(round(place), abs=0.02)
    assert first.share > max(r.share for r in others)
    assert sum(r.share for r in (first, *others)) == pytest.approx(1.0)


def test_a_beat_between_the_pulses_is_found() -> None:
    true = Grid.constant(124.0, 0.5)
    between = Grid.constant(124.0, 0.5 + 0.5 * 60.0 / 124.0)
    first = readings(drums(true, LENGTH_S), chords(true, LENGTH_S), between, WIDE)[0]
    assert first.phase % 1.0 == pytest.approx(0.5)


def test_a_range_without_any_octave_takes_the_nearest_one() -> None:
    true = Grid.constant(124.0, 0.5)
    found = readings(drums(true, LENGTH_S), chords(true, LENGTH_S), true, (70.0, 80.0))
    assert {r.bpm for r in found} == {62.0}


def _long_chords(grid: Grid, bars: int) -> Harmony:
    """Four chords that last so many bars."""
    quick = chords(grid, LENGTH_S)
    bar = np.floor(grid.beat_at(np.arange(len(quick.chroma)) / HARMONY_RATE) / 4).astype(int)
    first_of = {int(b) % 4: int(np.flatnonzero(bar == b)[1]) for b in range(4)}
    rows = np.stack([quick.chroma[first_of[b // bars % 4]] for b in bar])
    return replace(quick, chroma=rows)


def test_chords_that_come_around_in_four_bars_speak_against_a_tempo() -> None:
    true = Grid.constant(120.0, 0.5)
    against = {}
    for bars in (2, 4):
        ways, evidence = hypotheses(drums(true, LENGTH_S), _long_chords(true, bars), true, WIDE)
        against[bars] = evidence[ways.index((1.0, 0.0)), EVIDENCE.index("chords last two bars at most")]
    assert against[4] < against[2] <= 0.0


def test_a_shuffle_is_read_in_beats_and_not_in_its_thirds() -> None:
    """Hats and basses on the first and last third: a pulse of thirds, and one of three halves, is counted rightly."""
    true = Grid.constant(110.0, 0.5)
    onsets = drums(true, LENGTH_S)
    bands = np.full_like(onsets.bands, 0.002)
    for beat in range(210):
        for place, rows, size in ((0.0, slice(4, 6), 0.4), (2 / 3, slice(4, 6), 0.3), (0.0, slice(0, 2), 0.3)):
            at = round(float(true.time_at(beat + place)) * RATE)
            bands[rows, at - 1 : at + 3] += size * np.array([0.3, 1.0, 0.5, 0.2], dtype=np.float32)
        at = round(float(true.time_at(beat)) * RATE)
        bands[0 : 2 if beat % 2 == 0 else 1, at - 1 : at + 3] += 0.4
        if beat % 2:
            bands[1:5, at - 1 : at + 3] += 0.5
    for of_pulse in (1.0, 1.5, 3.0):
        pulse = Grid.constant(110.0 * of_pulse, 0.5)
        first = readings(Onsets(bands, RATE), chords(true, LENGTH_S), pulse, (60.0, 200.0))[0]
        assert first.bpm == pytest.approx(110.0)
        place = float(true.beat_at(pulse.counted(first.beats_per_pulse, first.phase).time_at(0.0)))
        assert place == pytest.approx(round(place), abs=0.02)


@pytest.mark.parametrize("early", [0, 1, 2, 3])
def test_the_first_of_the_bar_is_where_chords_and_drums_begin(early: int) -> None:
    true = Grid.constant(120.0, 0.5)
    grid = true.counted(1.0, float(-early))
    bar = find_bar(drums(true, LENGTH_S), chords(true, LENGTH_S), grid, 0, 220)
    assert bar.beats == 4
    assert float(true.beat_at(grid.time_at(float(bar.first)))) % 4 == pytest.approx(0.0, abs=1e-6)
    assert bar.share > 0.6


def test_bars_of_three_are_told_from_bars_of_four() -> None:
    grid = Grid.constant(100.0, 0.5, 3)
    onsets = drums(Grid.constant(100.0, 0.5), LENGTH_S)
    bands = np.full_like(onsets.bands, 0.002)
    for beat in range(190):
        at = round(float(grid.time_at(beat)) * RATE)
        rows = slice(0, 2) if beat % 3 == 0 else slice(3, 6)
        bands[rows, at - 1 : at + 3] += np.array([0.2, 0.6, 0.3, 0.1], dtype=np.float32)
    bar = find_bar(Onsets(bands, RATE), chords(grid, LENGTH_S), grid, 0, 190)
    assert bar.beats == 3
    assert bar.first % 3 == 0


def test_drum_patterns_fit_best_where_the_bar_begins() -> None:
    bar = np.full((13, 16), 0.2)
    for rows in (slice(0, 2), slice(7, 9)):
        bar[rows, [0, 10]] = 2.0
    for rows in (slice(2, 4), slice(9, 11)):
        bar[rows, [4, 12]] = 2.0
    fits = drum_patterns(bar)
    assert int(np.argmax(fits)) == 0
    assert int(np.argmax(drum_patterns(np.roll(bar, 8, axis=1)))) == 2
