"""Several orders to choose from: each good at something, all of them weighed by the same wishes."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from threading import Lock

from fernbrook.core.ordering import (
    Aim,
    Candidate,
    EnergyShape,
    Group,
    Pairings,
    Problem,
    Proposal,
    Proposed,
    Weights,
    Wishes,
    appraised,
    best_counts,
)
from fernbrook.solve.find import Found, find

ABOVE_ALL, BESIDES = 4.0, 0.25


def propose(
    candidates: Sequence[Candidate],
    groups: Sequence[Group],
    wishes: Wishes,
    pairings: Pairings,
    report: Callable[[float], None] = lambda _: None,
) -> Proposed:
    """Find an order for each aim. The same input gives the same orders.

    Parameters
    ----------
    groups : what is kept together; those that are needed in the order that there is at present
    report : is told the share done
    """
    whole = Problem(candidates, groups, wishes, pairings)
    present = tuple(i for i, n in enumerate(whole.nodes) if not n.shift and groups[n.group].needed)
    told = _Progress(report, len(Aim))
    aims = [a for a in Aim if a is not Aim.SHAPE or wishes.shape is not EnergyShape.ANY]

    def found_for(aim: Aim) -> Found:
        problem = whole if aim is Aim.TOGETHER else Problem(candidates, groups, _wishes_for(aim, wishes), pairings)
        return find(problem, present, told.of(aim))

    with ThreadPoolExecutor(max_workers=min(len(aims), os.cpu_count() or 1)) as pool:
        found = list(pool.map(found_for, aims))
    orders: dict[tuple[int, ...], list[tuple[Aim, Found]]] = {}
    for aim, each in zip(aims, found, strict=True):
        orders.setdefault(each.order, []).append((aim, each))
    return Proposed(
        present=_proposal(whole, present, (), 0.0, recount=False),
        proposals=tuple(
            _proposal(whole, order, tuple(a for a, _ in each), each[0][1].gap) for order, each in orders.items()
        ),
    )


def _wishes_for(aim: Aim, wishes: Wishes) -> Wishes:
    """The wishes with one of them above all, and the shape out of the way of tempo and key."""
    given = wishes.weights
    besides = {name: getattr(given, name) * BESIDES for name in Weights.model_fields}
    raised = {Aim.TEMPO: "tempo", Aim.KEY: "key", Aim.SHAPE: "energy"}[aim]
    weights = besides | {raised: min(max(getattr(given, raised), 1.0) * ABOVE_ALL / 2.0, ABOVE_ALL)}
    weights |= {"pairing": given.pairing, "artist": given.artist}
    if aim is not Aim.SHAPE:
        weights["energy"] = 0.0
    return wishes.model_copy(update={"weights": Weights(**weights)})


def _proposal(
    problem: Problem, order: tuple[int, ...], aims: tuple[Aim, ...], gap: float | None, recount: bool = True
) -> Proposal:
    seated = [face for node in order for face in problem.faces[node]]
    seats = best_counts(seated) if recount else seated
    used = {m for node in order for m in problem.nodes[node].members}
    unused = (c for i, c in enumerate(problem.candidates) if i not in used and c.entry_id is not None)
    return Proposal(
        aims=aims,
        seats=tuple(seats),
        left_out=tuple(unused),
        appraisal=appraised(problem, order, seats),
        gap=gap,
    )


class _Progress:
    """How far all aims are together."""

    def __init__(self, report: Callable[[float], None], aims: int) -> None:
        self._report = report
        self._shares = dict.fromkeys(Aim, 0.0)
        self._aims = aims
        self._lock = Lock()

    def of(self, aim: Aim) -> Callable[[float], None]:
        """What one aim is to tell its own share."""

        def tell(share: float) -> None:
            with self._lock:
                self._shares[aim] = share
                self._report(sum(self._shares.values()) / self._aims)

        return tell
