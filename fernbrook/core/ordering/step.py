"""The step from one track to the next: what it is in words and numbers, and what it costs.

Costs are in one unit: 1 is what a mix bears once, a tempo bent by 8 % or keys six fifths apart.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from fernbrook.core.library import REACH, SAME_ENERGY, UNKNOWN_KEY, UNKNOWN_TEMPO
from fernbrook.core.ordering.candidate import Candidate
from fernbrook.core.ordering.wishes import Weights
from fernbrook.core.remembered import remembered
from fernbrook.core.track import FITTING, Relation, distance, relation, relation_words, shift_to_fit

ENOUGH_BARS = 16.0
"""Room for a transition of so many bars is enough; half of that costs a quarter."""
SAME_ARTIST = 0.5
"""One artist twice in a row; with one other between it is half of that."""
UNUSED_PAIRING = 0.5
"""A track is followed by another than one that is saved as going well after it, though that is there."""
LEFT_OUT = 1.0
"""What it costs to leave an entry out: those stay whose place costs less."""
SHIFTED = 0.15
"""What a key shift of a semitone costs."""
A_LEAP, LARGER = 1.5, 0.1
"""What a tempo out of reach costs, and each further 8 % of it."""
SMALL_SHIFT = 2
"""A key that can be made to work as it is is worth a shift of so many semitones, and not of more."""
EVEN = 0.0005
"""A bend by less is none."""


@dataclass(frozen=True)
class Step:
    """What lies between two neighbours.

    ``bend`` is by how much faster than its own the incoming must play to ride at the outgoing's tempo, as a share,
    at the counts that both have; None where a tempo is not known. ``count`` is the count of the incoming at which the
    bend is least, and ``best_bend`` that. ``shift`` are the semitones after which the incoming's key would fit.
    """

    bend: float | None
    best_bend: float | None
    count: float
    relation: Relation | None
    shift: int
    room_bars: float
    pairing: str | None
    tempo_words: str
    key_words: str
    energy_words: str

    @property
    def is_leap(self) -> bool:
        """Whether the tempo is out of reach, however it is counted."""
        return self.best_bend is not None and abs(self.best_bend) > REACH


@remembered
def step_between(out: Candidate, into: Candidate, pairing: str | None = None) -> Step:
    """The step from one candidate to another; ``pairing`` is the note of a saved pairing of the two."""
    bend = out.out_bpm / into.bpm - 1.0 if out.out_bpm and into.bpm else None
    count, best = best_count(out, into)
    related = relation(out.key, into.key) if out.key and into.key else None
    shift = shift_to_fit(out.key, into.key) if out.key and into.key else 0
    energy = into.energy - out.energy if out.energy is not None and into.energy is not None else None
    return Step(
        bend=bend,
        best_bend=best,
        count=count,
        relation=related,
        shift=shift,
        room_bars=min(out.goes_out, into.comes_in),
        pairing=pairing,
        tempo_words=_tempo_words(out, into, bend, best, count),
        key_words=_key_words(out, into, related, shift),
        energy_words=_energy_words(energy),
    )


def best_count(out: Candidate, into: Candidate) -> tuple[float, float | None]:
    """The count of the incoming at which it must be bent least, and by how much."""
    if not out.out_bpm or not into.bpm or not into.own_bpm:
        return into.count, None
    bends = {c: out.out_bpm / (into.bpm * c / into.count) - 1.0 for c in into.counts}
    best = min(bends, key=lambda c: (round(abs(bends[c]), 9), c != into.count, c))
    return best, bends[best]


def _tempo_words(out: Candidate, into: Candidate, bend: float | None, best: float | None, count: float) -> str:
    if bend is None or out.out_bpm is None or into.bpm is None:
        return "tempo unknown"
    if abs(bend) < EVEN:
        return "same tempo"
    words = f"{_signed(100 * (into.bpm / out.out_bpm - 1.0), 1)} %, {_signed(into.bpm - out.out_bpm)} BPM"
    if best is None or count == into.count or abs(best) >= abs(bend):
        return words
    how = {0.5: "half", 1.0: "single", 2.0: "double"}[count]
    share = "the same" if abs(best) < EVEN else f"{_signed(100 * (1.0 / (1.0 + best) - 1.0), 1)} %"
    return f"{words}; {share} at {how} count"


def _key_words(out: Candidate, into: Candidate, related: Relation | None, shift: int) -> str:
    if out.key is None or into.key is None or related is None:
        return "key unknown"
    words = relation_words(out.key, into.key)
    if related in FITTING or (related is Relation.CREATIVE and abs(shift) > SMALL_SHIFT):
        return words
    return f"{words}; {_signed(shift)} semitone{'' if abs(shift) == 1 else 's'} would fit"


def _energy_words(step: float | None) -> str:
    if step is None:
        return "energy unknown"
    if abs(step) < SAME_ENERGY:
        return "same energy"
    return f"{_signed(100 * step)} % energy"


def _signed(value: float, digits: int = 2) -> str:
    text = f"{value:+.{digits}f}"
    return (text.rstrip("0").rstrip(".") if "." in text else text).replace("-", "−")


def tempo_cost(out: Candidate, into: Candidate) -> float:
    """What a tempo step costs, as ``bent`` has it.

    Half and double time count as the same where either of the two may be counted so.
    """
    if not out.out_bpm or not into.bpm:
        return UNKNOWN_TEMPO
    octaves = math.log2(into.bpm / out.out_bpm)
    if len(out.counts) > 1 or len(into.counts) > 1:
        octaves -= round(octaves)
    return bent(2.0 ** abs(octaves) - 1.0)


def bent(share: float) -> float:
    """What a tempo bent by a share costs.

    Within reach it is convex: two small steps are better than one large. Beyond it a leap is a leap, whose size matters
    little: one cuts, or changes inside a break.

    >>> bent(0.0), round(bent(0.04), 3), bent(0.08), round(bent(0.16), 3), round(bent(0.4), 3)
    (0.0, 0.375, 1.0, 1.6, 1.9)
    """
    reaches = share / REACH
    return reaches * (1.0 + reaches) / 2.0 if reaches <= 1.0 else A_LEAP + LARGER * (reaches - 1.0)


def key_cost(out: Candidate, into: Candidate) -> float:
    """What a key step costs: the distance as far as both keys are believed, else what an unknown one does."""
    if out.key is None or into.key is None:
        return UNKNOWN_KEY
    sure = out.sure * into.sure
    return sure * distance(out.key, into.key) + (1.0 - sure) * UNKNOWN_KEY


def room_cost(out: Candidate, into: Candidate) -> float:
    """What it costs that the transition of two tracks has little room."""
    lacks = max(0.0, 1.0 - min(out.goes_out, into.comes_in) / ENOUGH_BARS)
    return lacks * lacks


def meeting_cost(out: Candidate, into: Candidate, weights: Weights) -> float:
    """What it costs that two tracks meet, whoever they are by and whatever comes before and after."""
    cost = weights.tempo * tempo_cost(out, into) + weights.key * key_cost(out, into)
    return cost + weights.room * room_cost(out, into)


def same_artist(out: Candidate, into: Candidate) -> bool:
    """Whether two tracks are known to be by one artist."""
    return bool(out.artist) and out.artist.casefold() == into.artist.casefold()
