"""One way of counting through a whole track: where its tempo changes, a pulse may go on at half or at double of it."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.fit import Run
from fernbrook.core.track import Grid

FARTHEST_UP, FARTHEST_DOWN = 0.54, 0.5
"""The most that a tempo goes, in octaves; what would go farther goes the other way."""

Array = NDArray[np.float64]


def in_one_octave(followed: Grid, steady: Sequence[Run]) -> Grid:
    """A followed grid whose steady runs are counted so that each is as close in tempo to the one before it as can be:
    128 BPM go on at 174, not at 87. The grid itself where they are."""
    borders, factors = [-np.inf], [1.0]
    for before, after in pairwise(steady):
        octaves = np.log2(after.bpm / before.bpm / factors[-1])
        borders.append(_turn(followed, before.last, after.first))
        factors.append(_nearer(octaves))
    if all(f == 1.0 for f in factors):
        return followed
    beats = np.array([a.beat for a in followed.anchors])
    parts = []
    for begin, end, factor in zip(borders, [*borders[1:], np.inf], factors, strict=True):
        inside = beats[(beats >= begin) & (beats < end)]
        if len(inside):
            parts.append(followed.time_at(np.arange(inside[0], inside[-1] + 1.0 - 1e-9, 1.0 / factor)))
    times = np.concatenate(parts)
    rising = np.concatenate(([True], np.diff(times) > 0.05))
    return Grid.through(times[rising], np.arange(float(rising.sum()))) if rising.sum() > 1 else followed


def _nearer(octaves: float) -> float:
    """By how much a tempo so many octaves away is to be counted faster."""
    if octaves > FARTHEST_UP:
        return float(2.0 ** -np.ceil(octaves - FARTHEST_UP))
    return float(2.0 ** max(0.0, np.floor(-octaves - FARTHEST_DOWN) + 1.0))


def _turn(followed: Grid, first: float, last: float) -> float:
    """The beat between two runs at which the tempo jumps most."""
    beats = np.arange(first, last + 1.0)
    if len(beats) < 3:
        return last
    tempi = followed.bpm_at(beats)
    return float(beats[1 + np.argmax(np.abs(np.diff(np.log(tempi))))])
