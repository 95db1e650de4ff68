"""Where a transition may lie, where it lies when nobody has placed it, and how one is made to fit."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fernbrook.core.hand_over import PHRASE_BARS, HandOver, shape_of
from fernbrook.core.mix import Entry
from fernbrook.core.track import TrackFacts
from fernbrook.core.transition import Kind, Transition

LENGTHS_BARS = (32, 16, 8, 4, 2, 1)
LARGEST_SHARE = 0.2
"""A default overlap takes at most this share of either track."""


@dataclass(frozen=True)
class Room:
    """The spans, in beats of the two entries, within which an overlap must stay."""

    out_from: float
    out_to: float
    in_from: float
    in_to: float

    @property
    def most_beats(self) -> float:
        """The longest overlap that fits at all."""
        return max(0.0, min(self.out_to - self.out_from, self.in_to - self.in_from))


@dataclass(frozen=True)
class Span:
    """The beats of an entry that carry sound."""

    start: float
    end: float
    bar: int

    @classmethod
    def of(cls, entry: Entry, track: TrackFacts) -> Span:
        """The sounding span of an entry in its own beats, from a whole beat to the end of a bar.

        The first sound of a beat may come a hair after it, and the last hit of a track falls short of the bar line
        that closes it; the lines are where the span starts and ends.
        """
        grid = track.riding_grid
        return cls(
            start=float(math.floor(entry.beat_at(grid, track.sound_start_s))),
            end=_up_to(entry.beat_at(grid, track.last_sound_s), grid.beats_per_bar),
            bar=grid.beats_per_bar,
        )

    @property
    def beats(self) -> float:
        return max(0.0, self.end - self.start)


def room_between(out_span: Span, in_span: Span, after: float | None = None, before: float | None = None) -> Room:
    """The room for an overlap of two neighbours.

    ``after`` is where, in the outgoing entry's beats, the overlap before it ends; ``before`` where, in the incoming
    entry's beats, the overlap after it begins.
    """
    return Room(
        out_from=out_span.start if after is None else max(after, out_span.start),
        out_to=max(out_span.end, out_span.start),
        in_from=in_span.start,
        in_to=in_span.end if before is None else min(before, in_span.end),
    )


def default_transition(outgoing: Entry, incoming: Entry, out_span: Span, in_span: Span) -> Transition:
    """The transition of two neighbours that nobody has shaped: the bass changes hands on the middle phrase.

    The overlap takes 32, 16 or fewer bars, by how much of them both tracks have; it starts on a phrase of the
    outgoing as late as it can, and on the first downbeat of the incoming.
    """
    bar = out_span.bar
    in_at = max(0.0, _up_to(in_span.start, bar)) if in_span.end > 0 else in_span.start
    share = LARGEST_SHARE * min(out_span.beats, in_span.end - in_at)
    beats = next((float(n * bar) for n in LENGTHS_BARS if n * bar <= share), 0.0)
    if beats <= 0:
        beats = max(0.25, min(float(bar), out_span.beats / 2, in_span.beats / 2))
    latest = out_span.end - beats
    out_at = _latest_line(latest, bar, floor=out_span.start)
    shape = shape_of(HandOver.BASS, beats, bar)
    return Transition(
        out_id=outgoing.id,
        in_id=incoming.id,
        kind=shape.kind,
        out_at=out_at,
        in_at=in_at,
        beats=beats,
        tempo=shape.tempo,
        outgoing=shape.outgoing,
        incoming=shape.incoming,
    )


def fitted(transition: Transition, room: Room) -> Transition:
    """The transition, moved and shortened as little as needed to stay within its room.

    One that fits is returned as it is. Where there is no room at all it becomes a cut at the end of the outgoing.
    """
    beats = min(transition.beats, room.most_beats)
    out_at = _clamped(transition.out_at, room.out_from, room.out_to - beats)
    in_at = _clamped(transition.in_at, room.in_from, room.in_to - beats)
    if (beats, out_at, in_at) == (transition.beats, transition.out_at, transition.in_at):
        return transition
    kind = transition.kind if beats > 0 else Kind.CUT
    return transition.model_copy(update={"beats": beats, "out_at": out_at, "in_at": in_at, "kind": kind})


def _clamped(value: float, low: float, high: float) -> float:
    return max(low, min(value, high))


def _up_to(beat: float, unit: int) -> float:
    return float(unit * math.ceil(beat / unit - 1e-6))


def _latest_line(latest: float, bar: int, floor: float) -> float:
    """The latest phrase line not after ``latest``, else the latest bar line, else the floor."""
    for unit in (PHRASE_BARS * bar, bar):
        line = float(unit * math.floor(latest / unit + 1e-6))
        if line >= floor:
            return line
    return floor
