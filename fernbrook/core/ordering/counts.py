"""At which count each track of an order rides, so that tempi lie as near to each other as they can."""

from __future__ import annotations

import math
from collections.abc import Sequence

from fernbrook.core.ordering.candidate import Candidate
from fernbrook.core.ordering.step import bent

CHANGED = 0.01
"""What it costs to count a track otherwise than it is: enough to leave it where nothing is gained."""


def best_counts(order: Sequence[Candidate]) -> list[Candidate]:
    """The candidates of an order, each at the count at which all steps together cost least (A. Viterbi, 1967).

    >>> slow = Candidate(track_id="s", bpm=87.0, own_bpm=87.0, counts=(1.0, 0.5, 2.0))
    >>> fast = Candidate(track_id="f", bpm=174.0, own_bpm=174.0)
    >>> [c.bpm for c in best_counts([fast, slow])]
    [174.0, 174.0]
    """
    ways: list[tuple[float, tuple[Candidate, ...]]] = [(0.0, ())]
    for candidate in order:
        choices = [candidate.counted(c) for c in candidate.counts]
        ways = [
            min(
                (
                    (cost + _step(way, choice) + CHANGED * (choice.count != candidate.count), (*way, choice))
                    for cost, way in ways
                ),
                key=lambda w: w[0],
            )
            for choice in choices
        ]
    return list(min(ways, key=lambda w: w[0])[1])


def _step(way: Sequence[Candidate], into: Candidate) -> float:
    known = next((c.out_bpm for c in reversed(way) if c.out_bpm), None)
    if known is None or not into.bpm:
        return 0.0
    return bent(2.0 ** abs(math.log2(into.bpm / known)) - 1.0)
