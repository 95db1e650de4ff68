"""Hand-overs: ready-made shapes to start a transition from."""

from __future__ import annotations

import math
from enum import StrEnum
from functools import lru_cache

from fernbrook.core.mix.curve import Curve
from fernbrook.core.mix.transition import Kind, SideCurves, TempoPolicy
from fernbrook.core.value import Value

PHRASE_BARS = 8


class HandOver(StrEnum):
    """The ready-made shapes."""

    EVEN_BLEND = "even_blend"
    BASS = "bass"
    CLEAN_CUT = "clean_cut"


class Shape(Value):
    """What a hand-over sets: everything of a transition but its place and length."""

    kind: Kind
    tempo: TempoPolicy
    outgoing: SideCurves
    incoming: SideCurves


@lru_cache(maxsize=64)
def shape_of(hand_over: HandOver, beats: float, bar: float) -> Shape:
    """The shape of a hand-over for an overlap of ``beats`` beats (of no account for a cut) in bars of ``bar`` beats."""
    match hand_over:
        case HandOver.EVEN_BLEND:
            return Shape(
                kind=Kind.BLEND,
                tempo=TempoPolicy.RAMP,
                outgoing=SideCurves.of(volume=Curve.of((0.0, 1.0), (1.0, 0.0))),
                incoming=SideCurves.of(volume=Curve.of((0.0, 0.0), (1.0, 1.0))),
            )
        case HandOver.BASS:
            return _bass(beats, bar)
        case HandOver.CLEAN_CUT:
            return Shape(
                kind=Kind.CUT, tempo=TempoPolicy.SWITCH_AT_START, outgoing=SideCurves({}), incoming=SideCurves({})
            )


def _bass(beats: float, bar: float) -> Shape:
    """The incoming arrives without its bass; just before the middle phrase line the bass changes hands.

    The outgoing bass falls over half a beat, then the incoming's rises over an eighth, so that at no moment both
    sound and the first kick on the line has all of its weight.
    """
    swap = middle_phrase(beats, bar) / beats
    fall = min(0.5, beats / 8) / beats
    rise = fall / 4
    gone = swap - rise
    return Shape(
        kind=Kind.BLEND,
        tempo=TempoPolicy.RAMP,
        outgoing=SideCurves.of(
            volume=Curve.of((0.0, 1.0), (max(0.6, swap), 1.0), (1.0, 0.0)),
            low=Curve.of((0.0, 1.0), (gone - fall, 1.0), (gone, 0.0), (1.0, 0.0)),
            high=Curve.of((0.0, 1.0), (swap, 1.0), (1.0, 0.35)),
        ),
        incoming=SideCurves.of(
            volume=Curve.of((0.0, 0.0), (min(0.4, swap), 1.0), (1.0, 1.0)),
            low=Curve.of((0.0, 0.0), (gone, 0.0), (swap, 1.0), (1.0, 1.0)),
            high=Curve.of((0.0, 0.35), (swap, 1.0), (1.0, 1.0)),
        ),
    )


def middle_phrase(beats: float, bar: float) -> float:
    """The beat of an overlap nearest to its middle that begins a phrase, else a bar, else the middle itself.

    >>> middle_phrase(64.0, 4.0), middle_phrase(24.0, 4.0), middle_phrase(3.0, 4.0)
    (32.0, 12.0, 2.0)
    """
    for unit in (PHRASE_BARS * bar, bar, 1.0):
        line = unit * math.floor(beats / 2 / unit + 0.5)
        if 0 < line < beats:
            return float(line)
    return beats / 2
