"""Tracks in the order of one or several columns; those without a value come last either way."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from datetime import UTC, datetime

from fernbrook.core.library.card import Card
from fernbrook.core.library.field import COLUMNS
from fernbrook.errors import RefusedError

MOST_COLUMNS = 4


def _by_fifths(card: Card) -> object | None:
    return None if card.key is None else (card.key.fifths, card.key.minor, card.key.tonic)


ORDERS: dict[str, Callable[[Card], object | None]] = {
    **{column: field.sorts_by for column, field in COLUMNS.items()},
    "key": _by_fifths,
    "added": lambda c: c.added_at or datetime.min.replace(tzinfo=UTC),
}
"""What each column sorts by; the key by the circle of fifths, and not by its letters."""


def ordered(cards: Iterable[Card], columns: Sequence[str]) -> list[Card]:
    """Cards by columns, the first before the others; a minus before a column's name turns it round.

    Raises
    ------
    RefusedError
        When there is no such column.
    """
    result = list(cards)
    for column in reversed(columns[:MOST_COLUMNS]):
        falling, name = column.startswith("-"), column.lstrip("-")
        value = ORDERS.get(name)
        if value is None:
            raise RefusedError(f"There is no column ‘{name}’ to sort by. Known are {', '.join(ORDERS)}.")
        pairs = [(value(card), card) for card in result]
        present = sorted((p for p in pairs if p[0] is not None), key=lambda p: p[0], reverse=falling)  # type: ignore[arg-type, return-value]
        result = [card for _, card in present] + [card for v, card in pairs if v is None]
    return result
