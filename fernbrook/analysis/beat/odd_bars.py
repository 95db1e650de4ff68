"""Where bars start again within a track, because a beat or two are left out of it, or too many.

Chords and levels change, and a trained listener hears first beats, on one place of the bar before such a beat and on
another one after it. What speaks for a place is added up beat by beat; where two places together collect clearly more
than any one does alone, bars start again.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

CLEARLY_MORE = 2.0
"""By so many standard deviations, of what beats taken at random would collect, two places must collect more than
one: tuned on fifteen tracks of the battery, seen on the others (``docs/measures.md``)."""
LEAST_BEATS = 32
"""Bars keep their place for so long at least."""
MOST = 4
"""So many in a track may be found; more are none that anybody meant."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class OddBar:
    """A bar of ``beats``, fewer than the others have, before bars start again ``at`` a beat."""

    at: int
    beats: int


def find_odd_bars(evidence: Array, per_bar: int) -> list[OddBar]:
    """The odd bars of a track, in order.

    Parameters
    ----------
    evidence : how much speaks for each beat being the first of a bar; shape (beats,), of mean about 0
    """
    found: list[OddBar] = []
    spans = [(0, len(evidence))]
    while spans and len(found) < MOST:
        begin, end = spans.pop(0)
        best = _best(evidence[begin:end], per_bar)
        if best is not None:
            at = begin + best.at
            found.append(OddBar(at, best.beats))
            spans += [(begin, at), (at, end)]
    return sorted(found, key=lambda bar: bar.at)


def _best(evidence: Array, per_bar: int) -> OddBar | None:
    """The likeliest of a span; None where none is clear."""
    beats = len(evidence)
    if beats <= 2 * LEAST_BEATS:
        return None
    place = np.arange(beats) % per_bar
    sums = np.zeros((per_bar, beats + 1))
    for p in range(per_bar):
        sums[p, 1:] = np.cumsum(np.where(place == p, evidence, 0.0))
    at = np.arange(LEAST_BEATS, beats - LEAST_BEATS)
    after = sums[at % per_bar, -1] - sums[at % per_bar, at]
    before = sums[:, at]
    before[at % per_bar, np.arange(len(at))] = -np.inf
    total = before + after
    old, where = np.unravel_index(int(np.argmax(total)), total.shape)
    chance = max(float(evidence.std()), 1e-9) * np.sqrt(beats / per_bar)
    if total[old, where] - sums[:, -1].max() < CLEARLY_MORE * chance:
        return None
    return OddBar(int(at[where]), int((at[where] - old) % per_bar))
