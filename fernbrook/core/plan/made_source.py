"""What a made sound is made of, once its place is known: lengths and moments in seconds."""

from __future__ import annotations

from dataclasses import dataclass

from fernbrook.core.mix.layers import MadeSound
from fernbrook.core.tempo_map import TempoMap

ROLL_STEPS = ((0.5, 0.5), (0.25, 0.25), (0.25, 0.125))
"""A roll has hits every half beat in its first half, then twice as dense, then four times."""


@dataclass(frozen=True)
class MadeSource:
    """A sound that is computed: ``length_s`` seconds that begin at 0 by its own clock.

    A roll strikes at ``hits`` with what a track sounds like from ``hit_at_s`` on.
    """

    sound: MadeSound
    length_s: float
    hits: tuple[float, ...] = ()
    hit_at_s: float = 0.0


def roll_hits(tempo: TempoMap, start_beat: float, beats: float) -> tuple[float, ...]:
    """The moments of a roll's hits, in seconds from its start.

    >>> roll_hits(TempoMap.of([(0.0, 120.0)]), 0.0, 4.0)
    (0.0, 0.25, 0.5, 0.75, 1.0, 1.125, 1.25, 1.375, 1.5, 1.5625, 1.625, 1.6875, 1.75, 1.8125, 1.875, 1.9375)
    """
    places: list[float] = []
    at = 0.0
    for share, step in ROLL_STEPS:
        stop = at + share * beats
        while at < stop - 1e-9:
            places.append(at)
            at += step
    times = tempo.time_at([start_beat, *(start_beat + p for p in places)])
    return tuple(float(t) for t in times[1:] - times[0])
