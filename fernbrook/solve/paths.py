"""How good an order can be at best: the cheapest path that may come back to a group only after it has been forgotten.

An order visits every group once. If that is asked for by prices alone (one for each group, paid back at each visit),
and a path only remembers the groups nearest to where it is, the cheapest one is found by dynamic programming over
places, and costs no more than the best order: a bound. The prices are raised for what is missed
and lowered for what is visited twice (R. Baldacci, A. Mingozzi and R. Roberti, "New route relaxation and pricing
strategies for the vehicle routing problem", Operations Research 59, 2011; M. Held and R. Karp, "The traveling-salesman
problem and minimum spanning trees: Part II", Mathematical Programming 1, 1971).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numba import njit

from fernbrook.core.ordering import Ints, Problem
from fernbrook.core.track import FloatArray

EQUAL = 1e-6
MEMORIES = (1, 4, 6, 8)
"""How many groups a path remembers; more of them where that is not enough and the work allows it."""
MOST_WORK = 4.0e8
"""Steps that are looked at with one memory, over all prices and numbers of tracks."""
MOST_TRIALS, FEWEST_TRIALS = 150, 3
STALLED = 6
"""Trials without gain after which smaller changes of price are tried."""
SMALLER = 0.6
OVER = 1.002


@dataclass(frozen=True)
class Bound:
    """No order costs less than ``cost``; ``order`` is one that was found by the way, or None."""

    cost: float
    order: tuple[int, ...] | None


class _Graph(NamedTuple):
    """Nodes for compiled code: what is paid on arriving at one after another and at a place."""

    steps: FloatArray
    place: FloatArray
    first: FloatArray
    sizes: Ints
    group: Ints


def bound(problem: Problem, known: float) -> Bound:
    """A lower bound of the cost of all orders; ``known`` is what the best known one costs.

    What only one track between two adds, and a missed length, is not counted: both only make an order dearer.
    """
    least, found = np.inf, None
    for tracks in problem.lengths:
        here = _bound_of(problem, tracks, min(known, least))
        if here.order is not None and problem.cost(here.order) < known - EQUAL:
            known, found = problem.cost(here.order), here.order
        least = min(least, here.cost)
    return Bound(float(min(least, known)), found)


def _bound_of(problem: Problem, tracks: int, known: float) -> Bound:
    """The bound for orders of so many tracks."""
    groups = len(problem.groups)
    graph = _Graph(
        problem.steps + problem.own[None, :],
        problem.place_costs(tracks),
        problem.first + problem.own,
        problem.sizes,
        problem.group,
    )
    may_miss = problem.left_out if tracks < problem.total else np.full(groups, np.inf)
    prices = np.zeros(groups)
    best, order = -np.inf, None
    for memory in MEMORIES:
        near = _nearest(problem, min(memory, groups - 1))
        work = float(tracks * len(problem.nodes) ** 2 * 2 ** near.shape[1])
        trials = min(int(MOST_WORK / len(problem.lengths) / work), MOST_TRIALS)
        if trials < FEWEST_TRIALS:
            trials = FEWEST_TRIALS if best == -np.inf else 0
        best, order, prices = _raised(graph, near, prices, may_miss, known, trials, best, order)
        if best >= known - EQUAL:
            break
    return Bound(best, order)


def _raised(
    graph: _Graph,
    near: Ints,
    prices: FloatArray,
    may_miss: FloatArray,
    known: float,
    trials: int,
    best: float,
    order: tuple[int, ...] | None,
) -> tuple[float, tuple[int, ...] | None, FloatArray]:
    """Prices under which the cheapest path costs as much as can be: the bound, an order met by the way, the prices."""
    step, stalled, good = 1.0, 0, prices
    for _ in range(trials):
        cost, path = _cheapest(graph, prices, near)
        missed = may_miss < prices
        value = cost + float(prices.sum() + np.where(missed, may_miss - prices, 0.0).sum())
        visits = np.bincount(graph.group[path], minlength=len(prices))
        once = not np.any(visits > 1) and not np.any((visits == 0) & np.isinf(may_miss))
        if once:
            order = tuple(int(n) for n in path)
        if value > best + EQUAL:
            best, stalled, good = value, 0, prices
        else:
            stalled += 1
            if stalled >= STALLED:
                step, stalled = step * SMALLER, 0
        wrong = 1.0 - visits - missed
        size = float(wrong @ wrong)
        if size == 0.0 or best >= known - EQUAL:
            break
        prices = prices + step * (known * OVER + EQUAL - value) / size * wrong
    return best, order, good


def _nearest(problem: Problem, memory: int) -> Ints:
    """For each group the others that cost least to go to and come from; shape (groups, memory)."""
    groups = len(problem.groups)
    apart = np.full((groups, groups), np.inf)
    both = problem.steps + problem.steps.T
    np.minimum.at(apart, (problem.group[:, None], problem.group[None, :]), both)
    np.fill_diagonal(apart, np.inf)
    return np.argsort(apart, axis=1, kind="stable")[:, :memory].astype(np.int64)


def _cheapest(graph: _Graph, prices: FloatArray, near: Ints) -> tuple[float, Ints]:
    groups, memory = near.shape
    bit = np.full((groups, groups), -1, dtype=np.int64)
    np.put_along_axis(bit, near, np.arange(memory)[None, :].repeat(groups, axis=0), axis=1)
    cost, path, length = _walk(graph, prices, near, bit)
    return float(cost), path[:length][::-1]


@njit(cache=True, nogil=True)
def _walk(graph: _Graph, prices: FloatArray, near: Ints, bit: Ints) -> tuple[float, Ints, int]:
    """The cheapest path, last node first, and its length.

    A state is how many tracks there are so far, the last node, and which of the groups near to it are remembered.
    """
    nodes, tracks = graph.place.shape
    memory = near.shape[1]
    masks = 1 << memory
    value = np.full((tracks + 1, nodes, masks), np.inf)
    before = np.full((tracks + 1, nodes, masks), -1, np.int32)
    for j in range(nodes):
        if graph.sizes[j] <= tracks:
            value[graph.sizes[j], j, 0] = graph.first[j] + graph.place[j, 0] - prices[graph.group[j]]
    kept = np.empty(memory, np.int64)
    for k in range(1, tracks):
        for i in range(nodes):
            here = graph.group[i]
            for j in range(nodes):
                there = graph.group[j]
                paid = graph.steps[i, j] + graph.place[j, k] - prices[there]
                if there == here or not paid < np.inf:
                    continue
                taken = bit[here, there]
                for b in range(memory):
                    same = bit[there, near[here, b]]
                    kept[b] = 1 << same if same >= 0 else 0
                new = 1 << bit[there, here] if bit[there, here] >= 0 else 0
                after = k + graph.sizes[j]
                row = value[k, i]
                for mask in range(masks):
                    cost = row[mask]
                    if cost == np.inf or (taken >= 0 and (mask >> taken) & 1):
                        continue
                    cost += paid
                    remembered, left, b = new, mask, 0
                    while left:
                        if left & 1:
                            remembered |= kept[b]
                        left >>= 1
                        b += 1
                    if cost < value[after, j, remembered]:
                        value[after, j, remembered] = cost
                        before[after, j, remembered] = i * masks + mask
    return _traced(value, before, graph.sizes)


@njit(cache=True, nogil=True)
def _traced(value: FloatArray, before: Ints, sizes: Ints) -> tuple[float, Ints, int]:
    """The cheapest of the paths that are complete, followed back to its start."""
    tracks, nodes, masks = value.shape[0] - 1, value.shape[1], value.shape[2]
    best, last, mask = np.inf, 0, 0
    for j in range(nodes):
        for m in range(masks):
            if value[tracks, j, m] < best:
                best, last, mask = value[tracks, j, m], j, m
    path = np.empty(tracks, np.int64)
    length, k = 0, tracks
    while best < np.inf:
        path[length] = last
        length += 1
        came = before[k, last, mask]
        k -= sizes[last]
        if came < 0:
            break
        last, mask = came // masks, came % masks
    return best, path, length
