"""Shapes: ready sets of curves to start a transition from."""

from __future__ import annotations

import math
from enum import StrEnum
from functools import lru_cache

from pydantic import Field

from fernbrook.core.mix.curves import MIDDLE, MIN_GAP, Control, Curve, Law, Onward
from fernbrook.core.mix.transitions.effects import Effects
from fernbrook.core.mix.transitions.gap import Gap, GapBefore, GapSide
from fernbrook.core.mix.transitions.transition import (
    LONGEST_FADE_S,
    Kind,
    SideCurves,
    TempoPolicy,
    TempoWay,
    Transition,
)
from fernbrook.core.value import MOST_BEATS, Value

PHRASE_BARS = 8


class ReadyShape(StrEnum):
    """The ready-made shapes."""

    EVEN_BLEND = "even_blend"
    BASS = "bass"
    DOUBLE_BLEND = "double_blend"
    FILTER_SWEEP = "filter_sweep"
    ECHO_OUT = "echo_out"
    GAP_AND_DROP = "gap_and_drop"
    RISE_TO_CUT = "rise_to_cut"
    DRUMS_FIRST = "drums_first"
    VOICE_WAITS = "voice_waits"
    MUSIC_STAYS = "music_stays"
    CLEAN_CUT = "clean_cut"


class ShapeLabel(Value):
    """What a ready-made shape is called, and what it does."""

    shape: ReadyShape
    label: str
    about: str


READY: dict[ReadyShape, ShapeLabel] = {
    ready.shape: ready
    for ready in (
        ShapeLabel(
            shape=ReadyShape.EVEN_BLEND,
            label="Even blend",
            about="One fades out while the other fades in, at even power",
        ),
        ShapeLabel(
            shape=ReadyShape.BASS, label="Bass hand-over", about="The bass changes hands on the middle phrase line"
        ),
        ShapeLabel(
            shape=ReadyShape.DOUBLE_BLEND,
            label="Long double blend",
            about="Two phrases with both at full level, and one bass at a time",
        ),
        ShapeLabel(
            shape=ReadyShape.FILTER_SWEEP,
            label="Filter sweep",
            about="The outgoing is swept up and away while the incoming opens from below",
        ),
        ShapeLabel(
            shape=ReadyShape.ECHO_OUT,
            label="Echo out",
            about="A cut, with the last beats of the outgoing echoing on under the incoming",
        ),
        ShapeLabel(
            shape=ReadyShape.GAP_AND_DROP,
            label="Gap and drop",
            about="A bar of nothing but reverb, then the incoming",
        ),
        ShapeLabel(
            shape=ReadyShape.RISE_TO_CUT,
            label="Rise to cut",
            about="Over a phrase the outgoing loses its ground and gains room, then it is cut",
        ),
        ShapeLabel(
            shape=ReadyShape.DRUMS_FIRST,
            label="Drums first",
            about="The incoming arrives as drums alone, the rest of it on the middle phrase line; needs its stems",
        ),
        ShapeLabel(
            shape=ReadyShape.VOICE_WAITS,
            label="Voice waits",
            about="A bass hand-over in which one voice is heard at a time; needs the stems of both",
        ),
        ShapeLabel(
            shape=ReadyShape.MUSIC_STAYS,
            label="Music stays",
            about="Drums and bass change hands on the middle phrase line, the music at the end; needs their stems",
        ),
        ShapeLabel(shape=ReadyShape.CLEAN_CUT, label="Clean cut", about="A switch on the beat"),
    )
}
"""All ready-made shapes, in the order in which they are shown."""


class Manner(Value):
    """How a transition is made, but for its curves and its place: as the fields of the same names in a transition."""

    kind: Kind
    tempo: TempoPolicy
    lead: float = Field(default=0.0, ge=0.0, le=MOST_BEATS)
    seconds: float = Field(default=0.0, ge=0.0, le=LONGEST_FADE_S)
    way: TempoWay = TempoWay()
    volume_law: Law = Law.FADER
    effects: Effects = Effects()
    gap: Gap | None = None


def manner_of(transition: Transition) -> Manner:
    """How a transition is made."""
    return Manner(**{name: getattr(transition, name) for name in Manner.model_fields})


class Shape(Manner):
    """What a shape sets: everything of a transition but where it lies.

    ``beats`` is the length that a blend wishes for; without one it keeps that there is.
    """

    outgoing: SideCurves = SideCurves({})
    incoming: SideCurves = SideCurves({})
    beats: float | None = None


@lru_cache(maxsize=128)
def shape_of(ready: ReadyShape, beats: float, bar: float) -> Shape:
    """A ready-made shape for an overlap of ``beats`` beats (of no account for a cut) in bars of ``bar`` beats."""
    match ready:
        case ReadyShape.EVEN_BLEND:
            shape = _even_blend()
        case ReadyShape.BASS:
            shape = _bass(beats, bar)
        case ReadyShape.DOUBLE_BLEND:
            shape = _double_blend(beats, bar)
        case ReadyShape.FILTER_SWEEP:
            shape = _filter_sweep(beats, bar)
        case ReadyShape.ECHO_OUT:
            shape = _echo_out(bar)
        case ReadyShape.GAP_AND_DROP:
            shape = _gap_and_drop(bar)
        case ReadyShape.RISE_TO_CUT:
            shape = _rise_to_cut(bar)
        case ReadyShape.DRUMS_FIRST:
            shape = _drums_first(beats, bar)
        case ReadyShape.VOICE_WAITS:
            shape = _voice_waits(beats, bar)
        case ReadyShape.MUSIC_STAYS:
            shape = _music_stays(beats, bar)
        case ReadyShape.CLEAN_CUT:
            shape = Shape(kind=Kind.CUT, tempo=TempoPolicy.SWITCH_AT_START)
    return shape


def _even_blend() -> Shape:
    return Shape(
        kind=Kind.BLEND,
        tempo=TempoPolicy.RAMP,
        outgoing=SideCurves.of(volume=Curve.of((0.0, 1.0), (1.0, 0.0))),
        incoming=SideCurves.of(volume=Curve.of((0.0, 0.0), (1.0, 1.0))),
    )


def _bass(beats: float, bar: float) -> Shape:
    """The incoming arrives without its bass; just before the middle phrase line the bass changes hands."""
    swap = middle_phrase(beats, bar) / beats
    out_low, in_low = handed(swap, beats)
    return Shape(
        kind=Kind.BLEND,
        tempo=TempoPolicy.RAMP,
        outgoing=SideCurves.of(
            volume=Curve.of((0.0, 1.0), (max(0.6, swap), 1.0), (1.0, 0.0)),
            low=out_low,
            high=Curve.of((0.0, 1.0), (swap, 1.0), (1.0, 0.35)),
        ),
        incoming=SideCurves.of(
            volume=Curve.of((0.0, 0.0), (min(0.4, swap), 1.0), (1.0, 1.0)),
            low=in_low,
            high=Curve.of((0.0, 0.35), (swap, 1.0), (1.0, 1.0)),
        ),
    )


def _double_blend(beats: float, bar: float) -> Shape:
    """Two phrases: both play at full level through most of it, one bass at a time, no mids on top of mids."""
    wished = 2 * PHRASE_BARS * bar
    swap = middle_phrase(beats, bar) / beats
    out_low, in_low = handed(swap, beats)
    edge = 0.25
    middle = min(max(swap, edge + 0.05), 1.0 - edge - 0.05)
    return Shape(
        kind=Kind.BLEND,
        tempo=TempoPolicy.RAMP,
        beats=wished,
        outgoing=SideCurves.of(
            volume=Curve.of((0.0, 1.0), (1.0 - edge, 1.0), (1.0, 0.0)),
            low=out_low,
            mid=Curve.of((0.0, 1.0), (edge, 1.0), (middle, 0.6), (1.0, 0.4)),
        ),
        incoming=SideCurves.of(
            volume=Curve.of((0.0, 0.0), (edge, 1.0), (1.0, 1.0)),
            low=in_low,
            mid=Curve.of((0.0, 0.4), (middle, 0.6), (1.0 - edge, 1.0), (1.0, 1.0)),
        ),
    )


def handed(swap: float, beats: float) -> tuple[Curve, Curve]:
    """What changes hands on a line at a share of the overlap, within an eighth of a beat before it: at even power, so
    that neither a hole is heard nor two at once, and the first hit on the line has all of its weight."""
    gone = swap - max(min(0.125, beats / 16) / beats, 2 * MIN_GAP)
    return Curve.of((0.0, 1.0), (gone, 1.0), (swap, 0.0), (1.0, 0.0)), Curve.of(
        (0.0, 0.0), (gone, 0.0), (swap, 1.0), (1.0, 1.0)
    )


def _drums_first(beats: float, bar: float) -> Shape:
    """The incoming is drums alone up to the middle phrase line; then it is whole, and the outgoing goes."""
    swap = middle_phrase(beats, bar) / beats
    leaves, comes = handed(swap, beats)
    return Shape(
        kind=Kind.BLEND,
        tempo=TempoPolicy.RAMP,
        outgoing=SideCurves.of(volume=Curve.of((0.0, 1.0), (swap, 1.0), (1.0, 0.0)), bass=leaves),
        incoming=SideCurves.of(
            volume=Curve.of((0.0, 0.0), (min(0.2, swap), 1.0), (1.0, 1.0)), bass=comes, voice=comes, music=comes
        ),
    )


def _voice_waits(beats: float, bar: float) -> Shape:
    """A bass hand-over in which the voices change hands where the basses do."""
    leaves, comes = handed(middle_phrase(beats, bar) / beats, beats)
    shape = _bass(beats, bar)
    return shape.model_copy(
        update={
            "outgoing": shape.outgoing.with_curve(Control.VOICE, leaves),
            "incoming": shape.incoming.with_curve(Control.VOICE, comes),
        }
    )


def _music_stays(beats: float, bar: float) -> Shape:
    """Drums and bass change hands on the middle phrase line; the outgoing's music and voice go on to the end."""
    leaves, comes = handed(middle_phrase(beats, bar) / beats, beats)
    late = Curve.of((0.0, 0.0), (0.85, 0.0), (1.0, 1.0))
    return Shape(
        kind=Kind.BLEND,
        tempo=TempoPolicy.RAMP,
        outgoing=SideCurves.of(volume=Curve.of((0.0, 1.0), (0.85, 1.0), (1.0, 0.0)), drums=leaves, bass=leaves),
        incoming=SideCurves.of(drums=comes, bass=comes, voice=late, music=late),
    )


def _filter_sweep(beats: float, bar: float) -> Shape:
    """The outgoing is swept up and away; the incoming opens from below, its bass from the middle phrase line on."""
    swap = middle_phrase(beats, bar) / beats
    out_low, in_low = handed(swap, beats)
    return Shape(
        kind=Kind.BLEND,
        tempo=TempoPolicy.RAMP,
        outgoing=SideCurves.of(
            volume=Curve.of((0.0, 1.0), (max(0.8, swap), 1.0), (1.0, 0.0)),
            low=out_low,
            filter=Curve.of((0.0, MIDDLE), (swap, 0.6, Onward.SMOOTH), (1.0, 0.95)),
        ),
        incoming=SideCurves.of(
            volume=Curve.of((0.0, 0.0), (min(0.3, swap), 1.0), (1.0, 1.0)),
            low=in_low,
            filter=Curve.of((0.0, 0.15, Onward.SMOOTH), (swap, MIDDLE), (1.0, MIDDLE)),
        ),
        effects=Effects(resonance=0.35),
    )


def _echo_out(bar: float) -> Shape:
    """A cut, over whose last beats the outgoing is sent to an echo that rings on under the incoming."""
    return Shape(
        kind=Kind.CUT,
        tempo=TempoPolicy.SWITCH_AT_START,
        lead=bar,
        outgoing=SideCurves.of(echo=Curve.of((0.0, 0.0), (0.25, 0.0), (0.5, 0.7), (1.0, 0.85))),
        effects=Effects(echo_beats=0.75, echo_feedback=0.6),
    )


def _gap_and_drop(bar: float) -> Shape:
    """A cut after a bar of nothing but the reverb of what was there last."""
    share = 0.5
    return Shape(
        kind=Kind.CUT,
        tempo=TempoPolicy.SWITCH_AT_START,
        lead=2 * bar,
        outgoing=SideCurves.of(reverb=Curve.of((0.0, 0.0), (share - 0.25, 0.0), (share, 0.6), (1.0, 0.6))),
        gap=Gap(beats=min(8.0, max(0.5, bar)), before=GapBefore.END, side=GapSide.OUTGOING),
    )


def _rise_to_cut(bar: float) -> Shape:
    """Over a phrase the outgoing loses its ground and gains room, then the incoming is there at once."""
    return Shape(
        kind=Kind.CUT,
        tempo=TempoPolicy.SWITCH_AT_START,
        lead=PHRASE_BARS * bar,
        outgoing=SideCurves.of(
            filter=Curve.of((0.0, MIDDLE, Onward.SMOOTH), (1.0, 0.85)),
            reverb=Curve.of((0.0, 0.0), (0.5, 0.15), (1.0, 0.5)),
        ),
        effects=Effects(resonance=0.4, reverb_s=1.8),
    )


def fade_shape(seconds: float, law: Law = Law.FADER) -> Shape:
    """A crossfade of so many seconds in which each keeps its own tempo; of equal power, or linear."""
    return _even_blend().model_copy(
        update={"kind": Kind.FADE, "tempo": TempoPolicy.SWITCH_AT_START, "seconds": seconds, "volume_law": law}
    )


def apart_shape(pause_s: float) -> Shape:
    """One ends, a pause, the other begins."""
    return Shape(kind=Kind.APART, tempo=TempoPolicy.SWITCH_AT_START, seconds=pause_s)


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
