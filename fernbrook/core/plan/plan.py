"""The plan: everything about a mix resolved in one place. The interface draws it, the renderer plays its parts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from fernbrook.core.mix.entry import Entry
from fernbrook.core.mix.levels import Level, levels_of
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.placing import Placed, Room, Span, facts_of, placed
from fernbrook.core.mix.played import Played
from fernbrook.core.mix.transition import Kind, Side, TempoPolicy, Transition
from fernbrook.core.plan.bars import Bars, BarSpan
from fernbrook.core.plan.part import Automation, Part
from fernbrook.core.plan.snag import (
    Snag,
    snags_of_clear_by,
    snags_of_entry,
    snags_of_keys,
    snags_of_levels,
    snags_of_transition,
    snags_of_voices,
)
from fernbrook.core.plan.tempo_map import TempoMap, TempoPoint
from fernbrook.core.plan.time_map import Mode, Segment, TimeMap, segments_of
from fernbrook.core.track.cue import CueRole, chosen
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.track.grid import STAND_IN_BPM
from fernbrook.core.track.section import VoiceSpan

RATE = 44_100
"""Samples per second of every mix: the rate at which nearly all of a DJ's material comes."""
STAND_IN_BAR = 4.0


@dataclass(frozen=True)
class PlannedTransition:
    """A transition in its place. ``shaped`` tells whether the user has touched it."""

    index: int
    transition: Transition
    room: Room
    shaped: bool
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float

    def automation(self, side: Side) -> Automation:
        """The curves of one side over the span of the transition."""
        return Automation(self.start_beat, self.end_beat, self.start_s, self.end_s, self.transition.curves(side))


@dataclass(frozen=True)
class PlannedEntry:
    """An entry in its place: where it sounds, how it is read, and how it arrives and leaves."""

    index: int
    entry: Entry
    track: TrackFacts
    played: Played
    span: Span
    offset: float
    home_bpm: float
    level: Level
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    time_map: TimeMap
    segments: tuple[Segment, ...]
    arrival: PlannedTransition | None
    departure: PlannedTransition | None

    @property
    def gain_db(self) -> float:
        """The gain at which it plays."""
        return self.level.gain_db

    @property
    def voice(self) -> tuple[VoiceSpan, ...]:
        """Where somebody sings, in the entry's beats."""
        return self.played.voice(self.track)

    @property
    def part(self) -> Part:
        """The entry as the renderer plays it."""
        sides = ((self.arrival, Side.INCOMING), (self.departure, Side.OUTGOING))
        return Part(
            owner=self.entry.id,
            source=self.track.id,
            name=self.track.title,
            start_s=self.start_s,
            end_s=self.end_s,
            time_map=self.time_map,
            segments=self.segments,
            gain_db=self.gain_db,
            pitch=2.0 ** (self.entry.key_shift / 12.0),
            automations=tuple(t.automation(side) for t, side in sides if t and t.transition.kind is Kind.BLEND),
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
    """The beat from which an entry's bars are those of the mix."""
    arrival = entry.arrival
    return (arrival.start_beat + arrival.end_beat) / 2 if arrival else entry.start_beat


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
    homes = [entry.home_bpm(track) for entry, track in zip(mix.entries, facts, strict=True)]
    resolved = placed(mix, spans)
    offsets = _offsets(resolved)
    origin = _first_beat(mix.entries[0], facts[0])
    tempo = _tempo_map(homes, resolved, offsets, origin)
    levels = levels_of(mix, facts)
    transitions = tuple(_clocked(i, p, offsets[i], tempo) for i, p in enumerate(resolved))
    entries = tuple(
        _planned_entry(i, mix, facts[i], spans[i], offsets[i], homes[i], tempo, transitions, origin, levels.entries[i])
        for i in range(len(mix.entries))
    )
    snags = [s for e in entries for s in snags_of_entry(e.index, e.track)]
    snags += snags_of_levels(mix, facts, levels)
    for here, there in zip(resolved, transitions, strict=True):
        out, into = entries[there.index], entries[there.index + 1]
        snags += snags_of_transition(there.index, here.asked, there.transition, *(_bend(e, there) for e in (out, into)))
        keys = (e.entry.key_of(e.track) for e in (out, into))
        snags += snags_of_keys(there.index, there.transition, *keys)
        snags += snags_of_clear_by(there.index, there.transition, into.track, into.played)
        snags += snags_of_voices(there.index, there.transition, out.voice, into.voice, out.span.bar)
    return Plan(mix, entries, transitions, tempo, entries[-1].end_s, tuple(snags))


def _first_beat(entry: Entry, track: TrackFacts) -> float:
    """The mix starts at its first entry's start cue, else where its file starts, silence and pick-up included."""
    played = Played.of(entry, track)
    file_start = float(played.beat_at(0.0))
    start = chosen(track.cues, CueRole.START)
    return max(file_start, played.of_grid(start.at)) if start else file_start


def _offsets(resolved: list[Placed]) -> list[float]:
    """The mix beat of each entry's beat 0; that of the first is 0."""
    offsets = [0.0]
    for p in resolved:
        offsets.append(offsets[-1] + p.transition.out_at - p.transition.in_at)
    return offsets


def _tempo_map(homes: list[float], resolved: list[Placed], offsets: list[float], origin: float) -> TempoMap:
    points = [TempoPoint(min(origin, 0.0), homes[0])]
    for i, p in enumerate(resolved):
        start = offsets[i] + p.transition.out_at
        end = start + p.transition.beats
        leave, arrive = {
            TempoPolicy.RAMP: (start, end),
            TempoPolicy.SWITCH_AT_START: (start, start),
            TempoPolicy.SWITCH_AT_END: (end, end),
        }[p.transition.tempo]
        points += [TempoPoint(leave, homes[i]), TempoPoint(arrive, homes[i + 1])]
    return TempoMap(_in_order(points), origin)


def _in_order(points: list[TempoPoint]) -> tuple[TempoPoint, ...]:
    """Points that never go back: where rounding puts one a hair before its forerunner, it is moved onto it."""
    result: list[TempoPoint] = []
    for point in points:
        floor = result[-1].beat if result else point.beat
        result.append(TempoPoint(max(point.beat, floor), point.bpm))
    return tuple(result)


def _clocked(index: int, place: Placed, offset: float, tempo: TempoMap) -> PlannedTransition:
    start = offset + place.transition.out_at
    end = start + place.transition.beats
    start_s, end_s = (float(t) for t in tempo.time_at([start, end]))
    return PlannedTransition(index, place.transition, place.room, place.shaped, start, end, start_s, end_s)


def _planned_entry(
    index: int,
    mix: Mix,
    track: TrackFacts,
    span: Span,
    offset: float,
    home: float,
    tempo: TempoMap,
    transitions: tuple[PlannedTransition, ...],
    mix_start: float,
    level: Level,
) -> PlannedEntry:
    entry = mix.entries[index]
    arrival = transitions[index - 1] if index > 0 else None
    departure = transitions[index] if index < len(transitions) else None
    played = Played.of(entry, track)
    file_end = float(played.beat_at(track.duration_s)) + offset
    start_beat = arrival.start_beat if arrival else mix_start
    end_beat = departure.end_beat if departure else max(file_end, start_beat)
    start_s, end_s = (float(t) for t in tempo.time_at([start_beat, end_beat]))
    time_map = TimeMap(played, offset, tempo, start_beat, end_beat)
    borders = [
        start_beat,
        arrival.end_beat if arrival else start_beat,
        departure.start_beat if departure else end_beat,
        end_beat,
    ]
    segments = segments_of(time_map, borders, entry.keeps_pitch, shifted=entry.key_shift != 0)
    copied = next((s for s in segments if s.mode is Mode.COPY), None)
    if copied is not None:
        time_map = time_map.on_whole_samples(copied.start_s, RATE)
    return PlannedEntry(
        index=index,
        entry=entry,
        track=track,
        played=played,
        span=span,
        offset=offset,
        home_bpm=home,
        level=level,
        start_beat=start_beat,
        end_beat=end_beat,
        start_s=start_s,
        end_s=end_s,
        time_map=time_map,
        segments=segments,
        arrival=arrival,
        departure=departure,
    )


def _bend(entry: PlannedEntry, at: PlannedTransition) -> float:
    """The speed within a transition that is farthest from the entry's own."""
    return entry.time_map.farthest_speed(at.start_beat, at.end_beat)
