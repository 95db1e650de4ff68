"""What is known of each track that one can search for and sort by: each said once, searches and orders follow.

A fact that is new has a row here, a field of ``Card``, and what keeps and shows it: a column of the database with its
migration, a field of the list's answer, a column of the page.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from fernbrook.core.library.card import Card, folded

NUMBER = re.compile(r"(\d+)")


@dataclass(frozen=True)
class TextField:
    """One or several texts of a track, looked for by ``name:part of it``. ``column`` sorts by them, read together."""

    name: str
    texts: Callable[[Card], Sequence[str]]
    column: str = ""

    def sorts_by(self, card: Card) -> object | None:
        """Its texts, with numbers in them as numbers; None where there are none."""
        return natural(", ".join(self.texts(card)))


@dataclass(frozen=True)
class NumberField:
    """A number of a track, looked for by ``name:range``.

    ``scale`` leads from what is kept to what is typed; ``near`` is how far from a single number that is typed a value
    may lie.
    """

    name: str
    number: Callable[[Card], float | None]
    scale: float = 1.0
    near: float = 0.0
    column: str = ""

    def typed(self, card: Card) -> float | None:
        """The number as one types it."""
        value = self.number(card)
        return None if value is None else value * self.scale

    def sorts_by(self, card: Card) -> object | None:
        """The number itself."""
        return self.number(card)


FIELDS = (
    TextField("title", lambda c: (c.title,)),
    TextField("artist", lambda c: (c.artist,)),
    TextField("album", lambda c: (c.album,)),
    TextField("genre", lambda c: (c.genre,)),
    TextField("comment", lambda c: (c.comment,)),
    TextField("file", lambda c: (c.file_name,)),
    NumberField("year", lambda c: c.year),
    NumberField("bpm", lambda c: c.bpm, near=0.5),
    NumberField("energy", lambda c: c.energy, scale=10.0, near=0.005),
    NumberField("voice", lambda c: c.voice_share, scale=100.0),
    NumberField("length", lambda c: c.duration_s, near=0.5),
    NumberField("loudness", lambda c: c.loudness_lufs, near=0.05),
    NumberField("peak", lambda c: c.true_peak_dbtp, near=0.05),
    TextField("kind", lambda c: (c.format,)),
    NumberField("bitrate", lambda c: c.bit_rate, scale=0.001),
    NumberField("rate", lambda c: c.rate),
    NumberField("channels", lambda c: c.channels),
    TextField("tag", lambda c: c.tags, column="tags"),
    NumberField("cues", lambda c: c.cues),
    TextField("list", lambda c: c.lists, column="lists"),
    TextField("mix", lambda c: c.used_in, column="used"),
)

TEXTS = {f.name: f for f in FIELDS if isinstance(f, TextField)}
NUMBERS = {f.name: f for f in FIELDS if isinstance(f, NumberField)}
COLUMNS = {f.column or f.name: f for f in FIELDS}


@lru_cache(maxsize=1 << 17)
def natural(text: str) -> tuple[tuple[int, int | str], ...] | None:
    """Text for sorting, its numbers as numbers; None where it is empty.

    >>> natural("Side 2") < natural("Side 10")
    True
    """
    parts = NUMBER.split(folded(text))
    return tuple((0, int(p)) if p.isdigit() else (1, p) for p in parts if p) or None
