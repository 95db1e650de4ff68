"""An order as a circuit with constraints, solved by OR-Tools' CP-SAT: improves on a known order, or proves it best.

Node by node through a depot that stands before the first and after the last. Where places cost something or are fixed,
each node has a place as well, one more than the one before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from ortools.sat.python import cp_model

from fernbrook.core.ordering import FREE, Problem

SCALE = 100_000
"""Costs are whole numbers there."""


@dataclass(frozen=True)
class Solved:
    """An order, a cost below which there is none, and whether that is known to be what the order costs."""

    order: tuple[int, ...]
    bound: float
    proven: bool


def solved(problem: Problem, known: Sequence[int], effort: float) -> Solved | None:
    """The best order of all tracks that is found with so much effort (about seconds), beginning at a known one.

    None where the problem is none of those that this model knows: it leaves nothing out.
    """
    if len(problem.lengths) > 1 or problem.lengths[0] != problem.total:
        return None
    model = _Model(problem)
    model.hint(known)
    solver = cp_model.CpSolver()
    solver.parameters.max_deterministic_time = effort
    solver.parameters.num_workers = 8
    solver.parameters.interleave_search = True
    solver.parameters.random_seed = 1
    status = solver.solve(model.model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    rounding = (2 * len(problem.nodes) + 2) / SCALE
    return Solved(model.order(solver), solver.best_objective_bound / SCALE - rounding, status == cp_model.OPTIMAL)


class _Model:
    """The variables and constraints of a problem in which nothing is left out."""

    def __init__(self, problem: Problem) -> None:
        self.model = cp_model.CpModel()
        self._problem = problem
        n = len(problem.nodes)
        self._depot = n
        self._arcs: dict[tuple[int, int], cp_model.IntVar] = {}
        self._cost: list[cp_model.LinearExpr] = []
        circuit: list[tuple[int, int, cp_model.LiteralT]] = []
        for i in range(n):
            self._arc(n, i, float(problem.first[i]))
            self._arc(i, n, 0.0)
            for j in range(n):
                if np.isfinite(problem.steps[i, j]):
                    self._arc(i, j, float(problem.steps[i, j]))
        circuit += [(i, j, var) for (i, j), var in self._arcs.items()]
        present = [self.model.new_bool_var(f"in {i}") for i in range(n)]
        for group in range(len(problem.groups)):
            self.model.add_exactly_one(present[i] for i in range(n) if problem.group[i] == group)
        for i in range(n):
            circuit.append((i, i, ~present[i]))
            self._cost.append(self._whole(float(problem.own[i])) * present[i])
        self.model.add_circuit(circuit)
        self._present = present
        self._places = self._placed() if self._needs_places() else {}
        self._keep_artists_apart()
        self.model.minimize(sum(self._cost))

    def hint(self, order: Sequence[int]) -> None:
        """Begin with a known order."""
        ways = {*pairwise(order), (self._depot, order[0]), (order[-1], self._depot)}
        for way, var in self._arcs.items():
            self.model.add_hint(var, way in ways)
        at = dict(zip(order, np.cumsum([0, *(self._problem.sizes[i] for i in order)]), strict=False))
        for (node, place), var in self._places.items():
            self.model.add_hint(var, at.get(node) == place)

    def order(self, solver: cp_model.CpSolver) -> tuple[int, ...]:
        """What was found."""
        after = {i: j for (i, j), var in self._arcs.items() if solver.boolean_value(var)}
        found: list[int] = []
        at = after[self._depot]
        while at != self._depot:
            found.append(at)
            at = after[at]
        return tuple(found)

    def _arc(self, i: int, j: int, cost: float) -> None:
        self._arcs[i, j] = self.model.new_bool_var(f"{i} to {j}")
        self._cost.append(self._whole(cost) * self._arcs[i, j])

    @staticmethod
    def _whole(cost: float) -> int:
        return round(SCALE * cost)

    def _needs_places(self) -> bool:
        problem = self._problem
        fixed = any(problem.start_of(g, problem.total) != FREE for g in range(len(problem.groups)))
        return fixed or (problem.energy_weight > 0 and problem.wishes.levels(problem.total) is not None)

    def _placed(self) -> dict[tuple[int, int], cp_model.IntVar]:
        """Which node begins at which place, and what that costs."""
        problem, total = self._problem, self._problem.total
        costs = problem.place_costs(total)
        places: dict[tuple[int, int], cp_model.IntVar] = {}
        for node, place in zip(*np.nonzero(np.isfinite(costs)), strict=True):
            var = self.model.new_bool_var(f"{node} at {place}")
            places[int(node), int(place)] = var
            self._cost.append(self._whole(float(costs[node, place])) * var)
        for node, is_in in enumerate(self._present):
            self.model.add_exactly_one([*(var for (i, _), var in places.items() if i == node), ~is_in])
        for (i, j), way in self._arcs.items():
            if self._depot in (i, j):
                continue
            size = int(problem.sizes[i])
            for place in range(total):
                if (i, place) in places:
                    then = places.get((j, place + size))
                    self.model.add_bool_or([~way, ~places[i, place], *([then] if then is not None else [])])
        for i in range(len(problem.nodes)):
            if (self._depot, i) in self._arcs:
                at_start = places.get((i, 0))
                way = self._arcs[self._depot, i]
                self.model.add_implication(way, at_start) if at_start is not None else self.model.add(way == 0)
        return places

    def _keep_artists_apart(self) -> None:
        """What it costs that one track alone lies between two of an artist."""
        problem = self._problem
        for one, other in zip(*np.nonzero(problem.apart), strict=True):
            near = self.model.new_bool_var(f"{one} near {other}")
            self._cost.append(self._whole(float(problem.apart[one, other])) * near)
            for between in range(len(problem.nodes)):
                into, out = self._arcs.get((int(one), between)), self._arcs.get((between, int(other)))
                if problem.sizes[between] == 1 and into is not None and out is not None:
                    self.model.add_bool_or([~into, ~out, near])
