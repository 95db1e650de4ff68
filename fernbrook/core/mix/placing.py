"""Where a transition may lie, where it lies when nobody has placed it, and how each is made to fit."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from fernbrook.core.mix.entry import Entry
from fernbrook.core.mix.hand_over import HandOver, shape_of
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.played import Played
from fernbrook.core.mix.transition import Kind, Transition
from fernbrook.core.track.cue import CueRole
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.track.pencil import LARGEST_SHARE, LENGTHS_BARS, PHRASE_BARS
from fernbrook.errors import RefusedError


class UnknownTrackError(RefusedError):
    """The mix uses a track that is not in the library."""


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
    """The beats of an entry that carry sound, how many of them are a bar, and where its cues would have it meet others.

    The cues are those that decide: set by hand, else pencilled, else None.
    """

    start: float
    end: float
    bar: float
    mix_in: float | None = None
    mix_out: float | None = None
    clear_by: float | None = None

    @classmethod
    def of(cls, entry: Entry, track: TrackFacts) -> Span:
        """The sounding span of an entry in its own beats, from a whole beat to the end of a bar.

        The first sound of a beat may come a hair after it, and the last hit of a track falls short of the bar line
        that closes it; the lines are where the span starts and ends.
        """
        played = Played.of(entry, track)

        def cue(role: CueRole) -> float | None:
            found = track.cue_for(role)
            return played.of_grid(found.at) if found else None

        return cls(
            mix_in=cue(CueRole.MIX_IN),
            mix_out=cue(CueRole.MIX_OUT),
            clear_by=cue(CueRole.CLEAR_BY),
            start=float(math.floor(float(played.beat_at(track.sound_start_s)))),
            end=_up_to(float(played.beat_at(track.last_sound_s)), played.bar),
            bar=played.bar,
        )

    @property
    def beats(self) -> float:
        """How many there are."""
        return max(0.0, self.end - self.start)


@dataclass(frozen=True)
class Placed:
    """A transition where it lies: ``asked`` is what was shaped or is the default, ``transition`` what fits.

    ``room`` is what it may be moved within, up to where the one after it lies.
    """

    asked: Transition
    transition: Transition
    room: Room
    shaped: bool


def facts_of(mix: Mix, tracks: Mapping[str, TrackFacts]) -> list[TrackFacts]:
    """The facts of each entry's track, in order.

    Raises
    ------
    UnknownTrackError
        When one is not among ``tracks``.
    """
    missing = next((e for e in mix.entries if e.track_id not in tracks), None)
    if missing is not None:
        raise UnknownTrackError(f"entry {missing.id} uses track {missing.track_id}, which is not in the library")
    return [tracks[e.track_id] for e in mix.entries]


def spans_of(mix: Mix, tracks: Mapping[str, TrackFacts]) -> list[Span]:
    """The sounding span of each entry, in order; raises as ``facts_of`` does."""
    return [Span.of(entry, track) for entry, track in zip(mix.entries, facts_of(mix, tracks), strict=True)]


def placed(mix: Mix, spans: list[Span]) -> list[Placed]:
    """All transitions of a mix, resolved from left to right, each within the room that its neighbours leave."""
    shaped = mix.shaped()
    pairs = list(pairwise(mix.entries))
    asked = [
        shaped.get((out.id, into.id)) or default_transition(out, into, spans[i], spans[i + 1])
        for i, (out, into) in enumerate(pairs)
    ]
    rooms: list[Room] = []
    fits: list[Transition] = []
    for i, transition in enumerate(asked):
        after = fits[-1].in_at + fits[-1].beats if fits else None
        before = asked[i + 1].out_at if i + 1 < len(asked) else None
        rooms.append(room_between(spans[i], spans[i + 1], after, before))
        fits.append(fitted(transition, rooms[i]))
    return [
        Placed(asked[i], fits[i], _up_to_next(room, fits[i + 1] if i + 1 < len(fits) else None), pair in shaped)
        for i, (room, pair) in enumerate(zip(rooms, ((o.id, n.id) for o, n in pairs), strict=True))
    ]


def _up_to_next(room: Room, after: Transition | None) -> Room:
    """A room that reaches up to where the transition after it has come to lie."""
    if after is None:
        return room
    return Room(room.out_from, room.out_to, room.in_from, max(room.in_to, after.out_at))


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

    It lies from the mix-out cue of the outgoing to the mix-in cue of the incoming, and takes 32, 16 or fewer bars: as
    many as both tracks have, and as end by the clear-by cue of the incoming. Without cues it starts on a phrase of the
    outgoing as late as it can, and on the first downbeat of the incoming.
    """
    bar = out_span.bar
    in_at = _within(in_span, in_span.mix_in)
    if in_at is None:
        in_at = max(0.0, _up_to(in_span.start, in_span.bar)) if in_span.end > 0 else in_span.start
    out_at = _within(out_span, out_span.mix_out)
    most = min(out_span.beats if out_at is None else out_span.end - out_at, in_span.end - in_at)
    if in_span.clear_by is not None and in_span.clear_by > in_at:
        most = min(most, in_span.clear_by - in_at)
    share = min(most, LARGEST_SHARE * out_span.beats, LARGEST_SHARE * (in_span.end - in_at))
    beats = next((float(n * bar) for n in LENGTHS_BARS if n * bar <= share + 1e-6), 0.0)
    if beats <= 0:
        beats = max(0.25, min(float(bar), out_span.beats / 2, in_span.beats / 2, most))
    if out_at is None:
        out_at = _latest_line(out_span.end - beats, bar, floor=out_span.start)
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


def _within(span: Span, cue: float | None) -> float | None:
    """A cue that lies where the entry sounds."""
    return cue if cue is not None and span.start <= cue < span.end else None


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


def _up_to(beat: float, unit: float) -> float:
    return float(unit * math.ceil(beat / unit - 1e-6))


def _latest_line(latest: float, bar: float, floor: float) -> float:
    """The latest phrase line not after ``latest``, else the latest bar line, else the floor."""
    for unit in (PHRASE_BARS * bar, bar):
        line = float(unit * math.floor(latest / unit + 1e-6))
        if line >= floor:
            return line
    return floor
