"""A good order by simulated annealing (S. Kirkpatrick, C. Gelatt and M. Vecchi, Science 220, 1983).

Runs of tracks are moved, swapped and turned round, groups are left out and come back, keys are shifted. What is fixed
never moves: orders are laid out around it. The same problem and seed give the same order.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fernbrook.core.ordering import Ints, Problem
from fernbrook.core.track import FloatArray

HOT, WARM, COLD = 1.0, 0.3, 0.01
"""Costs by which an order may get worse, at the start, at that with a known order, and at the end."""
MOVES_PER_GROUP = 28_000
LEAST_MOVES, MOST_MOVES = 60_000, 4_000_000
COOLED_EVERY = 256
MISPLACED = 100.0
"""What it costs that a fixed group is not in its place: so much that it happens only where it must."""
LONGEST_RUN = 12
GOOD = 10
"""Moves are tried first that let one of so many good followers come after a node."""
ANY = 0.25
"""The share of moves that are any."""


class _Costs(NamedTuple):
    """A problem as compiled code takes it; nodes of one group follow each other from ``base`` on."""

    steps: FloatArray
    apart: FloatArray
    own: FloatArray
    first: FloatArray
    sizes: Ints
    group: Ints
    base: Ints
    variants: Ints
    starts: Ints
    """The fixed start of each node in an order of each number of tracks; shape (nodes, tracks + 1)."""
    levels: FloatArray
    energies: FloatArray
    energy_weight: float
    left_out: FloatArray
    needed: NDArray[np.bool_]
    most_left_out: int
    seconds: FloatArray
    """Before the way in, to the way out, and after it; shape (nodes, 3)."""
    wished: FloatArray
    """The shortest and the longest length, and what a second beyond costs; the cost is 0 without a wish."""


def annealed(problem: Problem, seed: int, known: Sequence[int] = ()) -> tuple[int, ...]:
    """An order of low cost; begun with a known one it stays nearer to that, and is no dearer."""
    costs = _costs(problem)
    groups = len(problem.groups)
    moves = min(max(MOVES_PER_GROUP * groups, LEAST_MOVES), MOST_MOVES)
    order = _anneal(costs, _row_of(problem, known), len(known), problem.lengths[-1], seed, moves)
    return tuple(int(n) for n in order)


def _row_of(problem: Problem, known: Sequence[int]) -> Ints:
    """A known order, and what it leaves out after it; empty where none is known."""
    used = {int(problem.group[n]) for n in known}
    unused = [i for i, n in enumerate(problem.nodes) if known and not n.shift and n.group not in used]
    return np.array([*known, *unused], dtype=np.int64)


def _costs(problem: Problem) -> _Costs:
    groups, tracks = len(problem.groups), problem.total
    levels = np.zeros((tracks + 1, tracks))
    for m in range(1, tracks + 1):
        wished = problem.wishes.levels(m)
        if wished is not None:
            levels[m, :m] = wished
    faces = problem.faces
    length, within = problem.wishes.length_s, problem.wishes.within_s
    a_second = problem.length_cost(length + within + 60.0) / 60.0 if length is not None else 0.0
    low, high = (0.0, 0.0) if length is None else (length - within, length + within)
    starts = [[problem.start_of(n.group, max(m, len(n.members))) for m in range(tracks + 1)] for n in problem.nodes]
    return _Costs(
        steps=problem.steps,
        apart=problem.apart,
        own=problem.own,
        first=problem.first,
        sizes=problem.sizes,
        group=problem.group,
        base=np.searchsorted(problem.group, np.arange(groups)).astype(np.int64),
        variants=np.bincount(problem.group, minlength=groups).astype(np.int64),
        starts=np.array(starts, dtype=np.int64),
        levels=levels,
        energies=problem.energies,
        energy_weight=problem.energy_weight,
        left_out=problem.left_out,
        needed=np.array([g.needed for g in problem.groups]),
        most_left_out=problem.most_left_out,
        seconds=np.array([[f[0].lead_s, sum(c.plays_s for c in f), f[-1].tail_s] for f in faces]),
        wished=np.array([low, high, a_second]),
    )


@njit(cache=True, nogil=True)
def _laid_out(c: _Costs, row: Ints, used: int, tracks: int, order: Ints, places: Ints) -> None:
    """Lay nodes out around those that are fixed: their order, and the place at which each begins."""
    fixed = np.empty(used, np.int64)
    free = np.empty(used, np.int64)
    fixes = frees = 0
    for i in range(used):
        start = c.starts[row[i], tracks]
        if start < 0:
            free[frees] = row[i]
            frees += 1
            continue
        j = fixes
        while j > 0 and c.starts[fixed[j - 1], tracks] > start:
            fixed[j] = fixed[j - 1]
            j -= 1
        fixed[j] = row[i]
        fixes += 1
    at = taken = next_free = 0
    for k in range(used):
        limit = c.starts[fixed[taken], tracks] if taken < fixes else tracks
        node = -1
        if at < limit or taken == fixes:
            j = next_free
            while j < frees and at + c.sizes[free[j]] > limit:
                j += 1
            if j < frees:
                node = free[j]
                while j > next_free:
                    free[j] = free[j - 1]
                    j -= 1
                next_free += 1
        if node < 0:
            node = fixed[taken]
            taken += 1
        order[k] = node
        places[k] = at
        at += c.sizes[node]


@njit(cache=True, nogil=True)
def _cost(c: _Costs, order: Ints, places: Ints, used: int, tracks: int, low: int, high: int) -> float:
    """What the nodes from number ``low`` to ``high`` cost, and their steps, as ``Problem.cost`` counts it."""
    total = c.first[order[0]] if low == 0 else 0.0
    for k in range(low, high):
        node = order[k]
        total += c.own[node]
        start = c.starts[node, tracks]
        if start >= 0 and start != places[k]:
            total += MISPLACED
        if c.energy_weight > 0.0:
            for offset in range(c.sizes[node]):
                total += c.energy_weight * abs(c.levels[tracks, places[k] + offset] - c.energies[node, offset])
    for k in range(max(low, 1), min(high + 1, used)):
        total += c.steps[order[k - 1], order[k]]
    for k in range(max(low, 2), min(high + 2, used)):
        if c.sizes[order[k - 1]] == 1:
            total += c.apart[order[k - 2], order[k]]
    return total


@njit(cache=True, nogil=True)
def _missed_length(c: _Costs, order: Ints, used: int) -> float:
    """What it costs that a wished length is missed."""
    if c.wished[2] == 0.0:
        return 0.0
    seconds = c.seconds[order[0], 0] + c.seconds[order[used - 1], 2]
    for k in range(used):
        seconds += c.seconds[order[k], 1]
    return float(c.wished[2] * max(0.0, c.wished[0] - seconds, seconds - c.wished[1]))


@njit(cache=True, nogil=True)
def _missing(c: _Costs, row: Ints, used: int) -> float:
    """What it costs to leave out the nodes of a row beyond those that are used."""
    total, tracks = 0.0, 0
    for i in range(used, len(row)):
        total += c.left_out[c.group[row[i]]]
        if c.needed[c.group[row[i]]]:
            tracks += c.sizes[row[i]]
    return total + MISPLACED * max(0, tracks - c.most_left_out)


@njit(cache=True, nogil=True)
def _begun(c: _Costs) -> Ints:
    """Any order, without shifts. Those that must be there come first, so that what may be missing lies at the end."""
    row = c.base + c.variants // 2
    row = row[np.random.permutation(len(c.base))]
    needed = c.left_out[c.group[row]] == np.inf
    return np.concatenate((row[needed], row[~needed]))


@njit(cache=True, nogil=True)
def _anneal(c: _Costs, known: Ints, known_used: int, most: int, seed: int, moves: int) -> Ints:
    np.random.seed(seed)
    groups = len(c.base)
    row = known.copy() if known_used else _begun(c)
    may_miss, may_shift = np.any(c.left_out < np.inf), np.any(c.variants > 1)
    plain = np.all(c.sizes == 1) and np.all(c.starts < 0)
    used = max(1, min(groups, known_used or most)) if may_miss else groups
    hot = WARM if known_used else HOT
    order, places = row.copy(), np.arange(groups)
    now, best, best_order, best_used = np.inf, np.inf, row.copy(), used
    trial = row.copy()
    near = _good_followers(c.steps)
    where = np.full(len(c.steps), -1)
    where[row] = np.arange(groups)
    cooling = np.log(COLD / hot)
    warmth = hot
    for move in range(moves):
        if move % COOLED_EVERY == 0:
            warmth = hot * np.exp(cooling * move / moves)
        count, low, high = used, 0, used
        kind = np.random.random()
        if may_shift and kind < 0.15:
            low = np.random.randint(used)
            high = low + 1
            group = c.group[row[low]]
            trial[low] = c.base[group] + np.random.randint(c.variants[group])
        elif may_miss and kind < 0.3:
            count = _changed(row, trial, used)
        else:
            low, high = _moved(row, trial, used, near, where)
        if plain and count == used and not may_miss and now < np.inf:
            cost = now + _cost(c, trial, places, used, used, low, high) - _cost(c, row, places, used, used, low, high)
            if c.wished[2] > 0.0:
                cost += _missed_length(c, trial, used) - _missed_length(c, row, used)
            order = trial
        else:
            tracks = c.sizes[trial[:count]].sum()
            order = np.empty(count, np.int64)
            _laid_out(c, trial, count, tracks, order, places)
            cost = _cost(c, order, places, count, tracks, 0, count)
            cost += _missing(c, trial, count) + _missed_length(c, order, count)
        changed = groups if count != used or may_miss else high
        if cost <= now or np.random.random() < np.exp((now - cost) / warmth):
            for i in range(low, changed):
                where[row[i]] = -1
            for i in range(low, changed):
                row[i] = trial[i]
                where[row[i]] = i
            used, now = count, cost
            if cost < best - 1e-9:
                best, best_used = cost, count
                best_order[:count] = order[:count]
        else:
            trial[low:changed] = row[low:changed]
    return best_order[:best_used]


@njit(cache=True, nogil=True)
def _changed(row: Ints, trial: Ints, used: int) -> int:
    """Take a node in, leave one out, or let one take another's place; returns how many there are then."""
    kind = np.random.randint(3)
    if kind == 0 and used > 1:
        i = np.random.randint(used)
        trial[i : used - 1] = row[i + 1 : used]
        trial[used - 1] = row[i]
        return used - 1
    if used == len(row):
        return used
    i = np.random.randint(used, len(row))
    if kind == 1:
        to = np.random.randint(0, used + 1)
        trial[to + 1 : i + 1] = row[to:i]
        trial[to] = row[i]
        return used + 1
    j = np.random.randint(used)
    trial[i], trial[j] = row[j], row[i]
    return used


@njit(cache=True, nogil=True)
def _good_followers(steps: FloatArray) -> Ints:
    """For each node some that cost least right after it; shape (nodes, GOOD)."""
    nodes = len(steps)
    near = np.empty((nodes, min(GOOD, nodes)), np.int64)
    for i in range(nodes):
        near[i] = np.argsort(steps[i])[: near.shape[1]]
    return near


@njit(cache=True, nogil=True)
def _moved(row: Ints, trial: Ints, used: int, near: Ints, where: Ints) -> tuple[int, int]:
    """Move a run elsewhere, swap two, or turn a run round; returns the span that has changed.

    Most moves bring a node right after one that it follows well; the others are any.
    """
    i = np.random.randint(used)
    j = where[near[row[i], np.random.randint(near.shape[1])]]
    kind = np.random.randint(3)
    if np.random.random() < ANY or j < 0 or j >= used or j == i or kind == 1:
        j = np.random.randint(used)
    elif kind == 0:
        # The run that begins with the follower comes right after the one at i.
        run = 1 + int(LONGEST_RUN * np.random.random() ** 2)
        if j > i:
            run = min(run, used - j)
            return _turned(row, trial, i + 1, j, j + run)
        run = min(run, i - j)
        return _turned(row, trial, j, j + run, i + 1)
    elif j > i:
        i += 1
    else:
        # Turned round, the run from the follower to the one at i has them beside each other the other way.
        i, j = j, i - 1
    low, high = min(i, j), max(i, j) + 1
    if kind == 0:
        return _turned(row, trial, low, low + 1 + int((high - low - 1) * np.random.random()), high)
    if kind == 1:
        trial[i], trial[j] = row[j], row[i]
    else:
        trial[low:high] = row[low:high][::-1]
    return low, high


@njit(cache=True, nogil=True)
def _turned(row: Ints, trial: Ints, low: int, middle: int, high: int) -> tuple[int, int]:
    """Let what lies from ``middle`` to ``high`` come before what lies from ``low`` to ``middle``."""
    trial[low : low + high - middle] = row[middle:high]
    trial[low + high - middle : high] = row[low:middle]
    return low, high
