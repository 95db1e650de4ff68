"""Which tracks go well after, or before, another: ranked, each with its reasons."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from fernbrook.core.library.card import Card
from fernbrook.core.mix.entries import bent_least
from fernbrook.core.track import FITTING, Relation, distance, relation, relation_words, shift_to_fit

REACH = 0.08
"""A tempo that is farther away than this share is out of reach without a leap."""
UNKNOWN_KEY, UNKNOWN_TEMPO = 0.4, 0.5
SAME_ENERGY = 0.08
SAME_TEMPO = 0.005
MOST = 200
TEMPO_WEIGHT, ENERGY_WEIGHT, TAG_BONUS = 1.0, 0.6, 0.08
MOST_TAGS = 3


@dataclass(frozen=True)
class Fit:
    """How well a track fits: the less ``cost`` the better.

    ``bend`` is how much faster than its own tempo it must play, as a share, at ``count`` beats for each of its own;
    ``shift`` the semitones after which its key would fit.
    """

    id: str
    cost: float
    bend: float | None
    count: float
    relation: Relation | None
    shift: int
    paired: bool
    reasons: tuple[str, ...]


def fits(
    chosen: Card,
    others: Iterable[Card],
    pairings: Mapping[str, str] | None = None,
    reach: float = REACH,
    most: int = MOST,
    *,
    before: bool = False,
) -> list[Fit]:
    """The tracks that fit after a chosen one, or ``before`` it, the best first, ``most`` of them. Tempi are those that
    meet: the one at which the first goes out, the other at which the second comes in.

    Parameters
    ----------
    pairings : the notes of the tracks that are known to go well with it, by id; those come first whatever their tempo
    reach : how far the tempo may be bent, as a share; those beyond it are left out
    """
    known = pairings or {}
    ranked = []
    for other in others:
        met = (chosen.in_bpm, other.out_bpm) if before else (chosen.out_bpm, other.in_bpm)
        bend, count = _bend(*met)
        paired = other.id in known
        if other.id != chosen.id and (paired or bend is None or abs(bend) <= reach):
            ranked.append((not paired, _cost(chosen, other, bend), other.id, other, bend, count))
    ranked.sort(key=lambda r: r[:3])
    return [
        _fit(chosen, other, cost, bend, count, known.get(other.id)) for _, cost, _, other, bend, count in ranked[:most]
    ]


def _cost(chosen: Card, other: Card, bend: float | None) -> float:
    cost = UNKNOWN_TEMPO if bend is None else TEMPO_WEIGHT * abs(bend) / REACH
    cost += distance(chosen.key, other.key) if chosen.key and other.key else UNKNOWN_KEY
    if chosen.energy is not None and other.energy is not None:
        cost += ENERGY_WEIGHT * abs(other.energy - chosen.energy)
    if chosen.tags and other.tags:
        cost -= TAG_BONUS * min(len(set(chosen.tags) & set(other.tags)), MOST_TAGS)
    return round(cost, 4)


def _fit(chosen: Card, other: Card, cost: float, bend: float | None, count: float, note: str | None) -> Fit:
    reasons: list[str] = []
    if note is not None:
        reasons.append(f"paired: {note}" if note else "paired")
    if bend is not None:
        reasons.append(_tempo_words(bend, count))
    if other.comes_bpm and other.leaves_bpm and abs(other.leaves_bpm / other.comes_bpm - 1.0) > SAME_TEMPO:
        reasons.append(f"goes from {other.comes_bpm:.4g} to {other.leaves_bpm:.4g} BPM")
    related = relation(chosen.key, other.key) if chosen.key and other.key else None
    shift = shift_to_fit(chosen.key, other.key) if chosen.key and other.key else 0
    if related is not None and chosen.key and other.key:
        mend = "" if related in FITTING else f", {_signed(shift)} would fit"
        reasons.append(relation_words(chosen.key, other.key) + mend)
    if chosen.energy is not None and other.energy is not None:
        step = other.energy - chosen.energy
        reasons.append("same energy" if abs(step) < SAME_ENERGY else "more energy" if step > 0 else "less energy")
    shared = sorted(set(chosen.tags) & set(other.tags))
    if shared:
        reasons.append("both " + ", ".join(shared[:MOST_TAGS]))
    return Fit(other.id, cost, bend, count, related, shift, note is not None, tuple(reasons))


def _bend(one: float | None, other: float | None) -> tuple[float | None, float]:
    """How much faster the other must play to ride with the one, at whichever count that is least."""
    if not one or not other:
        return None, 1.0
    return bent_least(one, other)


def _tempo_words(bend: float, count: float) -> str:
    at = {0.5: " at half time", 2.0: " at double time"}.get(count, "")
    percent = f"{abs(bend) * 100:.1f} %"
    return f"same tempo{at}" if abs(bend) < 0.0005 else f"{percent} {'faster' if bend > 0 else 'slower'}{at}"


def _signed(semitones: int) -> str:
    return f"{semitones:+d} semitone{'' if abs(semitones) == 1 else 's'}".replace("-", "−")
