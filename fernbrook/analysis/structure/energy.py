"""How much is going on in each bar: its loudness against the loudest, and how densely its drums hit."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.structure.sections import BarFeatures
from fernbrook.audio.measures import lufs
from fernbrook.core.track import Grid

STEP_S = 0.1
QUIET_LU = 24.0
"""A bar this much below the loudest has no loudness to speak of."""
LOUDNESS_SHARE = 0.6


def bar_energy(energies: NDArray[np.float64], features: BarFeatures, grid: Grid) -> NDArray[np.float64]:
    """Energy of each bar, 0..1; shape (bars,).

    Parameters
    ----------
    energies : K-weighted mean squares of each 100 ms
    """
    if not features.bars:
        return np.zeros(0)
    edges = grid.time_at(grid.bar_lines.beat_of(features.first + np.arange(features.bars + 1))) / STEP_S
    sums = np.concatenate(([0.0], np.cumsum(energies)))
    at = np.interp(edges, np.arange(len(sums)), sums)
    loudness = lufs(np.diff(at) / np.maximum(np.diff(edges), 1e-9))
    loud = np.clip(1.0 - (loudness.max() - loudness) / QUIET_LU, 0.0, 1.0)
    hits = features.drums + features.kick
    dense = hits / max(float(np.percentile(hits, 95)), 1e-9)
    return np.asarray(LOUDNESS_SHARE * loud + (1.0 - LOUDNESS_SHARE) * np.clip(dense, 0.0, 1.0))
