"""Searches for orders, against all orders that there are."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from itertools import combinations, permutations, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fernbrook.core.mix.entries import LAST
from fernbrook.core.ordering import FREE, EnergyShape, Group, Problem, Weights, Wishes
from fernbrook.core.track import Key
from fernbrook.solve import find as search
from fernbrook.solve.anneal import annealed
from fernbrook.solve.circuit import solved
from fernbrook.solve.exact import best
from fernbrook.solve.find import find
from fernbrook.solve.paths import bound
from fernbrook.solve.proposals import propose
from tests.orders import candidates

pytestmark = pytest.mark.slow


def every_order(problem: Problem) -> Iterator[tuple[int, ...]]:
    """All orders of a problem in which what is fixed has its place."""
    nodes_of = [[i for i, n in enumerate(problem.nodes) if n.group == g] for g in range(len(problem.groups))]
    groups = range(len(problem.groups))
    for count in range(1, len(problem.groups) + 1):
        for chosen in combinations(groups, count):
            for row in permutations(chosen):
                sizes = [len(problem.groups[g].members) for g in row]
                starts = np.cumsum([0, *sizes])
                wanted = [problem.start_of(g, int(starts[-1])) for g in row]
                if all(w in (FREE, s) for w, s in zip(wanted, starts, strict=False)):
                    yield from product(*(nodes_of[g] for g in row))


def least(problem: Problem) -> float:
    return min(problem.cost(o) for o in every_order(problem))


def groups_of(count: int, *together: tuple[int, ...], **fixed: int) -> list[Group]:
    """All candidates, some of them together; ``first``, ``last`` and ``second`` name one that is fixed."""
    places = {"first": 0, "second": 1, "last": LAST}
    starts = {number: places[name] for name, number in fixed.items()}
    grouped = {m for t in together for m in t}
    alone = [(n,) for n in range(count) if n not in grouped]
    return [Group(members=t, start=starts.get(t[0])) for t in [*together, *alone]]


WEIGHTS = st.builds(Weights, **{n: st.sampled_from([0.0, 0.5, 1.0, 3.0]) for n in Weights.model_fields})
DRAWN = ((0.0, 0.8), (0.5, 0.1), (1.0, 0.9))


@settings(max_examples=3)
@given(
    seed=st.integers(0, 10_000),
    weights=WEIGHTS,
    shape=st.sampled_from(list(EnergyShape)),
    shifts=st.booleans(),
    leave_out=st.integers(0, 2),
    start=st.booleans(),
    kept=st.sampled_from([(), ((3, 1),), ((0, 2, 4),)]),
    fixed=st.sampled_from([{}, {"first": 5}, {"last": 3}, {"first": 5, "last": 3}]),
)
def test_nothing_is_better_than_what_is_found_for_few(
    seed: int,
    weights: Weights,
    shape: EnergyShape,
    shifts: bool,
    leave_out: int,
    start: bool,
    kept: tuple[tuple[int, ...], ...],
    fixed: dict[str, int],
) -> None:
    tracks = candidates(6, seed, artists=4)
    wishes = Wishes(
        weights=weights,
        shape=shape,
        drawn=DRAWN,
        shifts=shifts and seed % 3 == 0,
        leave_out=leave_out,
        start_bpm=124.0 if start else None,
        start_key=Key(tonic=9, minor=True) if start else None,
    )
    pairings = {("t1", "t4"): "known", ("t2", "t0"): ""}
    problem = Problem(tracks, groups_of(6, *kept, **fixed), wishes, pairings)
    found = find(problem)
    assert found.cost == pytest.approx(least(problem))
    assert found.is_best
    assert found.cost == pytest.approx(problem.cost(found.order))


def test_eight_tracks_as_well() -> None:
    problem = Problem(candidates(8, 3, artists=5), groups_of(8, (6, 7), second=2), Wishes())
    assert find(problem).cost == pytest.approx(least(problem))


@settings(max_examples=5)
@given(
    seed=st.integers(0, 1000),
    shifts=st.booleans(),
    shape=st.sampled_from([EnergyShape.WAVE, EnergyShape.ANY, EnergyShape.STEADY]),
)
def test_all_ways_of_searching_agree(seed: int, shifts: bool, shape: EnergyShape) -> None:
    """Four that know nothing of each other: sets of groups, annealing, paths with a memory, constraints."""
    tracks = candidates(7, seed, artists=100_000)
    problem = Problem(tracks, groups_of(7, (0, 3), second=5), Wishes(shape=shape, shifts=shifts))
    exact = problem.cost(best(problem))
    assert problem.cost(annealed(problem, 1)) == pytest.approx(exact)
    below = bound(problem, exact)
    assert exact * 0.97 <= below.cost <= exact + 1e-6
    proof = solved(problem, tuple(i for i, n in enumerate(problem.nodes) if not n.shift), 5.0)
    assert proof is not None
    assert proof.proven
    assert problem.cost(proof.order) == pytest.approx(exact, abs=0.01)
    assert proof.bound <= exact + 1e-6


def test_many_are_ordered_well_and_the_bound_says_how_well(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(search, "is_few", lambda _: False)
    problem = Problem(candidates(14, 5), groups_of(14, (1, 2, 3), first=7, last=9), Wishes())
    exact = problem.cost(best(problem))
    found = find(problem)
    assert found.cost == pytest.approx(exact)
    assert found.bound is not None
    assert found.bound <= exact + 1e-6
    assert found.gap is not None
    assert found.gap < 0.05


def test_the_same_search_gives_the_same_orders() -> None:
    tracks = candidates(11, 2)
    one, other = (propose(tracks, groups_of(11, (4, 5), first=0), Wishes(), {}) for _ in range(2))
    assert one == other


def test_a_wished_length_is_met_and_some_of_the_library_may_come_in() -> None:
    tracks = candidates(16, 8)
    groups = [g if g.members[0] < 8 else g.model_copy(update={"needed": False}) for g in groups_of(16, first=2)]
    wishes = Wishes(length_s=45 * 60.0, within_s=60.0)
    problem = Problem(tracks, groups, wishes)
    found = find(problem)
    assert abs(problem.seconds(found.order) - wishes.length_s) <= 60.0 + 1e-6
    assert problem.nodes[found.order[0]].members == (2,)
    assert any(problem.nodes[n].members[0] >= 8 for n in found.order)
    unhurried = find(Problem(tracks, groups, Wishes()))
    assert {problem.nodes[n].members[0] for n in unhurried.order} >= set(range(8))


def test_one_that_fits_nowhere_is_left_out_only_where_that_is_allowed() -> None:
    tracks = candidates(9, 4)
    odd = tracks[4].model_copy(update={"bpm": 151.0, "counts": (1.0,)})
    tracks = (
        [t.model_copy(update={"bpm": 124.0}) for t in tracks[:4]]
        + [odd]
        + [t.model_copy(update={"bpm": 124.0}) for t in tracks[5:]]
    )
    without = find(Problem(tracks, groups_of(9), Wishes(leave_out=3)))
    assert 4 not in without.order
    assert len(without.order) >= 6
    assert 4 in find(Problem(tracks, groups_of(9), Wishes())).order


@pytest.mark.parametrize("wishes", [Wishes(leave_out=7), Wishes(length_s=900.0, within_s=60.0)])
def test_what_has_a_fixed_place_is_never_left_out(wishes: Wishes) -> None:
    tracks = candidates(12, 5)
    odd = tracks[3].model_copy(update={"bpm": 190.0, "counts": (1.0,), "key": Key(tonic=6, minor=False), "sure": 1.0})
    for place in ({"first": 3}, {"last": 3}, {"second": 3}):
        problem = Problem([*tracks[:3], odd, *tracks[4:]], groups_of(12, **place), wishes)
        order = [problem.nodes[n].members[0] for n in find(problem).order]
        assert 3 in order
        assert order.index(3) == {"first": 0, "last": len(order) - 1, "second": 1}[next(iter(place))]


def test_the_lengths_that_there_can_be_hold_every_order() -> None:
    tracks = candidates(5, 6)
    problem = Problem(tracks, groups_of(5, first=2), Wishes(length_s=600.0, within_s=60.0))
    shortest, longest = problem.seconds_possible
    lengths = [problem.seconds(o) for o in every_order(problem)]
    assert shortest <= min(lengths) + 1e-6
    assert max(lengths) <= longest + 1e-6
    assert longest > 4 * shortest


def test_where_nothing_can_be_proven_the_order_is_found_all_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    problem = Problem(candidates(20, 5), groups_of(20), Wishes(shape=EnergyShape.ANY))
    proven = find(problem)
    monkeypatch.setitem(sys.modules, "fernbrook.solve.circuit", None)
    alone = find(problem)
    assert sorted(problem.group[i] for i in alone.order) == list(range(20))
    assert alone.cost <= proven.cost * 1.2
    assert alone.bound is None or alone.bound <= alone.cost + 1e-9
