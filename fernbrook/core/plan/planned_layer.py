"""A layer in its place: on which beats of which clock it lies, and the parts that it is played by."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from fernbrook.core.mix.curves import MIN_GAP, Control, Curve, Law
from fernbrook.core.mix.entries import Played
from fernbrook.core.mix.layers import Edge, Layer, Made, MadeSound, OfTrack, OnEntry, OnMix, OnTransition
from fernbrook.core.mix.model import DEFAULT_TARGET_LUFS, Levels, Mix, level_of
from fernbrook.core.mix.transitions import LONGEST_TAIL_S, Effects, SideCurves
from fernbrook.core.plan.made_source import MadeSource, roll_hits
from fernbrook.core.plan.part import Automation, DroppedStems, Part, Silence
from fernbrook.core.plan.planned import PlannedEntry, PlannedTransition
from fernbrook.core.plan.rate import RATE
from fernbrook.core.plan.time_map import Segment, TimeMap, segments_of
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import STAND_IN, STAND_IN_BPM, STEMS, Stem, TrackFacts, Tracks, VoiceSpan

MADE_AT_LUFS = DEFAULT_TARGET_LUFS
"""Made sounds are made for a mix that is so loud."""
SEND_BEATS = 1.0
"""So long before a silence its tail is fed."""
CLOSES = 2.0 * MIN_GAP
"""A send closes over so much of its span."""


@dataclass(frozen=True)
class Footing:
    """Where a layer stands: a beat of a clock, and the entry whose beats these are, where it is one's."""

    tempo: TempoMap
    beat: float
    entry: PlannedEntry | None


class Missing(StrEnum):
    """What a layer lacks that is not heard."""

    TRACK = "track"
    STEM = "stem"
    ENTRY = "entry"
    CUE = "cue"
    TRANSITION = "transition"
    DRUM = "drum"


@dataclass(frozen=True)
class Waiting:
    """Why a layer is not heard: what it lacks, and that in words."""

    lacks: Missing
    words: str


@dataclass(frozen=True)
class PlannedLayer:
    """A layer in its place, by its own clock. Beats and seconds are of its whole length, pauses between included.

    ``waits`` says why it is not heard, None where it is. One that waits has no parts, and its place is that of the
    mix's start.
    """

    layer: Layer
    track: TrackFacts | None
    tempo: TempoMap
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    gain_db: float
    waits: Waiting | None
    parts: tuple[Part, ...]

    @property
    def spans_s(self) -> tuple[tuple[float, float], ...]:
        """When it is heard, in seconds of the mix: once for each time."""
        length = self.layer.sound.length
        starts = np.array([self.start_beat + at for at in self.layer.starts])
        times = self.tempo.time_at([starts, starts + length])
        return tuple((float(a), float(b)) for a, b in times.T)

    def places_s(self, spans: Sequence[VoiceSpan]) -> tuple[tuple[float, float], ...]:
        """Where spans of its track are heard, in seconds of the mix."""
        sound = self.layer.sound
        if not isinstance(sound, OfTrack) or self.track is None or self.waits:
            return ()
        found = []
        borders = self.track.riding_grid.time_at([[v.start, v.end] for v in spans] or np.zeros((0, 2)))
        for part in self.parts:
            for segment in part.segments:
                for a, b in segment.time_map.mix_at(borders):
                    start, end = max(float(a), segment.start_s), min(float(b), segment.end_s)
                    if end > start:
                        found.append((start, end))
        return tuple(sorted(found))


def planned_layers(
    mix: Mix,
    tracks: Tracks,
    entries: Sequence[PlannedEntry],
    transitions: Sequence[PlannedTransition],
    clock: TempoMap,
    levels: Levels,
) -> tuple[PlannedLayer, ...]:
    """All layers of a mix in their places; ``clock`` is that of the mix as a whole."""
    return tuple(_planned(x, mix, tracks, entries, transitions, clock, levels) for x in mix.layers)


def _planned(
    layer: Layer,
    mix: Mix,
    tracks: Tracks,
    entries: Sequence[PlannedEntry],
    transitions: Sequence[PlannedTransition],
    clock: TempoMap,
    levels: Levels,
) -> PlannedLayer:
    sound = layer.sound
    track = tracks.get(sound.track_id) if isinstance(sound, OfTrack) else None
    foot = _footing(layer, entries, transitions, clock)
    waits = _waits(layer, track, foot)
    tempo, beat = (clock, float(clock.origin_beat)) if isinstance(foot, Waiting) else (foot.tempo, foot.beat)
    start = beat - layer.length if layer.ends_on_its_place else beat
    start_s, end_s = (float(t) for t in tempo.time_at([start, start + layer.length]))
    level = level_of(track, mix, levels) if track else _made_level(levels)
    planned = PlannedLayer(
        layer=layer,
        track=track,
        tempo=tempo,
        start_beat=start,
        end_beat=start + layer.length,
        start_s=start_s,
        end_s=end_s,
        gain_db=level + layer.gain_db,
        waits=waits,
        parts=(),
    )
    if waits or not layer.on or isinstance(foot, Waiting):
        return planned
    return replace(planned, parts=tuple(_parts(planned, foot, mix)))


def _made_level(levels: Levels) -> float:
    return 0.0 if levels.reached is None else levels.reached - MADE_AT_LUFS


def _waits(layer: Layer, track: TrackFacts | None, foot: Footing | Waiting) -> Waiting | None:
    """Why a layer is not heard; None where it is."""
    if isinstance(foot, Waiting):
        return foot
    sound = layer.sound
    if isinstance(sound, OfTrack):
        if track is None:
            return Waiting(Missing.TRACK, "its track is not in the library any more")
        if sound.stem is not None and (track.stems is None or sound.stem not in track.stems.offered):
            return Waiting(Missing.STEM, f"‘{track.title}’ has no {sound.stem.value} stem: make its stems first")
    elif sound.sound is MadeSound.ROLL and foot.entry is None:
        words = "a roll needs a track whose drum it strikes: tie it to an entry or a transition"
        return Waiting(Missing.DRUM, words)
    return None


def _footing(
    layer: Layer, entries: Sequence[PlannedEntry], transitions: Sequence[PlannedTransition], clock: TempoMap
) -> Footing | Waiting:
    """Where a layer stands; what is missing of what it was tied to, where it cannot."""
    match layer.at:
        case OnMix(beat=beat):
            return Footing(clock, beat, _leading(entries, float(clock.time_at(beat))))
        case OnEntry(entry_id=entry_id, beat=beat, cue=cue):
            entry = next((e for e in entries if e.entry.id == entry_id), None)
            if entry is None:
                return Waiting(Missing.ENTRY, "the entry that it is tied to is not in the mix")
            places = [0.0] if cue is None else entry.cues.get(cue.id)
            if not places:
                name = cue.name if cue else ""
                words = f"the cue ‘{name}’ that it is tied to is gone from ‘{entry.track.title}’"
                return Waiting(Missing.CUE, words)
            return Footing(entry.tempo, entry.offset + places[0] + beat, entry)
        case OnTransition(out_id=out_id, in_id=in_id, edge=edge, beat=beat):
            t = next((t for t in transitions if t.transition.pair == (out_id, in_id)), None)
            if t is None:
                return Waiting(Missing.TRANSITION, "the transition that it is tied to is not in the mix")
            tempo, at = _edge_of(t, edge, entries)
            return Footing(tempo, at + beat, entries[t.index + 1])


def _edge_of(t: PlannedTransition, edge: Edge, entries: Sequence[PlannedEntry]) -> tuple[TempoMap, float]:
    """A place of a transition: a beat of the clock of the entry that it belongs to."""
    share = {Edge.START: 0.0, Edge.MIDDLE: 0.5, Edge.END: 1.0}[edge]
    tempo = entries[t.index if edge is Edge.START else t.index + 1].tempo
    if t.transition.is_locked:
        return tempo, t.start_beat + share * (t.end_beat - t.start_beat)
    return tempo, float(tempo.beat_at(t.start_s + share * (t.end_s - t.start_s)))


def _leading(entries: Sequence[PlannedEntry], at_s: float) -> PlannedEntry | None:
    """The entry that came in last before a moment."""
    return next((e for e in reversed(entries) if e.start_s <= at_s <= e.end_s), None)


def _parts(planned: PlannedLayer, foot: Footing, mix: Mix) -> Iterator[Part]:
    """A part for each time that a layer is heard in one go."""
    layer = planned.layer
    if layer.is_hush:
        return
    for at in layer.starts[:: layer.times_on_end]:
        begin = planned.start_beat + at
        stop = begin + layer.run
        start_s, end_s = (float(t) for t in planned.tempo.time_at([begin, stop]))
        yield Part(
            owner=layer.id,
            source=_source(planned, foot),
            name=planned.track.title if planned.track else layer.name or "a made sound",
            start_s=start_s,
            end_s=end_s,
            tempo=planned.tempo,
            segments=_segments(planned, begin, start_s, end_s),
            gain_db=planned.gain_db,
            pitch=2.0 ** (layer.key_shift / 12.0),
            automations=tuple(_automations(planned, begin, stop)),
            silences=(),
            dropped_stems=_other_stems(layer, start_s, end_s),
            has_stems=planned.track is not None and planned.track.stems is not None,
            crossovers=mix.crossovers,
            comes_in=True,
            goes=True,
            made=_made(planned, foot, begin, end_s - start_s),
        )


def _source(planned: PlannedLayer, foot: Footing) -> str:
    """The id of the track whose file is read; none for what is only computed."""
    if planned.track is not None:
        return planned.track.id
    made = planned.layer.sound
    strikes = isinstance(made, Made) and made.sound is MadeSound.ROLL and foot.entry is not None
    return foot.entry.track.id if strikes and foot.entry else ""


def _made(planned: PlannedLayer, foot: Footing, begin: float, length_s: float) -> MadeSource | None:
    """What a made sound is made of; a roll strikes with what is heard of its entry on the beat that it leads to."""
    sound = planned.layer.sound
    if not isinstance(sound, Made):
        return None
    if sound.sound is not MadeSound.ROLL or foot.entry is None:
        return MadeSource(sound.sound, length_s)
    hits = roll_hits(planned.tempo, begin, planned.layer.run)
    at_s = float(foot.tempo.time_at(foot.beat))
    return MadeSource(sound.sound, length_s, hits, float(foot.entry.source_at(np.array([at_s]))[0]))


def _segments(planned: PlannedLayer, begin: float, start_s: float, end_s: float) -> tuple[Segment, ...]:
    """How the source is read in one go that begins on a beat."""
    layer, track = planned.layer, planned.track
    sound = layer.sound
    if not isinstance(sound, OfTrack) or track is None:
        return _at_own_speed(0.0, start_s, end_s, shifted=False)
    shifted = layer.key_shift != 0
    if track.grid is None or not sound.follows:
        from_s = float(track.riding_grid.time_at(sound.start))
        found: list[Segment] = []
        length_s = (end_s - start_s) / layer.times_on_end
        for at in np.arange(start_s, end_s - 1e-6, length_s):
            found += _at_own_speed(from_s, float(at), float(at) + length_s, shifted)
        return tuple(found)
    played = Played(track.grid, sound.count)
    segments: list[Segment] = []
    for n in range(layer.times_on_end):
        first = begin + n * sound.length
        last = first + sound.length
        time_map = TimeMap(played.shifted(-sound.start * sound.count), first, planned.tempo, first, last)
        borders = [first, *sorted(p.beat for p in planned.tempo.points if first < p.beat < last), last]
        segments += segments_of(time_map, borders, True, RATE, shifted=shifted)
    return tuple(segments)


def _at_own_speed(from_s: float, start_s: float, end_s: float, shifted: bool) -> tuple[Segment, ...]:
    """The source as it is, from one of its moments on: by a clock of its own, at the tempo of a stand-in grid."""
    tempo = TempoMap.of([(0.0, STAND_IN_BPM)], -(start_s - from_s) * STAND_IN_BPM / 60.0)
    first, last = (float(b) for b in tempo.beat_at([start_s, end_s]))
    time_map = TimeMap(Played(STAND_IN, 1.0), 0.0, tempo, first, last)
    return segments_of(time_map, [first, last], True, RATE, shifted=shifted)


def _automations(planned: PlannedLayer, begin: float, stop: float) -> Iterator[Automation]:
    """The fades of one go, and the layer's curves, which run over all of it."""
    layer, tempo = planned.layer, planned.tempo
    fade_in, fade_out = layer.fade_in / layer.run, layer.fade_out / layer.run
    if fade_in or fade_out:
        rises = [(0.0, 0.0), (fade_in, 1.0)] if fade_in else [(0.0, 1.0)]
        falls = [(1.0 - fade_out, 1.0), (1.0, 0.0)] if fade_out else [(1.0, 1.0)]
        points = sorted({*rises, *falls})
        yield _automation(tempo, begin, stop, SideCurves.of(volume=Curve.of(*points)), Effects())
    if layer.curves.moving:
        yield _automation(tempo, planned.start_beat, planned.end_beat, layer.curves, layer.effects)


def _automation(tempo: TempoMap, begin: float, stop: float, curves: SideCurves, effects: Effects) -> Automation:
    start_s, end_s = (float(t) for t in tempo.time_at([begin, stop]))
    slowest = tempo.slowest(begin, float(tempo.beat_at(end_s + LONGEST_TAIL_S)))
    return Automation(begin, stop, start_s, end_s, curves, Law.FADER, effects, slowest)


def _other_stems(layer: Layer, start_s: float, end_s: float) -> tuple[DroppedStems, ...]:
    """What is silent of a track of which only one stem is heard."""
    sound = layer.sound
    if not isinstance(sound, OfTrack) or sound.stem is None:
        return ()
    others: tuple[Stem, ...] = tuple(s for s in STEMS if s is not sound.stem)
    around = 1.0
    return (DroppedStems(start_s - around, end_s + around, others),)


def hushed(part: Part, hushes: Sequence[PlannedLayer]) -> Part:
    """A part of an entry, silent where layers silence it; what it sends to a reverb before that rings on."""
    for planned, (start_s, end_s) in ((p, span) for p in hushes for span in p.spans_s):
        if end_s <= part.start_s or part.end_s <= start_s:
            continue
        start, end = (float(b) for b in part.tempo.beat_at([start_s, end_s]))
        begin = start - SEND_BEATS
        share = SEND_BEATS / (end - begin)
        curve = Curve.of((0.0, 0.0), (share, 1.0), (share + CLOSES, 0.0), (1.0, 0.0))
        effects = planned.layer.effects
        sends = _automation(part.tempo, begin, end, SideCurves({Control.REVERB: curve}), effects)
        part = replace(
            part,
            automations=(*part.automations, sends),
            silences=(*part.silences, Silence(start_s, end_s, rings=True)),
        )
    return part
