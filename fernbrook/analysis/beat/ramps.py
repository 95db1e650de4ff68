"""Ramps between two steady tempi: what a followed grid has as many short stretches is tried as one.

The two tempi, and where their beats lie, are known well from what comes before and after. A ramp that is linear in
beats then follows from where it begins and how many beats it takes; of all that meet the beats after them, the one is
taken on whose beats most begins.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.fit import Run
from fernbrook.core.track import Anchor, Grid

LEAST_STEP = 0.04
"""Tempi that differ by a smaller share are a player's."""
AROUND = 24
"""Beats that a ramp may reach into the steady runs beside it."""
LEAST_BEATS, MOST_BEATS = 2, 160
MEETS_S = 0.008
"""How close to the beats after it a ramp must end."""
NEAR_S = 0.012
STEP_ANCHORS = 3
"""What a step is anchored by, at most."""
BETTER, AS_GOOD = 1.03, 0.97
"""By how much more must begin on the beats of a ramp than on those of a step; and how much of what begins on beats that
needed many anchors is enough, because a ramp is simpler."""

Array = NDArray[np.float64]


def with_ramps(grid: Grid, steady: Sequence[Run], strength: Array, rate: float) -> Grid:
    """A grid with a ramp wherever one between two steady runs of its beats fits the onsets better than what it has.

    Parameters
    ----------
    strength : onset strength, shape (frames,), at ``rate`` frames a second
    """
    for before, after in reversed(list(pairwise(steady))):
        is_near = after.first - before.last < MOST_BEATS + 2 * AROUND
        if is_near and abs(np.log(after.bpm / before.bpm)) > LEAST_STEP:
            grid = _between(grid, before, after, strength, rate)
    return grid


def _between(grid: Grid, before: Run, after: Run, strength: Array, rate: float) -> Grid:
    """The grid with the best step or ramp between two of its steady runs, or as it is."""
    first = max(before.first, before.last - AROUND)
    from_s = float(before.time_at(first))
    latest_s = float(after.time_at(min(after.first + AROUND, after.last)))
    turns = sum(first < a.beat < after.first + AROUND for a in grid.anchors)
    followed = _begins_on(_beats_of(grid, from_s, latest_s), strength, rate)
    best, most = None, followed * (AS_GOOD if turns > STEP_ANCHORS else BETTER)
    for begin, beats, end_s in _ways(before, after, first, latest_s):
        tried = _ramped(before, after, begin, beats, end_s)
        # Steps come first: a ramp must be better than one.
        needed = most * BETTER if best is not None and len(best.anchors) == 1 and beats else most
        here = _begins_on(_beats_of(tried, from_s, latest_s), strength, rate)
        if here > needed:
            best, most = tried, here
    return grid if best is None else _put(grid, best, before, after)


def _ways(before: Run, after: Run, first: float, latest_s: float) -> Array:
    """All steps and ramps that meet the beats after them, a row each: where it begins, its beats, and when it ends."""
    lengths = np.concatenate(([0.0], np.arange(LEAST_BEATS, MOST_BEATS + 1.0)))
    beats, begins = (g.ravel() for g in np.meshgrid(lengths, np.arange(first, after.first + 1.0), indexing="ij"))
    rise = after.bpm / before.bpm
    ends_s = before.time_at(begins) + 60.0 * beats / (after.bpm - before.bpm) * np.log(rise)
    landed = (ends_s - after.offset_s) / after.slope_s
    off_s = np.abs(landed - np.rint(landed)) * after.slope_s
    meets = (off_s < MEETS_S) & (ends_s <= latest_s)
    return np.stack((begins, beats, ends_s), axis=1)[meets]


def _ramped(before: Run, after: Run, begin: float, beats: float, end_s: float) -> Grid:
    if not beats:
        step = Anchor(time_s=end_s, beat=begin)
        return Grid(anchors=(step,), bpm_before=before.bpm, bpm_after=after.bpm)
    here = Anchor(time_s=float(before.time_at(begin)), beat=begin, ramp=after.bpm / before.bpm)
    over = Anchor(time_s=end_s, beat=begin + beats)
    return Grid(anchors=(here, over), bpm_before=before.bpm, bpm_after=after.bpm)


def _beats_of(grid: Grid, from_s: float, to_s: float) -> Array:
    first, last = grid.beat_at([from_s, to_s])
    return grid.time_at(np.arange(np.ceil(first), np.floor(last) + 1.0))


def _begins_on(times_s: Array, strength: Array, rate: float) -> float:
    """How strongly something begins on some moments, on average."""
    reach = round(NEAR_S * rate)
    places = np.rint(times_s * rate).astype(np.int64)
    places = places[(places >= reach) & (places < len(strength) - reach)]
    if not len(places):
        return 0.0
    around = places[:, None] + np.arange(-reach, reach + 1)
    return float(strength[around].max(axis=1).mean())


def _put(grid: Grid, way: Grid, before: Run, after: Run) -> Grid:
    """The grid with two runs and a way in place of all from the one to the other; what comes after is counted on."""
    over = way.anchors[-1]
    counted_on = over.beat - round((over.time_s - after.offset_s) / after.slope_s)
    earlier = [a for a in grid.anchors if a.beat < before.first]
    later = [a.at(a.time_s, a.beat + counted_on) for a in grid.anchors if a.beat > after.last]
    if earlier:
        earlier.append(Anchor(time_s=float(before.time_at(before.first)), beat=before.first))
    if later:
        later.insert(0, Anchor(time_s=float(after.time_at(after.last)), beat=after.last + counted_on))
    bpm_before = grid.bpm_before if earlier else before.bpm
    bpm_after = grid.bpm_after if later else after.bpm
    return Grid(anchors=(*earlier, *way.anchors, *later), bpm_before=bpm_before, bpm_after=bpm_after)
