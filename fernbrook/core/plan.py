"""The plan: everything about a mix resolved in one place. The interface draws it, the renderer plays it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from fernbrook.core.mix import Entry, Mix
from fernbrook.core.placing import Room, Span, default_transition, fitted, room_between
from fernbrook.core.section import VoiceSpan
from fernbrook.core.snag import Snag, snags_of_entry, snags_of_transition, snags_of_voices
from fernbrook.core.tempo_map import TempoMap, TempoPoint
from fernbrook.core.time_map import Mode, Segment, TimeMap, segments_of
from fernbrook.core.track import TrackFacts
from fernbrook.core.transition import TempoPolicy, Transition

RATE = 44_100
"""Samples per second of every mix: the rate at which nearly all of a DJ's material comes."""


class UnknownTrackError(LookupError):
    """The mix uses a track that is not in the library."""


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


@dataclass(frozen=True)
class PlannedEntry:
    """An entry in its place: where it sounds, how it is read, and how it arrives and leaves."""

    index: int
    entry: Entry
    track: TrackFacts
    span: Span
    offset: float
    home_bpm: float
    gain_db: float
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    time_map: TimeMap
    segments: tuple[Segment, ...]
    arrival: PlannedTransition | None
    departure: PlannedTransition | None

    @property
    def voice(self) -> tuple[VoiceSpan, ...]:
        """Where somebody sings, in the entry's beats."""
        count = self.entry.count
        return tuple(VoiceSpan(start=v.start * count, end=v.end * count) for v in self.track.voice)


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


@dataclass(frozen=True)
class _Placed:
    """What is known of a transition before there is a clock."""

    asked: Transition
    transition: Transition
    room: Room
    shaped: bool


def plan(mix: Mix, tracks: Mapping[str, TrackFacts]) -> Plan:
    """Resolve a mix.

    Raises
    ------
    UnknownTrackError
        When an entry's track is not among ``tracks``.
    """
    facts = [_facts(entry, tracks) for entry in mix.entries]
    spans = [Span.of(entry, track) for entry, track in zip(mix.entries, facts, strict=True)]
    if not mix.entries:
        return Plan(mix, (), (), TempoMap.of([(0.0, 120.0)]), 0.0, ())
    homes = [entry.home_bpm(track) for entry, track in zip(mix.entries, facts, strict=True)]
    placed = _placed(mix, spans)
    offsets = _offsets(placed)
    origin = _first_beat(mix.entries[0], facts[0])
    tempo = _tempo_map(homes, placed, offsets, origin)
    transitions = tuple(_clocked(i, p, offsets[i], tempo) for i, p in enumerate(placed))
    entries = tuple(
        _planned_entry(i, mix, facts[i], spans[i], offsets[i], homes[i], tempo, transitions, origin)
        for i in range(len(mix.entries))
    )
    snags = [s for e in entries for s in snags_of_entry(e.index, e.track)]
    for here, there in zip(placed, transitions, strict=True):
        out, into = entries[there.index], entries[there.index + 1]
        snags += snags_of_transition(there.index, here.asked, there.transition, *(_bend(e, there) for e in (out, into)))
        snags += snags_of_voices(
            there.index, there.transition, out.voice, into.voice, out.track.riding_grid.beats_per_bar
        )
    return Plan(mix, entries, transitions, tempo, entries[-1].end_s, tuple(snags))


def _facts(entry: Entry, tracks: Mapping[str, TrackFacts]) -> TrackFacts:
    try:
        return tracks[entry.track_id]
    except KeyError:
        raise UnknownTrackError(f"entry {entry.id} uses track {entry.track_id}, which is not in the library") from None


def _first_beat(entry: Entry, track: TrackFacts) -> float:
    """The mix starts where the file of its first entry starts, silence and pick-up included."""
    return entry.beat_at(track.riding_grid, 0.0)


def _placed(mix: Mix, spans: list[Span]) -> list[_Placed]:
    """Resolve the transitions from left to right, each within the room that its neighbours leave."""
    pairs = list(pairwise(mix.entries))
    asked = [
        mix.shaped(out.id, into.id) or default_transition(out, into, spans[i], spans[i + 1])
        for i, (out, into) in enumerate(pairs)
    ]
    result: list[_Placed] = []
    for i, (out, into) in enumerate(pairs):
        after = result[-1].transition.in_at + result[-1].transition.beats if result else None
        before = asked[i + 1].out_at if i + 1 < len(asked) else None
        room = room_between(spans[i], spans[i + 1], after, before)
        shaped = mix.shaped(out.id, into.id) is not None
        result.append(_Placed(asked[i], fitted(asked[i], room), room, shaped))
    return result


def _offsets(placed: list[_Placed]) -> list[float]:
    """The mix beat of each entry's beat 0; that of the first is 0."""
    offsets = [0.0]
    for p in placed:
        offsets.append(offsets[-1] + p.transition.out_at - p.transition.in_at)
    return offsets


def _tempo_map(homes: list[float], placed: list[_Placed], offsets: list[float], origin: float) -> TempoMap:
    points = [TempoPoint(min(origin, 0.0), homes[0])]
    for i, p in enumerate(placed):
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


def _clocked(index: int, placed: _Placed, offset: float, tempo: TempoMap) -> PlannedTransition:
    start = offset + placed.transition.out_at
    end = start + placed.transition.beats
    start_s, end_s = (float(t) for t in tempo.time_at([start, end]))
    return PlannedTransition(index, placed.transition, placed.room, placed.shaped, start, end, start_s, end_s)


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
) -> PlannedEntry:
    entry = mix.entries[index]
    arrival = transitions[index - 1] if index > 0 else None
    departure = transitions[index] if index < len(transitions) else None
    file_end = entry.beat_at(track.riding_grid, track.duration_s) + offset
    start_beat = arrival.start_beat if arrival else mix_start
    end_beat = departure.end_beat if departure else max(file_end, start_beat)
    start_s, end_s = (float(t) for t in tempo.time_at([start_beat, end_beat]))
    time_map = TimeMap(track.riding_grid, entry.count, offset, tempo, start_beat, end_beat)
    borders = [
        start_beat,
        arrival.end_beat if arrival else start_beat,
        departure.start_beat if departure else end_beat,
        end_beat,
    ]
    segments = segments_of(time_map, borders, entry.key_lock)
    copied = next((s for s in segments if s.mode is Mode.COPY), None)
    if copied is not None:
        time_map = time_map.on_whole_samples(copied.start_s, RATE)
    return PlannedEntry(
        index=index,
        entry=entry,
        track=track,
        span=span,
        offset=offset,
        home_bpm=home,
        gain_db=entry.gain_for(track, mix.target_lufs),
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
