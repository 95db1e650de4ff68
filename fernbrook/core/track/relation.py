"""How two keys relate, in words and as a distance, and how far one would have to be shifted to be a neighbour.

A step on the circle of fifths exchanges one of a key's seven notes; the relative has the same seven. So steps count the
notes that two keys do not share, up to five: the diatonic scales as segments of the line of fifths (E. Regener, "Pitch
Notation and Equal Temperament", 1973). What a listener accepts of the nearer ones, and how much a step further costs,
is a matter of taste, and stands in ``DISTANCES`` and ``CLASHES``.
"""

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


DISTANCES = {Relation.SAME: 0.0, Relation.RELATIVE: 0.05, Relation.NEIGHBOUR: 0.08, Relation.CREATIVE: 0.35}
CLASHES = {1: 0.6, 2: 0.6, 3: 0.7, 4: 0.8, 5: 0.9, 6: 1.0}
"""By steps on the circle of fifths; the fewest are those of keys in different modes."""
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


def fifths_between(one: Key, other: Key) -> int:
    """The shorter way round the circle of fifths from one key to another, -5..6; upwards is sharper.

    >>> [fifths_between(Key.parse("Am"), Key.parse(k)) for k in ("C", "Em", "Dm", "F#m", "Ebm")]
    [0, 1, -1, 3, 6]
    """
    return (other.fifths - one.fifths + 5) % 12 - 5


def distance(one: Key, other: Key) -> float:
    """How far apart two keys are to the ear, from 0, the same, to 1, six fifths away.

    >>> [distance(Key.parse("Am"), Key.parse(k)) for k in ("Am", "C", "Em", "G", "Bbm", "Ebm")]
    [0.0, 0.05, 0.08, 0.35, 0.9, 1.0]
    """
    return DISTANCES.get(relation(one, other), CLASHES.get(abs(fifths_between(one, other)), 0.0))


def relation_words(one: Key, other: Key) -> str:
    """How the other key lies to the one, as a person would say it.

    >>> [relation_words(Key.parse("Am"), Key.parse(k)) for k in ("Em", "Dm", "G", "A")]
    ['up a fifth', 'down a fifth', 'mood change: up a fifth, minor to major', 'mood change: same tonic, minor to major']
    """
    way = fifths_between(one, other)
    up = "up" if way > 0 else "down"
    match relation(one, other):
        case Relation.SAME:
            return "same key"
        case Relation.RELATIVE:
            return "relative key"
        case Relation.NEIGHBOUR:
            return f"{up} a fifth"
        case Relation.CREATIVE:
            if one.minor == other.minor:
                return f"mood change: {up} two fifths"
            mode = "minor to major" if one.minor else "major to minor"
            return f"mood change: {'same tonic' if one.tonic == other.tonic else f'{up} a fifth'}, {mode}"
        case Relation.CLASH:
            return "keys clash"


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
