"""Tracks in the order of one or several columns; those without a value come last either way."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from datetime import UTC, datetime
from functools import lru_cache

from fernbrook.core.library.card import Card, folded
from fernbrook.errors import RefusedError

NUMBER = re.compile(r"(\d+)")
MOST_COLUMNS = 4

Value = object


@lru_cache(maxsize=1 << 17)
def natural(text: str) -> tuple[tuple[int, int | str], ...] | None:
    """Text for sorting, its numbers as numbers; None where it is empty.

    >>> natural("Side 2") < natural("Side 10")
    True
    """
    parts = NUMBER.split(folded(text))
    return tuple((0, int(p)) if p.isdigit() else (1, p) for p in parts if p) or None


def _by_fifths(card: Card) -> Value:
    return None if card.key is None else (card.key.fifths, card.key.minor, card.key.tonic)


ORDERS: dict[str, Callable[[Card], Value]] = {
    "title": lambda c: natural(c.title),
    "artist": lambda c: natural(c.artist),
    "album": lambda c: natural(c.album),
    "genre": lambda c: natural(c.genre),
    "comment": lambda c: natural(c.comment),
    "file": lambda c: natural(c.file_name),
    "year": lambda c: c.year,
    "bpm": lambda c: c.bpm,
    "key": _by_fifths,
    "energy": lambda c: c.energy,
    "voice": lambda c: c.voice,
    "length": lambda c: c.duration_s,
    "loudness": lambda c: c.loudness_lufs,
    "peak": lambda c: c.true_peak_dbtp,
    "kind": lambda c: natural(c.kind),
    "bitrate": lambda c: c.bit_rate,
    "rate": lambda c: c.rate,
    "channels": lambda c: c.channels,
    "tags": lambda c: natural(", ".join(c.tags)),
    "cues": lambda c: c.cues,
    "lists": lambda c: natural(", ".join(c.lists)),
    "added": lambda c: c.added_at or datetime.min.replace(tzinfo=UTC),
    "used": lambda c: natural(", ".join(c.used_in)),
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
