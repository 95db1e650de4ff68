"""Entries and transitions in their places: where each lies, by which clock, and how it is read."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from fernbrook.core.mix.entries import Arrangement, Entry, Played
from fernbrook.core.mix.model import Crossovers, Level
from fernbrook.core.mix.placing import Room, Span
from fernbrook.core.mix.transitions import Side, Transition
from fernbrook.core.plan.face import Face, face_of
from fernbrook.core.plan.part import Automation, DroppedStems, Part, Silence
from fernbrook.core.plan.time_map import Segment, TimeMap, source_at
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import FloatArray, Section, TrackFacts, VoiceSpan


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
        return source_at(self.segments, mix_times)

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
        return self.face.voice

    @property
    def cues(self) -> dict[str, list[float]]:
        """The cues of its track that were set by hand: on which beats of the entry they are heard, by id."""
        return self.face.cues

    @property
    def sections(self) -> tuple[Section, ...]:
        """What it consists of, in the entry's beats."""
        return self.face.sections

    @property
    def face(self) -> Face:
        """The entry as its neighbours meet it."""
        return face_of(self.track, self.heard, self.span, self.entry.count, self.entry.key_shift)

    @property
    def _dropped_stems(self) -> Iterator[DroppedStems]:
        """The spans of the mix in which some of its stems are silent by an edit."""
        for one in self.heard.dropped:
            if one.stems:
                start_s, end_s = self.tempo.time_at([one.start + self.offset, one.end + self.offset])
                yield DroppedStems(float(start_s), float(end_s), one.stems)

    @property
    def _drop_outs(self) -> Iterator[Silence]:
        """The spans of the mix in which all of it is silent by an edit; what rings goes on."""
        for one in self.heard.dropped:
            if not one.stems:
                start_s, end_s = (
                    float(t) for t in self.tempo.time_at([one.start + self.offset, one.end + self.offset])
                )
                yield Silence(start_s, end_s, rings=True)

    @cached_property
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
            dropped_stems=tuple(self._dropped_stems),
            has_stems=self.track.stems is not None,
            crossovers=self.crossovers,
            comes_in=self.arrival is not None,
            goes=self.departure is not None,
        )
