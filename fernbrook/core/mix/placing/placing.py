"""Where a transition may lie, where it lies when nobody has placed it, and how each is made to fit."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import pairwise

from fernbrook.core.mix.entries import Arrangement, Entry, Follows, course_of, table_of
from fernbrook.core.mix.model import Fading, Mix, Untouched
from fernbrook.core.mix.placing.proposals import Meeting, Proposal, best_place, proposals
from fernbrook.core.mix.transitions import (
    Kind,
    Side,
    Transition,
    fade_shape,
    middle_phrase,
    reshaped,
    shape_for,
    transition_of,
)
from fernbrook.core.remembered import remembered
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import (
    LARGEST_SHARE,
    BarLines,
    BarTable,
    Cue,
    CueRole,
    KeyFact,
    Relation,
    TrackFacts,
    Tracks,
    chosen,
    relation,
)
from fernbrook.errors import RefusedError

BLEND_BARS = 16
"""How long a blend is that takes the place of something without beats, where there is room."""
FADE_S = 8.0
"""A fade between two tracks of which one has no grid, where the mix says nothing else."""
MIN_FADE_S = 0.05
PLACING_RULES = 1
"""Raise this by one whenever a transition that nobody shaped would come out otherwise than before: those that have been
heard then stay as they were."""


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
    """The beats of an entry that carry sound, which of them begin a bar, and where its cues would have it meet others.

    ``reach`` is how far it can sound where something is repeated until it has left, else its end.
    ``first_sound`` and ``last_sound`` are where it sounds to the moment, ``course`` is its tempo in the mix; an entry
    is ``counted`` where it has a grid. The cues are those that decide: set by hand, else suggested, else None;
    ``own_in`` and ``own_out`` are those set by hand alone.
    """

    start: float
    end: float
    reach: float
    bar: float
    lines: BarLines
    first_sound: float
    last_sound: float
    course: TempoMap
    counted: bool
    mix_in: float | None = None
    mix_out: float | None = None
    alone_from: float | None = None
    own_in: float | None = None
    own_out: float | None = None
    own_clear: float | None = None
    table: BarTable | None = None
    key: KeyFact | None = None

    @classmethod
    def of(cls, entry: Entry, track: TrackFacts) -> Span:
        """The sounding span of an entry in its own beats, from a whole beat to the end of a bar.

        The first sound of a beat may come a hair after it, and the last hit of a track falls short of the bar line
        that closes it; the lines are where the span starts and ends.
        """
        return _span_of(Arrangement.of(entry, track), course_of(entry, track), entry.key_of(track), track)

    @property
    def beats(self) -> float:
        """How many there are."""
        return max(0.0, self.end - self.start)

    @property
    def home_bpm(self) -> float:
        """The tempo at which it begins to sound."""
        return self.bpm_at(self.first_sound)

    def bpm_at(self, beat: float) -> float:
        """Its tempo on a beat."""
        return float(self.course.bpm_at(beat))

    def seconds_between(self, first: float, last: float) -> float:
        """How long it takes by itself from one beat to another."""
        if self.course.is_one_tempo:
            return (last - first) * 60.0 / self.home_bpm
        begin, end = self.course.time_at([first, last])
        return float(end - begin)

    def beats_in(self, seconds: float, *, after: float) -> float:
        """How many beats so many seconds take from a beat on; below 0, how many before it."""
        if self.course.is_one_tempo:
            return seconds * self.home_bpm / 60.0
        return float(self.course.beat_at(self.course.time_at(after) + seconds)) - after

    def beats_of(self, transition: Transition, side: Side) -> float:
        """How many of its beats the curves of its side of a transition run over."""
        at = transition.out_at if side is Side.OUTGOING else transition.in_at
        return transition.beats_on(side, self.beats_in(transition.seconds, after=at))

    def outgoing(self) -> Meeting | None:
        """The entry as it is left, in bars."""
        return self._meeting(self.own_out, self.mix_out)

    def incoming(self) -> Meeting | None:
        """The entry as it is entered, in bars."""
        return self._meeting(self.own_in, self.mix_in)

    def _meeting(self, own: float | None, suggested: float | None) -> Meeting | None:
        if self.table is None:
            return None
        bars = [None if beat is None else float(self.lines.at(beat)) for beat in (own, suggested, self.alone_from)]
        return Meeting(
            table=self.table,
            bar=self.bar,
            lines=self.lines,
            start=float(self.lines.at(self.start)),
            end=float(self.lines.at(self.end)),
            must=bars[0],
            may=bars[1],
            alone_from=bars[2],
            clear_is_set=self.own_clear is not None,
        )


@remembered
def _span_of(heard: Arrangement, course: TempoMap, key: KeyFact | None, track: TrackFacts) -> Span:
    first, reach = heard.extent_of(track.sound_start_s, track.last_sound_s)
    last = min(reach, heard.natural_end)

    def place(cue: Cue | None) -> float | None:
        return heard.place_of(cue.at) if cue else None

    def last_place(cue: Cue | None) -> float | None:
        places = [at for at in heard.places_of(cue.at) if at <= last] if cue else []
        return places[-1] if places else None

    return Span(
        mix_in=place(track.cue_for(CueRole.MIX_IN)),
        mix_out=last_place(track.cue_for(CueRole.MIX_OUT)),
        alone_from=place(track.cue_for(CueRole.ALONE_FROM)),
        own_in=place(chosen(track.cues, CueRole.MIX_IN)),
        own_out=last_place(chosen(track.cues, CueRole.MIX_OUT)),
        own_clear=place(chosen(track.cues, CueRole.ALONE_FROM)),
        table=track.bars if heard.is_whole and not heard.dropped else table_of(heard, track),
        key=key,
        start=float(math.floor(first)),
        end=heard.bar_lines.up(last),
        reach=heard.bar_lines.up(reach),
        bar=heard.bar,
        lines=heard.bar_lines,
        first_sound=first,
        last_sound=last,
        course=course,
        counted=track.grid is not None,
    )


@dataclass(frozen=True)
class Placed:
    """A transition where it lies: ``asked`` is what was shaped or is the default, ``transition`` what fits.

    ``room`` is what it may be moved within, up to where the one after it lies.
    """

    asked: Transition
    transition: Transition
    room: Room
    shaped: bool

    @property
    def most_from_here(self) -> float:
        """The longest overlap that begins where the transition does."""
        t = self.transition
        return min(self.room.out_to - t.out_at, self.room.in_to - t.in_at)


def facts_of(mix: Mix, tracks: Tracks) -> list[TrackFacts]:
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


def spans_of(mix: Mix, tracks: Tracks) -> list[Span]:
    """The sounding span of each entry, in order; raises as ``facts_of`` does. One that goes by the mix has the tempo
    that the one before it ends with."""
    spans: list[Span] = []
    for entry, track in zip(mix.entries, facts_of(mix, tracks), strict=True):
        span = Span.of(entry, track)
        if spans and entry.goes_by(track) is Follows.MIX:
            span = _at_tempo(span, spans[-1].bpm_at(spans[-1].end))
        spans.append(span)
    return spans


@remembered
def _at_tempo(span: Span, bpm: float) -> Span:
    return replace(span, course=TempoMap.steady(bpm))


def placed(mix: Mix, spans: list[Span]) -> list[Placed]:
    """All transitions of a mix, resolved from left to right, each within the room that its neighbours leave."""
    shaped = mix.shaped()
    pairs = [(out.id, into.id) for out, into in pairwise(mix.entries)]
    asked = [
        shaped.get(pair) or default_transition(pair, spans[i], spans[i + 1], mix.untouched)
        for i, pair in enumerate(pairs)
    ]
    rooms: list[Room] = []
    fits: list[Transition] = []
    for i, transition in enumerate(asked):
        after = _over_at(fits[-1], spans[i]) if fits else None
        before = _begins_at(asked[i + 1]) if i + 1 < len(asked) else None
        rooms.append(room_between(spans[i], spans[i + 1], after, before))
        fits.append(fitted(transition, rooms[i], spans[i], spans[i + 1]))
    return [
        _placed(asked[i], fits[i], room, fits[i + 1] if i + 1 < len(fits) else None, pair in shaped)
        for i, (room, pair) in enumerate(zip(rooms, pairs, strict=True))
    ]


@remembered
def _placed(asked: Transition, fits: Transition, room: Room, after: Transition | None, shaped: bool) -> Placed:
    return Placed(asked, fits, _up_to_next(room, after), shaped)


def _over_at(transition: Transition, into: Span) -> float:
    """The beat of the incoming at which a transition is over."""
    return transition.in_at + into.beats_of(transition, Side.INCOMING)


def _begins_at(transition: Transition) -> float:
    """The beat of the outgoing at which a transition begins: that of a cut with its lead."""
    return transition.out_at - transition.lead


def _up_to_next(room: Room, after: Transition | None) -> Room:
    """A room that reaches up to where the transition after it has come to lie."""
    if after is None:
        return room
    return Room(room.out_from, room.out_to, room.in_from, max(room.in_to, _begins_at(after)))


@remembered
def room_between(out_span: Span, in_span: Span, after: float | None = None, before: float | None = None) -> Room:
    """The room for an overlap of two neighbours.

    ``after`` is where, in the outgoing entry's beats, the overlap before it ends; ``before`` where, in the incoming
    entry's beats, the overlap after it begins.
    """
    return Room(
        out_from=out_span.start if after is None else max(after, out_span.start),
        out_to=max(out_span.reach, out_span.start),
        in_from=in_span.start,
        in_to=in_span.reach if before is None else min(before, in_span.reach),
    )


@remembered
def default_transition(pair: tuple[str, str], out: Span, into: Span, untouched: Untouched) -> Transition:
    """The transition of two neighbours that nobody has shaped.

    It lies where the best proposal does (``proposals.py``): on the cues that somebody has set, else where lines meet,
    voices and clashing notes do not, and little is cut off. What is cut is cut on the middle phrase line of that. Where
    a mix is to fade, or one of the two has no grid, it is a fade over the last and the first sound.
    """
    if isinstance(untouched, Fading) or not (out.counted and into.counted):
        return default_fade(pair, out, into, untouched.seconds if isinstance(untouched, Fading) else FADE_S)
    out_at, in_at, beats = default_place(out, into)
    shape = shape_for(untouched, beats, out.bar)
    match shape.kind:
        case Kind.BLEND:
            return transition_of(shape, pair, out_at, in_at, beats)
        case Kind.CUT:
            middle = middle_phrase(beats, out.bar)
            return transition_of(shape, pair, out_at + middle, in_at + middle, 0.0)
        case Kind.FADE:
            return reshaped(default_fade(pair, out, into, shape.seconds), shape, 0.0)
        case Kind.APART:
            return transition_of(shape, pair, out.last_sound, into.first_sound, 0.0)


def default_place(out: Span, into: Span) -> tuple[float, float, float]:
    """Where an overlap lies that nobody has placed: the beat of both on which it begins, and how many it has.

    It is the best of what is proposed; a few beats at the end of the one and the start of the other where there is no
    room for anything.
    """
    outgoing, incoming = out.outgoing(), into.incoming()
    if outgoing is not None and incoming is not None:
        best = best_place(outgoing, incoming, clash_of(out, into))
        if best is not None:
            return best
    beats = max(0.25, min(float(out.bar), out.beats / 2, into.beats / 2))
    in_at = max(0.0, into.lines.up(into.start)) if into.end > beats else into.start
    return _latest_line(out.end - beats, out.lines, floor=out.start), in_at, beats


def proposals_for(room: Room, out: Span, into: Span) -> tuple[Proposal, ...]:
    """Where a transition could lie within its room, the best first; none for entries without a grid."""
    outgoing, incoming = out.outgoing(), into.incoming()
    if outgoing is None or incoming is None or not (out.counted and into.counted):
        return ()
    outgoing = _free(outgoing, room.out_from, min(room.out_to, out.end))
    incoming = _free(incoming, room.in_from, min(room.in_to, into.end))
    return proposals(outgoing, incoming, clash_of(out, into))


def _free(meeting: Meeting, first: float, last: float) -> Meeting:
    """A side of a transition that must stay between two beats."""
    free_from, free_to = (float(bar) for bar in meeting.lines.at([first, last]))
    return replace(meeting, free_from=free_from, free_to=free_to)


def clash_of(out: Span, into: Span) -> float:
    """How sure it is that the keys of two entries clash, from 0 to 1."""
    if out.key is None or into.key is None or relation(out.key.key, into.key.key) is not Relation.CLASH:
        return 0.0
    return out.key.sure * into.key.sure


def default_fade(pair: tuple[str, str], out: Span, into: Span, seconds: float) -> Transition:
    """A fade that begins on the mix-out cue, else ends with the last sound, and starts from the mix-in cue, else from
    the first sound; no longer than a good part of the shorter of the two."""
    most_s = [s.seconds_between(s.first_sound, s.last_sound) for s in (out, into)]
    length_s = max(MIN_FADE_S, min(seconds, *(LARGEST_SHARE * s for s in most_s)))
    out_at = _within(out, out.own_out)
    if out_at is None:
        out_at = out.last_sound + out.beats_in(-length_s, after=out.last_sound)
    in_at = _within(into, into.own_in)
    shape = fade_shape(length_s)
    return transition_of(shape, pair, out_at, into.first_sound if in_at is None else in_at, 0.0)


def _within(span: Span, cue: float | None) -> float | None:
    """A cue that lies where the entry sounds."""
    return cue if cue is not None and span.start <= cue < span.end else None


@remembered
def fitted(transition: Transition, room: Room, out: Span, into: Span) -> Transition:
    """The transition, moved and shortened as little as needed to stay within its room.

    One that fits is returned as it is. Where there is no room at all it becomes a cut at the end of the outgoing.
    """
    t = _shortened(transition, room, out, into)
    out_at = _clamped(t.out_at, room.out_from + t.lead, room.out_to - out.beats_of(t, Side.OUTGOING) + t.lead)
    in_at = _clamped(t.in_at, room.in_from, room.in_to - into.beats_of(t, Side.INCOMING))
    if t is transition and (out_at, in_at) == (transition.out_at, transition.in_at):
        return transition
    return t.model_copy(update={"out_at": out_at, "in_at": in_at})


def _shortened(t: Transition, room: Room, out: Span, into: Span) -> Transition:
    """The transition, no longer than its room."""
    has_out, has_in = (max(0.0, r) for r in (room.out_to - room.out_from, room.in_to - room.in_from))
    match t.kind:
        case Kind.BLEND if t.beats > room.most_beats:
            beats = room.most_beats
            return t.model_copy(update={"beats": beats, "kind": Kind.BLEND if beats > 0 else Kind.CUT})
        case Kind.CUT if t.lead > has_out:
            return t.model_copy(update={"lead": has_out})
        case Kind.FADE:
            has = (out.seconds_between(t.out_at, t.out_at + has_out), into.seconds_between(t.in_at, t.in_at + has_in))
            most_s = min(has)
            if t.seconds > most_s:
                return t.model_copy(update={"seconds": most_s, "kind": Kind.FADE if most_s > 0 else Kind.CUT})
    return t


def _clamped(value: float, low: float, high: float) -> float:
    return max(low, min(value, high))


def _latest_line(latest: float, lines: BarLines, floor: float) -> float:
    """The latest phrase line not after ``latest``, else the latest bar line, else the floor."""
    return next((line for line in (lines.phrase_down(latest), lines.down(latest)) if line >= floor), floor)
