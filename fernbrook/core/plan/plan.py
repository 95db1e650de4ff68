"""The plan: everything about a mix resolved in one place. The interface draws it, the renderer plays its parts."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fernbrook.core.mix.arrangement import CLOSE, Arrangement
from fernbrook.core.mix.effects import LONGEST_TAIL_S
from fernbrook.core.mix.entry import Entry
from fernbrook.core.mix.levels import Level, levels_of
from fernbrook.core.mix.meeting import breath_of
from fernbrook.core.mix.mix import Crossovers, Mix
from fernbrook.core.mix.placing import Placed, Room, Span, facts_of, placed
from fernbrook.core.mix.played import Played
from fernbrook.core.mix.transition import Kind, Side, Transition
from fernbrook.core.plan.bars import Bars, BarSpan
from fernbrook.core.plan.clocks import Clocks, Lane, clocks_of
from fernbrook.core.plan.entry_snags import snags_of_entry, snags_of_levels
from fernbrook.core.plan.leaps import Leap
from fernbrook.core.plan.part import Automation, Part, Silence, StemGap
from fernbrook.core.plan.snag import Snag
from fernbrook.core.plan.tempo_map import TempoMap
from fernbrook.core.plan.time_map import Segment, TimeMap, segments_of
from fernbrook.core.plan.transition_snags import Met, snags_of_transition
from fernbrook.core.track.cue import CueRole, chosen
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.track.grid import STAND_IN_BPM, FloatArray
from fernbrook.core.track.section import Section, VoiceSpan

RATE = 44_100
"""Samples per second of every mix: the rate at which nearly all of a DJ's material comes."""
STAND_IN_BAR = 4.0


@dataclass(frozen=True)
class PlannedSide:
    """The span over which the curves of one side of a transition run, by the clock of that side's entry."""

    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    slowest_bpm: float
    silence: Silence | None


@dataclass(frozen=True)
class PlannedTransition:
    """A transition in its place, by the clock of the mix. ``shaped`` tells whether the user has touched it.

    A fade begins and ends at moments; its two sides' spans are by clocks of their own. Where the two are apart it lies
    from the end of the one to the start of the other.
    """

    index: int
    transition: Transition
    room: Room
    shaped: bool
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    outgoing: PlannedSide
    incoming: PlannedSide

    def side(self, side: Side) -> PlannedSide:
        """The span of one side."""
        return self.outgoing if side is Side.OUTGOING else self.incoming

    def automation(self, side: Side) -> Automation | None:
        """The curves of one side over its span; None where it has none."""
        span, t = self.side(side), self.transition
        if span.end_beat <= span.start_beat:
            return None
        return Automation(
            start_beat=span.start_beat,
            end_beat=span.end_beat,
            start_s=span.start_s,
            end_s=span.end_s,
            curves=t.curves(side),
            volume_law=t.volume_law,
            effects=t.effects,
            slowest_bpm=span.slowest_bpm,
        )


@dataclass(frozen=True)
class PlannedEntry:
    """An entry in its place: where it sounds, how it is read, and how it arrives and leaves."""

    index: int
    entry: Entry
    track: TrackFacts
    heard: Arrangement
    span: Span
    offset: float
    home_bpm: float
    level: Level
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    tempo: TempoMap
    segments: tuple[Segment, ...]
    crossovers: Crossovers
    arrival: PlannedTransition | None
    departure: PlannedTransition | None

    @property
    def gain_db(self) -> float:
        """The gain at which it plays."""
        return self.level.gain_db

    @property
    def played(self) -> Played:
        """How its beats lie in its track up to its first edit."""
        return self.heard.pieces[0].played

    @property
    def time_map(self) -> TimeMap:
        """How it is read up to its first edit."""
        return self.segments[0].time_map

    def source_at(self, mix_times: FloatArray) -> FloatArray:
        """Seconds of its track at seconds of the mix that rise; same shape."""
        places = np.searchsorted([s.start_s for s in self.segments[1:]], mix_times, side="right")
        source = np.zeros(np.shape(mix_times))
        for place in np.unique(places):
            here = places == place
            source[here] = self.segments[place].time_map.source_at(mix_times[here])
        return source

    def farthest_speed(self, start_beat: float, end_beat: float) -> float:
        """The speed between two beats of its clock that differs most from its own."""
        speeds = [
            m.farthest_speed(max(m.start_beat, start_beat), min(m.end_beat, end_beat))
            for m in {id(s.time_map): s.time_map for s in self.segments}.values()
            if m.start_beat <= end_beat and start_beat <= m.end_beat
        ]
        return max(speeds, key=lambda s: abs(s - 1.0), default=1.0)

    @property
    def voice(self) -> tuple[VoiceSpan, ...]:
        """Where somebody sings, in the entry's beats."""
        return self.heard.voice(self.track.voice)

    @property
    def cues(self) -> dict[str, list[float]]:
        """The cues of its track that were set by hand: on which beats of the entry they are heard, by id."""
        return {c.id: self.heard.places_of(c.at) for c in self.track.cues}

    @cached_property
    def sections(self) -> tuple[Section, ...]:
        """What it consists of, in the entry's beats."""
        return self.heard.sections(self.track.sections)

    @property
    def _stem_gaps(self) -> Iterator[StemGap]:
        """The spans of the mix in which some of its stems are silent by an edit."""
        for gap in self.heard.gaps:
            if gap.stems:
                start_s, end_s = self.tempo.time_at([gap.start + self.offset, gap.end + self.offset])
                yield StemGap(float(start_s), float(end_s), gap.stems)

    @property
    def _drop_outs(self) -> Iterator[Silence]:
        """The spans of the mix in which all of it is silent by an edit; what rings goes on."""
        for gap in self.heard.gaps:
            if not gap.stems:
                start_s, end_s = (
                    float(t) for t in self.tempo.time_at([gap.start + self.offset, gap.end + self.offset])
                )
                yield Silence(start_s, end_s, rings=True)

    @property
    def part(self) -> Part:
        """The entry as the renderer plays it."""
        sides = [(t, side) for t, side in ((self.arrival, Side.INCOMING), (self.departure, Side.OUTGOING)) if t]
        automations = (t.automation(side) for t, side in sides)
        silences = (t.side(side).silence for t, side in sides)
        return Part(
            owner=self.entry.id,
            source=self.track.id,
            name=self.track.title,
            start_s=self.start_s,
            end_s=self.end_s,
            tempo=self.tempo,
            segments=self.segments,
            gain_db=self.gain_db,
            pitch=2.0 ** (self.entry.key_shift / 12.0),
            automations=tuple(a for a in automations if a is not None),
            silences=(*(s for s in silences if s is not None), *self._drop_outs),
            stem_gaps=tuple(self._stem_gaps),
            has_stems=self.track.stems is not None,
            crossovers=self.crossovers,
            comes_in=self.arrival is not None,
            goes=self.departure is not None,
        )


@dataclass(frozen=True)
class Plan:
    """A mix, resolved. Times are seconds from its start, beats those of the mix."""

    mix: Mix
    entries: tuple[PlannedEntry, ...]
    transitions: tuple[PlannedTransition, ...]
    tempo: TempoMap
    duration_s: float
    snags: tuple[Snag, ...]

    @property
    def frames(self) -> int:
        """Length of the mix in samples."""
        return round(self.duration_s * RATE)

    @property
    def parts(self) -> tuple[Part, ...]:
        """All that sounds, in order of the entries."""
        return tuple(e.part for e in self.entries)

    @cached_property
    def bars(self) -> Bars:
        """The bars of the mix. In the middle of an overlap the incoming entry begins to lead."""
        if not self.entries:
            return Bars((BarSpan(0.0, 0.0, STAND_IN_BAR),), self.tempo)
        return Bars(tuple(BarSpan(_leads_from(e), e.offset, e.played.bar) for e in self.entries), self.tempo)


def _leads_from(entry: PlannedEntry) -> float:
    """The beat from which an entry's bars are those of the mix: the middle of an overlap, or where a pause is over."""
    arrival = entry.arrival
    if arrival is None:
        return entry.start_beat
    return arrival.end_beat if arrival.transition.kind is Kind.APART else (arrival.start_beat + arrival.end_beat) / 2


def plan(mix: Mix, tracks: Mapping[str, TrackFacts]) -> Plan:
    """Resolve a mix.

    Raises
    ------
    UnknownTrackError
        When an entry's track is not among ``tracks``.
    """
    if not mix.entries:
        return Plan(mix, (), (), TempoMap.of([(0.0, STAND_IN_BPM)]), 0.0, ())
    facts = facts_of(mix, tracks)
    spans = [Span.of(entry, track) for entry, track in zip(mix.entries, facts, strict=True)]
    lanes = [_lane(entry, track) for entry, track in zip(mix.entries, facts, strict=True)]
    resolved = placed(mix, spans)
    origin = _first_beat(mix.entries[0], facts[0])
    clocks = clocks_of(mix, lanes, resolved, origin)
    levels = levels_of(mix, facts)
    transitions = tuple(_clocked(i, p, clocks) for i, p in enumerate(resolved))
    entries = tuple(
        _planned_entry(i, mix, facts[i], spans[i], lanes[i], clocks, transitions, origin, levels.entries[i])
        for i in range(len(mix.entries))
    )
    snags = [s for e in entries for s in snags_of_entry(e.index, e.entry.id, e.track)]
    snags += snags_of_levels(mix, facts, levels)
    for here, there in zip(resolved, transitions, strict=True):
        snags += snags_of_transition(_met(here, there, entries[there.index], entries[there.index + 1]))
    snags = [s.model_copy(update={"is_meant": True}) if s.key in mix.meant else s for s in snags]
    return Plan(mix, entries, transitions, clocks.mix, entries[-1].end_s, tuple(snags))


def _met(here: Placed, there: PlannedTransition, out: PlannedEntry, into: PlannedEntry) -> Met:
    clear = chosen(into.track.cues, CueRole.CLEAR_BY)
    return Met(
        index=there.index,
        asked=here.asked,
        transition=there.transition,
        out=out.span,
        into=into.span,
        out_voice=out.voice,
        in_voice=into.voice,
        speeds=(_bend(out, there.outgoing), _bend(into, there.incoming)),
        into_title=into.track.title,
        clear_name=f"‘{clear.name}’" if clear and clear.name else "its clear-by cue",
        shift=into.entry.key_shift,
        out_cues=out.cues,
        in_cues=into.cues,
        out_stems=out.track.stems.offered if out.track.stems else (),
        in_stems=into.track.stems.offered if into.track.stems else (),
        leap=Leap(
            transition=there.transition,
            room=here.room,
            bar=out.played.bar,
            bpm=(out.home_bpm, into.home_bpm),
            in_count=into.entry.count,
            out_sections=out.sections,
            in_sections=into.sections,
        ),
    )


def _first_beat(entry: Entry, track: TrackFacts) -> float:
    """The mix starts at its first entry's start cue, else where its file starts, silence and pick-up included."""
    heard = Arrangement.of(entry, track)
    file_start, _ = heard.extent_of(0.0, track.duration_s)
    start = chosen(track.cues, CueRole.START)
    at = heard.place_of(start.at) if start else None
    return file_start if at is None else max(file_start, at)


def _lane(entry: Entry, track: TrackFacts) -> Lane:
    heard = Arrangement.of(entry, track)
    wanders = not track.riding_grid.is_constant and heard.is_whole
    return Lane(heard.pieces[0].played, entry.home_bpm(track), as_recorded=entry.tempo is None and wanders)


def _clocked(index: int, place: Placed, clocks: Clocks) -> PlannedTransition:
    t = place.transition
    out, into = clocks.tempi[index], clocks.tempi[index + 1]
    leaves = clocks.offsets[index] + t.out_at
    arrives = leaves if t.is_locked else clocks.offsets[index + 1] + t.in_at
    leaves_s, arrives_s = float(out.time_at(leaves)), float(into.time_at(arrives))
    sounding = 0.0 if t.kind is Kind.APART else t.seconds
    goes, comes = leaves + t.beats, arrives + t.beats
    if t.kind is Kind.FADE:
        goes, comes = float(out.beat_at(leaves_s + sounding)), float(into.beat_at(arrives_s + sounding))
    start_s, end_s = leaves_s, arrives_s if t.kind is Kind.APART else float(out.time_at(goes))
    start, end = (float(b) for b in clocks.mix.beat_at([start_s, end_s])) if not t.is_locked else (leaves, goes)
    return PlannedTransition(
        index=index,
        transition=t,
        room=place.room,
        shaped=place.shaped,
        start_beat=start,
        end_beat=end,
        start_s=start_s,
        end_s=end_s,
        outgoing=_side(Side.OUTGOING, t, out, leaves - t.lead, goes),
        incoming=_side(Side.INCOMING, t, into, arrives, comes),
    )


def _side(side: Side, t: Transition, tempo: TempoMap, start: float, end: float) -> PlannedSide:
    start_s, end_s = (float(x) for x in tempo.time_at([start, end]))
    last = float(tempo.beat_at(end_s + LONGEST_TAIL_S))
    left_out = breath_of(t, side)
    silence = None
    if left_out is not None and t.breath is not None:
        begins_s, ends_s = (float(x) for x in tempo.time_at([start + t.lead + beat for beat in left_out]))
        silence = Silence(begins_s, ends_s, t.breath.rings)
    return PlannedSide(start, end, start_s, end_s, tempo.slowest(start, last), silence)


def _planned_entry(
    index: int,
    mix: Mix,
    track: TrackFacts,
    span: Span,
    lane: Lane,
    clocks: Clocks,
    transitions: tuple[PlannedTransition, ...],
    mix_start: float,
    level: Level,
) -> PlannedEntry:
    entry, tempo, offset = mix.entries[index], clocks.tempi[index], clocks.offsets[index]
    heard = Arrangement.of(entry, track)
    arrival = transitions[index - 1] if index > 0 else None
    departure = transitions[index] if index < len(transitions) else None
    file_end = min(heard.extent_of(0.0, track.duration_s)[1], heard.natural_end) + offset
    start_beat = arrival.incoming.start_beat if arrival else mix_start
    end_beat = departure.outgoing.end_beat if departure else max(file_end, start_beat)
    start_s, end_s = (float(t) for t in tempo.time_at([start_beat, end_beat]))
    turns = [
        *(p.beat for p in tempo.points),
        *([arrival.incoming.end_beat] if arrival else []),
        *([departure.outgoing.start_beat] if departure else []),
    ]
    segments: list[Segment] = []
    for piece in heard.pieces:
        begin, stop = max(piece.start + offset, start_beat), min(piece.end + offset, end_beat)
        if stop - begin < CLOSE and len(heard.pieces) > 1:
            continue
        borders = [begin, *sorted(b for b in turns if begin < b < stop), stop]
        time_map = TimeMap(piece.played, offset, tempo, begin, stop)
        segments += segments_of(time_map, borders, entry.keeps_pitch, RATE, shifted=entry.key_shift != 0)
    return PlannedEntry(
        index=index,
        entry=entry,
        track=track,
        heard=heard,
        span=span,
        offset=offset,
        home_bpm=lane.home_bpm,
        level=level,
        start_beat=start_beat,
        end_beat=end_beat,
        start_s=start_s,
        end_s=end_s,
        tempo=tempo,
        segments=tuple(segments),
        crossovers=mix.crossovers,
        arrival=arrival,
        departure=departure,
    )


def _bend(entry: PlannedEntry, side: PlannedSide) -> float:
    """The speed within its side of a transition that is farthest from the entry's own."""
    return entry.farthest_speed(side.start_beat, side.end_beat)
