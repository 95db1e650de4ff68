"""The plan: everything about a mix resolved in one place. The interface draws it, the renderer plays its parts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from fernbrook.core.mix.entries import CLOSE, Arrangement, Entry, Follows
from fernbrook.core.mix.model import Crossovers, Level, Mix, levels_of
from fernbrook.core.mix.placing import Placed, Span, facts_of, placed, spans_of
from fernbrook.core.mix.transitions import LONGEST_TAIL_S, Kind, Side, Transition, gap_of
from fernbrook.core.plan.bars import Bars, BarSpan
from fernbrook.core.plan.clocks import Lane, clocks_of
from fernbrook.core.plan.entry_warnings import warnings_of_edits, warnings_of_entry, warnings_of_levels
from fernbrook.core.plan.face import Face
from fernbrook.core.plan.layer_warnings import warnings_of_layers
from fernbrook.core.plan.leaps import Leap
from fernbrook.core.plan.part import Part, Silence
from fernbrook.core.plan.planned import PlannedEntry, PlannedSide, PlannedTransition
from fernbrook.core.plan.planned_layer import PlannedLayer, hushed, planned_layers
from fernbrook.core.plan.rate import RATE
from fernbrook.core.plan.time_map import Segment, TimeMap, segments_of
from fernbrook.core.plan.transition_warnings import Met, warnings_of_transition
from fernbrook.core.plan.warning import MixWarning
from fernbrook.core.remembered import remembered
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import STAND_IN, STAND_IN_BPM, CueRole, TrackFacts, Tracks, chosen


@dataclass(frozen=True)
class Plan:
    """A mix, resolved. Times are seconds from its start, beats those of the mix."""

    mix: Mix
    entries: tuple[PlannedEntry, ...]
    transitions: tuple[PlannedTransition, ...]
    layers: tuple[PlannedLayer, ...]
    tempo: TempoMap
    duration_s: float
    warnings: tuple[MixWarning, ...]

    @property
    def frames(self) -> int:
        """Length of the mix in samples."""
        return round(self.duration_s * RATE)

    @property
    def parts(self) -> tuple[Part, ...]:
        """All that sounds: the entries in order, then the layers."""
        hushes = [x for x in self.layers if x.layer.is_hush and x.layer.on and not x.waits]
        return (*(hushed(e.part, hushes) for e in self.entries), *(p for x in self.layers for p in x.parts))

    @property
    def tracks(self) -> tuple[TrackFacts, ...]:
        """All tracks of which anything is used, each once."""
        layered = (x.track for x in self.layers if x.track)
        return tuple({t.id: t for t in (*(e.track for e in self.entries), *layered)}.values())

    @cached_property
    def bars(self) -> Bars:
        """The bars of the mix. In the middle of an overlap the incoming entry begins to lead."""
        if not self.entries:
            return Bars((BarSpan(0.0, 0.0, STAND_IN.bar_lines),), self.tempo)
        return Bars(tuple(BarSpan(_leads_from(e), e.offset, e.heard.bar_lines) for e in self.entries), self.tempo)


def _leads_from(entry: PlannedEntry) -> float:
    """The beat from which an entry's bars are those of the mix: the middle of an overlap, or where a pause is over."""
    arrival = entry.arrival
    if arrival is None:
        return entry.start_beat
    return arrival.end_beat if arrival.transition.kind is Kind.APART else (arrival.start_beat + arrival.end_beat) / 2


def plan(mix: Mix, tracks: Tracks) -> Plan:
    """Resolve a mix.

    Raises
    ------
    UnknownTrackError
        When an entry's track is not among ``tracks``.
    """
    if not mix.entries:
        return Plan(mix, (), (), (), TempoMap.of([(0.0, STAND_IN_BPM)]), 0.0, ())
    facts = facts_of(mix, tracks)
    spans = spans_of(mix, tracks)
    lanes = tuple(_lane(*each) for each in zip(mix.entries, facts, spans, strict=True))
    resolved = placed(mix, spans)
    origin = _first_beat(mix.entries[0], facts[0])
    clocks = clocks_of(mix, lanes, resolved, origin)
    levels = levels_of(mix, facts)
    transitions = tuple(
        _clocked(
            i,
            p,
            clocks.tempi[i],
            clocks.tempi[i + 1],
            clocks.offsets[i],
            clocks.offsets[i + 1],
            None if p.transition.is_locked else clocks.mix,
        )
        for i, p in enumerate(resolved)
    )
    entries = tuple(
        _planned_entry(
            i,
            entry,
            facts[i],
            spans[i],
            clocks.tempi[i],
            clocks.offsets[i],
            transitions[i - 1] if i else origin,
            transitions[i] if i < len(transitions) else None,
            levels.entries[i],
            mix.crossovers,
        )
        for i, entry in enumerate(mix.entries)
    )
    warnings = [s for e in entries for s in _warnings_of_entry(e)]
    warnings += [
        s for e in entries for s in warnings_of_edits(e.index, e.entry, e.track.title, e.heard, e.end_beat - e.offset)
    ]
    warnings += warnings_of_levels(mix, facts, levels)
    for here, there in zip(resolved, transitions, strict=True):
        out, into = entries[there.index], entries[there.index + 1]
        warnings += _warnings_where_they_meet(
            there.index, here, _bend(out, there.outgoing), _bend(into, there.incoming), out.face, into.face
        )
    layers = planned_layers(mix, tracks, entries, transitions, clocks.mix, levels)
    warnings += warnings_of_layers(layers, entries, entries[-1].end_s)
    warnings = [s.model_copy(update={"is_meant": True}) if s.key in mix.meant else s for s in warnings]
    return Plan(mix, entries, transitions, layers, clocks.mix, entries[-1].end_s, tuple(warnings))


def heard_in(planned: Plan) -> Mix:
    """The entries of a mix with the transitions that nobody shaped as they came out. Of those between two grids: the
    others follow no rule that may change."""
    met = (t for t in planned.transitions if not t.shaped)
    counted = {e.entry.id for e in planned.entries if e.track.grid is not None}
    heard = tuple(t.transition for t in met if counted.issuperset(t.transition.pair))
    return Mix(name=planned.mix.name, entries=planned.mix.entries, transitions=heard)


@remembered
def _warnings_of_entry(entry: PlannedEntry) -> tuple[MixWarning, ...]:
    return tuple(warnings_of_entry(entry.index, entry.entry.id, entry.track))


@remembered
def _warnings_where_they_meet(
    index: int, here: Placed, out_speed: float, in_speed: float, out: Face, into: Face
) -> tuple[MixWarning, ...]:
    return tuple(warnings_of_transition(_met(index, here, (out_speed, in_speed), out, into)))


def _met(index: int, here: Placed, speeds: tuple[float, float], out: Face, into: Face) -> Met:
    t = here.transition
    clear = chosen(into.track.cues, CueRole.ALONE_FROM)
    return Met(
        index=index,
        asked=here.asked,
        transition=t,
        out=out.span,
        into=into.span,
        out_voice=out.voice,
        in_voice=into.voice,
        speeds=speeds,
        into_title=into.track.title,
        clear_name=f"‘{clear.name}’" if clear and clear.name else "the ‘alone from’ cue",
        shift=into.key_shift,
        out_cues=out.cues,
        in_cues=into.cues,
        out_stems=out.track.stems.offered if out.track.stems else (),
        in_stems=into.track.stems.offered if into.track.stems else (),
        leap=Leap(
            transition=t,
            room=here.room,
            bar=out.heard.bar,
            bpm=(
                out.span.bpm_at(t.out_at),
                into.span.bpm_at(t.in_at + t.beats),
            ),
            in_count=into.count,
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


def _lane(entry: Entry, track: TrackFacts, span: Span) -> Lane:
    follows = entry.goes_by(track)
    as_it_goes = entry.tempo is None and follows is Follows.STEADY
    return _lane_of(Arrangement.of(entry, track), span.course, as_it_goes, follows is Follows.MIX)


@remembered
def _lane_of(heard: Arrangement, course: TempoMap, as_it_goes: bool, follows_mix: bool) -> Lane:
    whole = heard.pieces[0].played
    wanders = not whole.grid.is_constant and heard.is_whole
    return Lane(whole, course, as_recorded=as_it_goes and wanders, follows_mix=follows_mix)


@remembered
def _clocked(
    index: int,
    place: Placed,
    out: TempoMap,
    into: TempoMap,
    out_offset: float,
    in_offset: float,
    beside: TempoMap | None,
) -> PlannedTransition:
    """A transition in its place; ``beside`` is the clock of the mix where the two do not go by one."""
    t = place.transition
    leaves = out_offset + t.out_at
    arrives = leaves if beside is None else in_offset + t.in_at
    leaves_s, arrives_s = float(out.time_at(leaves)), float(into.time_at(arrives))
    sounding = 0.0 if t.kind is Kind.APART else t.seconds
    goes, comes = leaves + t.beats, arrives + t.beats
    if t.kind is Kind.FADE:
        goes, comes = float(out.beat_at(leaves_s + sounding)), float(into.beat_at(arrives_s + sounding))
    start_s, end_s = leaves_s, arrives_s if t.kind is Kind.APART else float(out.time_at(goes))
    start, end = (leaves, goes) if beside is None else (float(b) for b in beside.beat_at([start_s, end_s]))
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
    left_out = gap_of(t, side)
    silence = None
    if left_out is not None and t.gap is not None:
        begins_s, ends_s = (float(x) for x in tempo.time_at([start + t.lead + beat for beat in left_out]))
        silence = Silence(begins_s, ends_s, t.gap.rings)
    return PlannedSide(start, end, start_s, end_s, tempo.slowest(start, last), silence)


@remembered
def _planned_entry(
    index: int,
    entry: Entry,
    track: TrackFacts,
    span: Span,
    tempo: TempoMap,
    offset: float,
    begins: PlannedTransition | float,
    departure: PlannedTransition | None,
    level: Level,
    crossovers: Crossovers,
) -> PlannedEntry:
    """An entry in its place, which ``begins`` by a transition or, the first one, on a beat."""
    heard = Arrangement.of(entry, track)
    arrival = None if isinstance(begins, float) else begins
    file_end = min(heard.extent_of(0.0, track.duration_s)[1], heard.natural_end) + offset
    start_beat = begins if isinstance(begins, float) else begins.incoming.start_beat
    end_beat = departure.outgoing.end_beat if departure else max(file_end, start_beat)
    start_s, end_s = (float(t) for t in tempo.time_at([start_beat, end_beat]))
    turns = [
        *(p.beat for p in tempo.points_between(start_beat, end_beat)),
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
        home_bpm=span.home_bpm,
        level=level,
        start_beat=start_beat,
        end_beat=end_beat,
        start_s=start_s,
        end_s=end_s,
        tempo=tempo,
        segments=tuple(segments),
        crossovers=crossovers,
        arrival=arrival,
        departure=departure,
    )


@remembered
def _bend(entry: PlannedEntry, side: PlannedSide) -> float:
    """The speed within its side of a transition that is farthest from the entry's own, to a thousandth of what would be
    noticed, so that it is the same wherever in the mix the two meet."""
    return round(entry.farthest_speed(side.start_beat, side.end_beat), 6)
