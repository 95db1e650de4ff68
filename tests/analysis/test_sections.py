from __future__ import annotations

import numpy as np
import pytest

from fernbrook.analysis.structure.energy import bar_energy
from fernbrook.analysis.structure.sections import BarFeatures, bar_features, find_sections
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
