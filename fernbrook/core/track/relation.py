"""How two keys relate, in words, and how far one would have to be shifted to be a neighbour."""

from __future__ import annotations

from enum import StrEnum
from functools import cache

from fernbrook.core.track.key import Key

MOST_SHIFT = 6


class Relation(StrEnum):
    """From the same notes to none that agree."""

    SAME = "same"
    RELATIVE = "relative"
    NEIGHBOUR = "neighbour"
    CREATIVE = "creative"
    CLASH = "clash"


FITTING = frozenset({Relation.SAME, Relation.RELATIVE, Relation.NEIGHBOUR})
"""Keys that share all notes but one, or all of them."""


def relation(one: Key, other: Key) -> Relation:
    """How two keys relate.

    A neighbour lies a fifth away, the relative has the same notes in the other mode. Creative is what can be made to
    work: two fifths away, a fifth away in the other mode, or the other mode on the same tonic.

    >>> [relation(Key.parse("Am"), Key.parse(k)).value for k in ("Am", "C", "Em", "G", "A", "Eb")]
    ['same', 'relative', 'neighbour', 'creative', 'creative', 'clash']
    """
    return _table()[_place(one)][_place(other)]


def shift_to_fit(one: Key, other: Key) -> int:
    """The smallest shift of the other key, in semitones, after which it fits; down before up where both are alike.

    >>> shift_to_fit(Key.parse("Am"), Key.parse("Em")), shift_to_fit(Key.parse("Am"), Key.parse("Bbm"))
    (0, -1)
    """
    shifts = sorted(range(-MOST_SHIFT, MOST_SHIFT + 1), key=lambda s: (abs(s), s))
    return next(s for s in shifts if relation(one, other.shifted(s)) in FITTING)


def _place(key: Key) -> int:
    return key.tonic + 12 * key.minor


@cache
def _table() -> tuple[tuple[Relation, ...], ...]:
    """All relations, for lists of ten thousand tracks."""
    keys = [Key(tonic=t, minor=m) for m in (False, True) for t in range(12)]
    return tuple(tuple(_relation(one, other) for other in keys) for one in keys)


def _relation(one: Key, other: Key) -> Relation:
    away = min((one.fifths - other.fifths) % 12, (other.fifths - one.fifths) % 12)
    if one.minor == other.minor:
        return {0: Relation.SAME, 1: Relation.NEIGHBOUR, 2: Relation.CREATIVE}.get(away, Relation.CLASH)
    if away == 0:
        return Relation.RELATIVE
    return Relation.CREATIVE if away == 1 or one.tonic == other.tonic else Relation.CLASH
