from __future__ import annotations

import numpy as np
import pytest

from fernbrook.analysis.beat.onsets import OnsetMeter
from fernbrook.analysis.structure.energy import bar_energy
from fernbrook.analysis.structure.sections import BarFeatures, bar_features, find_sections
from fernbrook.analysis.tone.harmony import HarmonyMeter
from fernbrook.core.track import Grid
from fernbrook.core.track import SectionKind as K
from tests.analysis.heard import chords, drums

GRID = Grid.constant(120.0, 0.0)
SOUND_NAMES = ("kick", "drums", "bass", "body", "level", "bright")
SOUNDS = {
    K.BEAT: (1.0, 1.0, -4.0, -5.0, -2.0, -3.0),
    K.BASS: (1.0, 1.0, -2.0, -5.0, -1.8, -3.0),
    K.FULL: (1.0, 1.0, -2.0, -2.5, -1.0, -2.0),
    K.BREAK: (0.0, 0.0, -4.5, -2.5, -2.6, -3.5),
    K.BEATLESS: (0.0, 0.0, -4.5, -4.5, -3.6, -4.5),
}


def played(*parts: tuple[K, int], first: int = 0) -> BarFeatures:
    """Features as they are when parts of so many bars follow each other."""
    rng = np.random.default_rng(4)
    rows = np.concatenate([np.tile(SOUNDS[kind], (bars, 1)) for kind, bars in parts])
    rows = rows + 0.03 * rng.standard_normal(rows.shape)
    rows[:, :2] = np.abs(rows[:, :2])
    columns = dict(zip(SOUND_NAMES, rows.T, strict=True))
    return BarFeatures(first=first, chroma=np.full((len(rows), 12), 0.3), **columns)


@pytest.mark.parametrize("parts", [
    ((K.BEAT, 8), (K.FULL, 16), (K.BREAK, 8), (K.FULL, 16), (K.BEAT, 8)),
    ((K.BEAT, 16), (K.BASS, 16), (K.FULL, 32), (K.BREAK, 4), (K.FULL, 16)),
    ((K.BEATLESS, 8), (K.BEAT, 8), (K.FULL, 24), (K.BASS, 8)),
])  # fmt: skip
def test_sections_begin_where_the_arrangement_changes_and_are_called_what_sounds(parts: tuple) -> None:
    found = find_sections(played(*parts, first=2), GRID)
    assert [s.kind for s in found] == [kind for kind, _ in parts]
    starts = 4.0 * (2 + np.cumsum([0, *(bars for _, bars in parts)]))
    assert [s.start for s in found] == list(starts[:-1])
    assert [s.end for s in found] == list(starts[1:])


def test_what_never_changes_is_one_section_and_what_is_too_short_none() -> None:
    assert len(find_sections(played((K.FULL, 40)), GRID)) == 1
    assert find_sections(played((K.FULL, 3)), GRID) == ()


def test_bar_features_hear_where_the_drums_are() -> None:
    heard = drums(GRID, 60.0, silent=(20.0, 40.0))
    features = bar_features(heard, chords(GRID, 60.0), GRID)
    assert features.bars == 30
    silent = slice(11, 19)
    assert features.kick[silent].max() < 0.2 * features.kick[2:9].min()
    assert features.drums[silent].max() < 0.2 * features.drums[2:9].min()


RATE = 44_100
BAR_S = 2.0


def _sounding(bars: int, kick: float, bass: float, chord: float, rng: np.random.Generator) -> np.ndarray:
    """Bars at 120 BPM: a bass drum on each beat, a bass and a chord that last, as mono sound."""
    time_s = np.arange(round(bars * BAR_S * RATE)) / RATE
    since = time_s % 0.5
    drum = np.sin(2 * np.pi * (55.0 * since - 8.0 * np.exp(-since * 40.0))) * np.exp(-since * 12.0)
    low = np.sin(2 * np.pi * 49.0 * time_s)
    high = sum(np.sin(2 * np.pi * hz * time_s) for hz in (523.0, 659.0, 784.0, 1175.0)) / 4.0
    hats = rng.standard_normal(len(time_s)) * np.exp(-(time_s % 0.25) * 80.0) * 0.05 * (kick > 0.0)
    return np.asarray(kick * drum + bass * low + chord * high + hats, dtype=np.float32)


def test_the_bass_drum_is_the_same_alone_and_under_a_loud_bass() -> None:
    """Its rise from silence is several times that over a bass; the drums alone are no main part, nor that a break."""
    rng = np.random.default_rng(3)
    parts = ((16, 0.8, 0.0, 0.0), (8, 0.7, 0.2, 0.0), (16, 0.6, 0.2, 0.2), (8, 0.0, 0.0, 0.1), (16, 0.6, 0.2, 0.2))
    sound = np.concatenate([_sounding(*part, rng) for part in parts])
    onsets, harmony = OnsetMeter(RATE), HarmonyMeter(RATE)
    for meter in (onsets, harmony):
        meter.add(sound)
    features = bar_features(onsets.result(), harmony.result(), GRID)
    found = find_sections(features, GRID)
    assert [s.kind for s in found] == [K.BEAT, K.BASS, K.FULL, K.BREAK, K.FULL]
    assert [s.start / 4 for s in found] == [0, 16, 24, 40, 48]


def test_a_rise_is_where_the_drums_grow_towards_the_main_part() -> None:
    features = played((K.FULL, 16), (K.BREAK, 16), (K.FULL, 16))
    growing = slice(24, 32)
    features.drums[growing], features.bright[growing] = np.linspace(0.3, 1.0, 8), np.linspace(-3.5, -2.0, 8)
    found = find_sections(features, GRID)
    assert [(s.kind, (s.end - s.start) / 4) for s in found] == [(K.FULL, 16), (K.BREAK, 8), (K.RISE, 8), (K.FULL, 16)]


def test_a_lead_that_comes_and_goes_makes_no_other_section() -> None:
    features = played((K.BEAT, 8), (K.FULL, 32), (K.BEAT, 8))
    for begin in range(8, 40, 8):
        features.body[begin : begin + 4] += 0.22
        features.level[begin : begin + 4] += 0.3
        features.bright[begin : begin + 4] += 0.5
    assert [s.kind for s in find_sections(features, GRID)] == [K.BEAT, K.FULL, K.BEAT]


def test_a_break_is_not_cut_where_its_level_wavers() -> None:
    features = played((K.FULL, 16), (K.BREAK, 16), (K.FULL, 16))
    features.level[22:26] += 0.4
    features.bright[22:26] += 0.6
    assert [s.kind for s in find_sections(features, GRID)] == [K.FULL, K.BREAK, K.FULL]


def test_energy_falls_with_loudness_and_with_the_drums() -> None:
    parts = ((K.FULL, 8), (K.BREAK, 8), (K.FULL, 8))
    features = played(*parts)
    seconds = np.repeat([0.1, 0.002, 0.1], 160)
    energy = bar_energy(seconds, features, GRID)
    assert energy.shape == (24,)
    assert energy.min() >= 0.0
    assert energy.max() <= 1.0
    assert energy[9:15].max() < 0.6 * energy[1:7].min()


def test_energy_is_as_loud_and_as_dense_as_the_loudest_and_densest_of_the_track() -> None:
    """A steady track is at the top all through; one that is 10 dB softer all through has the same course."""
    features = played((K.FULL, 16))
    loud, soft = (bar_energy(np.full(320, level), features, GRID) for level in (0.1, 0.01))
    assert loud == pytest.approx(soft, abs=1e-9)
    assert loud[1:-1] == pytest.approx(np.full(14, loud[1:-1].mean()), abs=0.05)
    assert loud[1:-1].min() > 0.9
    halves = bar_energy(np.repeat([0.1, 0.01], 160), features, GRID)
    assert halves[1:7].min() > halves[9:15].max() + 0.1
    drums_go = bar_energy(np.full(480, 0.1), played((K.FULL, 8), (K.BREAK, 16)), GRID)
    assert drums_go[1:7].min() > drums_go[9:23].max() + 0.3
