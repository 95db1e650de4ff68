"""How alike the bars of a track are: what a cut from one to the other would be heard by."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.tone.harmony import Harmony
from fernbrook.core.track import Grid

PARTS = 4
"""Each bar is looked at in so many parts."""
LEVEL_WEIGHT, CHROMA_WEIGHT = 0.5, 1.0
"""A level that differs by 20 dB counts half as much as another harmony."""


def bar_vectors(harmony: Harmony, grid: Grid, first: int, last: int) -> NDArray[np.float32]:
    """Bars ``first`` to ``last`` of a grid as vectors of harmony and band levels; shape (last - first, PARTS * 17).

    The distance of two vectors is about 0 for the same music and 1 for music that has nothing in common.
    """
    bars = first + np.arange((last - first) * PARTS + 1) / PARTS
    edges = np.rint(grid.time_at(grid.bar_lines.beat_of(bars)) * harmony.rate).astype(np.int64)
    rows = np.concatenate((harmony.chroma * CHROMA_WEIGHT, harmony.level / 2.0 * LEVEL_WEIGHT), axis=1)
    if not len(rows):
        return np.zeros((last - first, PARTS * 17), np.float32)
    sums = np.concatenate((np.zeros((1, rows.shape[1])), np.cumsum(rows, axis=0, dtype=np.float64)))
    begin = np.clip(edges[:-1], 0, len(rows) - 1)
    end = np.clip(edges[1:], begin + 1, len(rows))
    means = (sums[end] - sums[begin]) / (end - begin)[:, None]
    return np.asarray(means.reshape(last - first, -1) / np.sqrt(PARTS), dtype=np.float32)
