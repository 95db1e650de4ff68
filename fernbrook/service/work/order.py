"""Finding orders for a mix."""

from __future__ import annotations

from pathlib import Path

from fernbrook.core.ordering import Candidate, Group, Wishes
from fernbrook.core.value import Value
from fernbrook.service.work.worker import Report, Result
from fernbrook.solve.proposals import propose


class SearchOrder(Value):
    """What is to be ordered, what of it is kept together or fixed, what is wished, and saved pairings with their
    notes."""

    candidates: tuple[Candidate, ...]
    groups: tuple[Group, ...]
    wishes: Wishes
    pairings: tuple[tuple[str, str, str], ...] = ()


def find_orders(order: SearchOrder, root: Path, report: Report) -> Result:
    """Find several orders, and return them as JSON."""
    del root
    known = {(first, second): note for first, second, note in order.pairings}
    return {"proposed": propose(order.candidates, order.groups, order.wishes, known, report).model_dump(mode="json")}
