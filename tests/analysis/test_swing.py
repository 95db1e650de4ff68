from __future__ import annotations

import numpy as np
import pytest

from fernbrook.analysis.beat.onsets import Onsets
from fernbrook.analysis.beat.swing import swing_ratio
from fernbrook.core.track import Grid
from tests.analysis.heard import RATE


def _hits(grid: Grid, *places: float) -> np.ndarray:
    """Evened strengths of hits at places in the beat, all as loud."""
    bands = np.full((6, round(60 * RATE)), 0.002, dtype=np.float32)
    for beat in range(100):
        for place in places:
            at = round(float(grid.time_at(beat + place)) * RATE)
            if at + 3 < bands.shape[1]:
                bands[:, at - 1 : at + 3] += np.array([0.2, 0.6, 0.3, 0.1], dtype=np.float32)
    return Onsets(bands, RATE).evened


@pytest.mark.parametrize(("second", "ratio"), [(0.5, 1.0), (0.6, 1.5), (2 / 3, 2.0), (0.75, 3.0)])
@pytest.mark.parametrize("bpm", [76.0, 118.0, 170.0])
def test_swing_is_where_the_second_half_of_a_beat_begins(bpm: float, second: float, ratio: float) -> None:
    grid = Grid.constant(bpm, 0.4)
    assert swing_ratio(_hits(grid, 0.0, second), RATE, grid) == pytest.approx(ratio, rel=0.07)


def test_a_triplet_swings_as_its_last_third_does_only_where_the_first_is_left_out() -> None:
    grid = Grid.constant(96.0, 0.4)
    assert swing_ratio(_hits(grid, 0.0), RATE, grid) is None
    assert swing_ratio(_hits(grid, 0.0, 0.25, 0.5, 0.75), RATE, grid) is None
