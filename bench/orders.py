"""Orders that are found: how good, and how fast, beside the plain order of nearest neighbours on the same costs."""

from __future__ import annotations

import time
from collections.abc import Iterator

from bench.material import facts, tracks
from bench.rows import Row
from fernbrook.analysis.analyse import analyse
from fernbrook.core.mix.entries import Entry
from fernbrook.core.ordering import Candidate, EnergyShape, Group, Problem, Wishes, candidate_of
from fernbrook.core.track import Energy, KeyFact
from fernbrook.demo.make import DemoTrack
from fernbrook.solve.find import Found, find
from fernbrook.solve.proposals import propose
from fernbrook.solve.warm_up import warm_up
from tests.orders import candidates


def rows() -> Iterator[Row]:
    warm_up()
    demo = [_analysed(track) for track in tracks()]
    yield _against_nearest("the demo library, 10 tracks", [demo], "proven best, in 1 s")
    yield _against_nearest("15 tracks, five draws", [candidates(15, s) for s in range(5)], "proven best, in 1 s")
    yield _against_nearest("60 tracks, five draws", [candidates(60, s) for s in range(20, 25)], "within 3 %, in 10 s")
    yield _against_nearest("200 tracks", [candidates(200, 7)], "-")
    yield _all_aims()


def _analysed(track: DemoTrack) -> Candidate:
    """A demo track as the analysis knows it."""
    found = analyse(track.path).reading
    energy = Energy(first_bar=found.first_bar, by_bar=tuple(found.energy)) if found.energy else None
    known = {"key": KeyFact(key=found.key.key, confidence=found.key.confidence) if found.key else None}
    update = known | {"grid": found.grid, "sections": found.sections, "voice": found.voice, "energy": energy}
    return candidate_of(Entry(id=track.song.file, track_id=track.song.file), facts(track).model_copy(update=update))


def _against_nearest(name: str, draws: list[list[Candidate]], aim: str) -> Row:
    gaps, ratios, seconds = [], [], []
    for draw in draws:
        problem = _problem(draw)
        begun = time.perf_counter()
        found = find(problem)
        seconds.append(time.perf_counter() - begun)
        gaps.append(found.gap)
        ratios.append(min(problem.cost(_nearest(problem, first)) for first in range(len(draw))) / found.cost)
    figure = f"{_gaps(gaps)}, {min(seconds):.1f} to {max(seconds):.1f} s"
    yardstick = f"the best of all orders by nearest neighbours costs {min(ratios):.2f} to {max(ratios):.2f} × as much"
    return Row(f"an order for {name}", figure, yardstick, aim)


def _gaps(gaps: list[float | None]) -> str:
    known = [g for g in gaps if g is not None]
    best = sum(g == 0.0 for g in known)
    if best == len(gaps):
        return "proven best"
    return f"within {100 * min(known):.1f} to {100 * max(known):.1f} % of the best possible"


def _all_aims() -> Row:
    drawn = candidates(60, 20)
    begun = time.perf_counter()
    propose(drawn, [Group(members=(n,)) for n in range(60)], Wishes(), {})
    together = time.perf_counter() - begun
    begun = time.perf_counter()
    alone: Found = find(_problem(drawn))
    one = time.perf_counter() - begun
    figure = f"{together:.0f} s on two cores"
    return Row("four aims for 60 tracks", figure, f"one alone: {one:.0f} s, cost {alone.cost:.1f}", "-")


def _problem(drawn: list[Candidate]) -> Problem:
    return Problem(drawn, [Group(members=(n,)) for n in range(len(drawn))], Wishes(shape=EnergyShape.WAVE))


def _nearest(problem: Problem, first: int) -> tuple[int, ...]:
    """From a first track always to the one that is nearest, as one would by hand."""
    order, left = [first], set(range(len(problem.nodes))) - {first}
    while left:
        order.append(min(left, key=lambda n: float(problem.steps[order[-1], n])))
        left.remove(order[-1])
    return tuple(order)
