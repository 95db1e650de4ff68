"""The best order itself, for few tracks: dynamic programming over which groups have been, and the last two.

M. Held and R. Karp, "A dynamic programming approach to sequencing problems", Journal of SIAM 10, 1962; with the last
two nodes in place of the last one, because one track between two of an artist costs something too.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fernbrook.core.ordering import Ints, Problem
from fernbrook.core.track import FloatArray

MOST_STATES = 17_000_000
"""Sets of groups times pairs of nodes: 16 tracks, or 13 that may be shifted."""


def is_few(problem: Problem) -> bool:
    """Whether a problem is small enough. A wished length is none of what the sets know."""
    states = len(problem.nodes) ** 2 * 2 ** len(problem.groups)
    return states <= MOST_STATES and problem.wishes.length_s is None


def best(problem: Problem) -> tuple[int, ...]:
    """The order that costs least."""
    masks = np.arange(2 ** len(problem.groups))
    held = (masks[:, None] >> np.arange(len(problem.groups))) & 1
    sizes = np.array([len(g.members) for g in problem.groups])
    needed = np.array([g.needed for g in problem.groups])
    missing = np.where(held == 1, 0.0, problem.left_out).sum(axis=1)
    missing[((1 - held) * (needed * sizes)).sum(axis=1) > problem.most_left_out] = np.inf
    tracks = held @ sizes
    orders = []
    for count in problem.lengths:
        ends = np.where(tracks == count, missing, np.inf)
        if np.isfinite(ends).any():
            cost, order, length = _best(
                problem.steps,
                problem.apart,
                problem.own,
                problem.first,
                problem.place_costs(count),
                problem.sizes,
                problem.group,
                tracks.astype(np.int64),
                ends,
            )
            orders.append((float(cost), tuple(int(n) for n in order[:length][::-1])))
    return min(orders)[1]


@njit(cache=True, nogil=True)
def _best(
    steps: FloatArray,
    apart: FloatArray,
    own: FloatArray,
    first: FloatArray,
    place: FloatArray,
    sizes: Ints,
    group: Ints,
    tracks: Ints,
    ends: FloatArray,
) -> tuple[float, Ints, int]:
    """The best order of as many tracks as ``place`` has places, last node first, its cost and its length.

    ``value[mask, i, j]`` is the cheapest way to have been at the groups of a mask with i before j, the last; i is j
    where there is no other. ``ends`` is what it costs to end with each mask, infinite where that may not be.
    """
    nodes, places = place.shape
    value = np.full((len(tracks), nodes, nodes), np.inf)
    before = np.full((len(tracks), nodes, nodes), -1, np.int16)
    for j in range(nodes):
        value[1 << group[j], j, j] = first[j] + own[j] + place[j, 0]
    for mask in range(1, len(tracks)):
        at = tracks[mask]
        if at >= places:
            continue
        for j in range(nodes):
            if not (mask >> group[j]) & 1:
                continue
            alone = sizes[j] == 1
            for n in range(nodes):
                if (mask >> group[n]) & 1:
                    continue
                paid = steps[j, n] + own[n] + place[n, at]
                least, came = np.inf, -1
                for i in range(nodes):
                    cost = value[mask, i, j] + (apart[i, n] if alone and i != j else 0.0)
                    if cost < least:
                        least, came = cost, i
                then = mask | (1 << group[n])
                if least + paid < value[then, j, n]:
                    value[then, j, n] = least + paid
                    before[then, j, n] = came
    return _traced(value, before, group, ends, places)


@njit(cache=True, nogil=True)
def _traced(
    value: FloatArray, before: NDArray[np.int16], group: Ints, ends: FloatArray, places: int
) -> tuple[float, Ints, int]:
    """The cheapest of the orders that may end, followed back to its start."""
    nodes = value.shape[1]
    least, mask, i, j = np.inf, 0, 0, 0
    for m in range(len(ends)):
        if ends[m] < np.inf:
            for a in range(nodes):
                for b in range(nodes):
                    if value[m, a, b] + ends[m] < least:
                        least, mask, i, j = value[m, a, b] + ends[m], m, a, b
    order = np.empty(places, np.int64)
    length = 0
    while True:
        order[length] = j
        length += 1
        if i == j:
            return least, order, length
        came = before[mask, i, j]
        mask ^= 1 << group[j]
        i, j = came, i
