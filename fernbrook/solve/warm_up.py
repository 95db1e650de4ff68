"""Compiles what searches for orders need, before somebody waits for it."""

from __future__ import annotations

from fernbrook.core.ordering import Candidate, Group, Problem, Wishes
from fernbrook.solve.anneal import annealed
from fernbrook.solve.exact import best
from fernbrook.solve.paths import bound


def warm_up() -> None:
    """Run each kernel once on a few tracks. What was compiled is kept on disk, for the workers as well."""
    tracks = [Candidate(track_id=str(n), bpm=120.0 + n) for n in range(4)]
    problem = Problem(tracks, [Group(members=(n,)) for n in range(len(tracks))], Wishes())
    order = best(problem)
    annealed(problem, 1, order)
    bound(problem, 2.0 * problem.cost(order) + 1.0)
