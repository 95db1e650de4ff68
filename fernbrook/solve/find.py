"""The best order that can be found for a problem, and how far from the best possible it can be."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from fernbrook.core.ordering import Problem
from fernbrook.solve.anneal import annealed
from fernbrook.solve.exact import best, is_few
from fernbrook.solve.paths import EQUAL, bound

SEEDS = (1, 2)
AGAIN = (3, 4)
"""Seeds of runs from scratch, and of those that begin with the best of them."""
FEW_GROUPS = 16
"""So many groups with places that cost something are still within reach of the constraints."""
EFFORT = 0.5
MOST_GAP = 1.0
"""A bound that is less than half of what was found says nothing of it."""
MOST_GROUPS = 80


@dataclass(frozen=True)
class Found:
    """An order, as node numbers, what it costs, and a cost below which there is none; None where none is known."""

    order: tuple[int, ...]
    cost: float
    bound: float | None

    @property
    def is_best(self) -> bool:
        """Whether it is proven that no order costs less."""
        return self.bound is not None and self.cost <= self.bound + EQUAL

    @property
    def gap(self) -> float | None:
        """By which share it may cost more than the best possible; None where that is not known."""
        if self.is_best:
            return 0.0
        gap = self.cost / self.bound - 1.0 if self.bound else None
        return gap if gap is not None and gap <= MOST_GAP else None


def find(problem: Problem, present: Sequence[int] = (), report: Callable[[float], None] = lambda _: None) -> Found:
    """Find an order. The same problem gives the same order.

    Parameters
    ----------
    present : an order that there is already: what is found is no dearer
    report : is told the share done
    """
    if is_few(problem):
        order = best(problem)
        return Found(order, problem.cost(order), problem.cost(order))
    with ThreadPoolExecutor(max_workers=len(SEEDS)) as pool:
        begun = list(pool.map(lambda seed: annealed(problem, seed), SEEDS))
        report(0.2)
        order = min([tuple(present), *begun] if present else begun, key=problem.cost)
        again = pool.map(lambda seed: annealed(problem, seed, order), AGAIN)
        order = min([order, *again], key=problem.cost)
    report(0.4)
    limit = bound(problem, problem.cost(order))
    report(0.8)
    if limit.order is not None:
        order = min(order, limit.order, key=problem.cost)
    found = Found(order, problem.cost(order), limit.cost)
    if found.is_best or not _within_reach(problem):
        return found
    try:
        from fernbrook.solve.circuit import solved
    except ModuleNotFoundError as error:
        if error.name != "ortools":
            raise
        return found  # the extra `proofs` is not installed
    proof = solved(problem, order, EFFORT)
    if proof is None:
        return found
    order = min(order, proof.order, key=problem.cost)
    cost = problem.cost(order)
    return Found(order, cost, min(cost, max(limit.cost, proof.bound)))


def _within_reach(problem: Problem) -> bool:
    """Whether the constraints can be expected to add something in a few seconds."""
    free = problem.energy_weight == 0.0 or problem.wishes.levels(problem.total) is None
    return len(problem.groups) <= (MOST_GROUPS if free else FEW_GROUPS)
