"""Where a track can be made shorter or longer by some bars so that it is least noticed.

To leave out bars a to b, what leads up to bar a must be like what leads up to bar b, and what follows likewise; to
hear them twice, the other way round. So both ask for the same: two places of the track, so many bars apart, that are
alike on both sides.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.track import BarTable

SIDE_BARS = 2
"""So many bars on both sides of a place are compared."""
VOICE_CUT = 0.6
"""What it costs to cut into somebody who sings, as a distance of bars."""
OFF_LINE = 0.25
"""And to cut where nothing begins."""
LEAST = 0.15
"""What is less alike is no proposal."""
NOT_AT_ALL = 1.0
"""Bars that are farther apart than this have nothing in common."""


@dataclass(frozen=True)
class Fold:
    """Bars ``start`` to ``end`` of the grid, which may be left out or heard once more; ``likeness`` from 0 to 1."""

    start: int
    end: int
    likeness: float


def folds(vectors: NDArray[np.float32], first: int, table: BarTable, bars: int, within: tuple[int, int]) -> list[Fold]:
    """The places where so many bars can be folded, the best first, none of them overlapping a better one.

    Parameters
    ----------
    vectors : one row a bar from bar ``first`` of the grid on; shape (n, d)
    table : the same track's bars
    bars : how many are to be left out or repeated
    within : the bars between which all of it must lie
    """
    n = len(vectors)
    low, high = max(within[0] - first, SIDE_BARS), min(within[1] - first, n - SIDE_BARS)
    starts = np.arange(low, high - bars + 1)
    if bars < 1 or not len(starts):
        return []
    ends = starts + bars
    sides = np.arange(-SIDE_BARS, SIDE_BARS)
    apart = np.stack([np.linalg.norm(vectors[starts + k] - vectors[ends + k], axis=1) for k in sides]).mean(axis=0)
    cost = apart + VOICE_CUT * (_sung(table, first + starts) + _sung(table, first + ends)) / 2.0
    cost += OFF_LINE * (1.0 - _line(table, first + starts)) / 2.0 + OFF_LINE * (1.0 - _line(table, first + ends)) / 2.0
    found: list[Fold] = []
    for place in np.argsort(cost, kind="stable"):
        start, likeness = int(starts[place]) + first, float(np.clip(1.0 - cost[place] / NOT_AT_ALL, 0.0, 1.0))
        if likeness < LEAST:
            break
        if all(start + bars <= f.start or f.end <= start for f in found):
            found.append(Fold(start, start + bars, likeness))
    return found


def _sung(table: BarTable, bars: NDArray[np.int64]) -> NDArray[np.float64]:
    """How much somebody sings through the line before each bar: in the bars on both sides of it."""
    after, before = (np.clip(bars - table.first + k, 0, len(table.voice) - 1) for k in (0, -1))
    return np.asarray(np.minimum(table.voice[after], table.voice[before]))


def _line(table: BarTable, bars: NDArray[np.int64]) -> NDArray[np.float64]:
    return np.asarray(table.line[np.clip(bars - table.first, 0, len(table.line) - 1)])
