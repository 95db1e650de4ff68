"""An order in numbers that a person can weigh: bent tempi, how keys meet, how near its energy is to a shape."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from fernbrook.core.library import REACH
from fernbrook.core.ordering.candidate import Candidate
from fernbrook.core.ordering.problem import Problem
from fernbrook.core.ordering.step import ENOUGH_BARS, same_artist, step_between
from fernbrook.core.track import FITTING, Relation
from fernbrook.core.value import Value

SHORT_BARS = ENOUGH_BARS / 2
"""Room for less than this is short."""


class Appraisal(Value):
    """What is good and bad about an order. ``cost`` is None where it is none of those that were searched.

    ``mean_bend`` and ``largest_bend`` are shares by which tempi are bent, ``leaps`` how many of them are out of reach;
    ``off_shape`` is the mean distance of the energy from what is wished, ``energy_step`` the mean step of it, as
    shares of the range that the tracks have; None where nothing is wished, or nothing known.
    """

    cost: float | None
    mean_bend: float
    largest_bend: float
    leaps: int
    fitting: int
    creative: int
    clashes: int
    unknown_keys: int
    off_shape: float | None
    energy_step: float | None
    same_artist: int
    pairings: int
    short_rooms: int
    shifted: int
    tracks: int
    seconds: float


def appraised(problem: Problem, order: Sequence[int], seated: Sequence[Candidate]) -> Appraisal:
    """An order of a problem in numbers; ``seated`` are its candidates, shifted and counted as they would be."""
    steps = [step_between(a, b) for a, b in pairwise(seated)]
    bends = [abs(s.bend) for s in steps if s.bend is not None]
    related = Counter(s.relation for s in steps)
    energies = [e for n in order for e in problem.energies[n][: problem.sizes[n]]]
    levels = problem.wishes.levels(len(energies))
    cost = problem.cost(order)
    return Appraisal(
        cost=round(cost, 4) if np.isfinite(cost) else None,
        mean_bend=float(np.mean(bends)) if bends else 0.0,
        largest_bend=max(bends, default=0.0),
        leaps=sum(b > REACH for b in bends),
        fitting=sum(related[r] for r in FITTING),
        creative=related[Relation.CREATIVE],
        clashes=related[Relation.CLASH],
        unknown_keys=related[None],
        off_shape=None if levels is None else float(np.mean(np.abs(levels - energies))),
        energy_step=float(np.mean(np.abs(np.diff(energies)))) if len(energies) > 1 else None,
        same_artist=sum(same_artist(a, b) for a, b in pairwise(seated)),
        pairings=sum((a.track_id, b.track_id) in problem.pairings for a, b in pairwise(seated)),
        short_rooms=sum(s.room_bars < SHORT_BARS for s in steps),
        shifted=sum(int(problem.sizes[n]) for n in order if problem.nodes[n].shift),
        tracks=len(seated),
        seconds=problem.seconds(order),
    )
