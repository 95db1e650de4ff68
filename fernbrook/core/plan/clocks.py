"""The clocks of a mix: which beats its entries' beats fall on, at what tempo, and when.

Entries whose beats are locked to each other, by blends and cuts, go by one tempo map; they are a **chain**. A fade, or
a pause, ends one chain and begins the next: its first entry starts at a moment, with a clock of its own. The clock of
the mix as a whole is that of one chain after the other; it changes in the middle of a fade, and its beats are counted
on.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from fernbrook.core.mix.curves import Onward
from fernbrook.core.mix.entries import Played
from fernbrook.core.mix.model import Mix, TempoMark
from fernbrook.core.mix.placing import Placed
from fernbrook.core.mix.transitions import Kind, TempoPolicy, Transition
from fernbrook.core.remembered import remembered
from fernbrook.core.tempo_map import TempoMap, TempoPoint

SMOOTH_PIECES = 16
"""Straight pieces that an S between two marks is made of; the tempo is then within 0.1 % of the step of it."""


@dataclass(frozen=True)
class Lane:
    """An entry as its clock sees it: how its beats lie in its track, and its tempo in the mix where it leads; one that
    ``follows_mix`` takes over what it finds. Where the beats of its track wander, it may play ``as_recorded`` while no
    other's beats are locked to it."""

    played: Played
    course: TempoMap
    as_recorded: bool
    follows_mix: bool = False


@dataclass(frozen=True)
class Clocks:
    """The clock of each entry, the mix beat of its beat 0, and the clock of the mix."""

    tempi: tuple[TempoMap, ...]
    offsets: tuple[float, ...]
    mix: TempoMap


def clocks_of(mix: Mix, lanes: Sequence[Lane], resolved: Sequence[Placed], origin: float) -> Clocks:
    """The clocks of a mix whose transitions have been placed; it begins at beat ``origin`` of its first entry."""
    places = tuple(entry.id for entry in mix.entries)
    return _clocks(places, mix.tempo_marks, tuple(lanes), tuple(p.transition for p in resolved), origin)


@remembered
def _clocks(
    entries: tuple[str, ...],
    marks: tuple[TempoMark, ...],
    lanes: tuple[Lane, ...],
    transitions: tuple[Transition, ...],
    origin: float,
) -> Clocks:
    tempi: list[TempoMap] = []
    offsets: list[float] = []
    of_chains: list[TempoMap] = []
    begins: list[float] = []
    for chain in _chains(transitions, len(lanes)):
        local = _offsets(chain, transitions, lanes)
        before = transitions[chain.start - 1] if chain.start else None
        begin = min(origin, 0.0) if before is None else before.in_at
        loose = len(chain) == 1 and len(lanes) > 1 and lanes[chain.start].as_recorded
        itself = (
            _as_recorded(begin, lanes[chain.start].played) if loose else _led(begin, chain, local, transitions, lanes)
        )
        points = _in_order(_marked(itself, _marks_of(marks, entries, chain, local)))
        if before is None:
            tempo, base = TempoMap(tuple(points), origin), 0.0
        else:
            start_s, switch_s = _start_of(before, tempi[-1], offsets[-1])
            switch = float(tempi[-1].beat_at(switch_s))
            own = TempoMap(tuple(points), begin)
            base = switch - float(own.beat_at(switch_s - start_s))
            moved = tuple(TempoPoint(p.beat + base, p.bpm) for p in points)
            tempo = TempoMap(moved, float(own.beat_at(-start_s)) + base)
            begins.append(switch)
        of_chains.append(tempo)
        tempi += [tempo] * len(chain)
        offsets += [offset + base for offset in local]
    return Clocks(tuple(tempi), tuple(offsets), _joined(of_chains, begins))


def _marks_of(
    marks: Sequence[TempoMark], entries: Sequence[str], chain: range, offsets: Sequence[float]
) -> list[tuple[float, TempoMark]]:
    """The tempo marks of a chain's entries, by the chain's beats, in order; of two on one beat the later one."""
    places = {entries[i]: offset for i, offset in zip(chain, offsets, strict=True)}
    found = {places[m.entry_id] + m.beat: m for m in marks if m.entry_id in places}
    return sorted(found.items(), key=lambda item: item[0])


def _chains(transitions: Sequence[Transition], count: int) -> list[range]:
    """The runs of entries whose beats are locked."""
    starts = [0, *(i + 1 for i, t in enumerate(transitions) if not t.is_locked)]
    return [range(a, b) for a, b in pairwise([*starts, count])]


def _offsets(chain: range, transitions: Sequence[Transition], lanes: Sequence[Lane]) -> list[float]:
    """The beat of each entry's beat 0, counted from that of the first of its chain."""
    offsets = [0.0]
    for i in chain[:-1]:
        t = transitions[i]
        goes_in = t.tempo is TempoPolicy.SWITCH_AT_START
        bpm = float(lanes[i + 1].course.bpm_at(t.in_at) if goes_in else lanes[i].course.bpm_at(t.out_at))
        offsets.append(offsets[-1] + t.out_at - t.in_at + t.nudge_ms * bpm / 60_000.0)
    return offsets


def _start_of(fade: Transition, out: TempoMap, out_offset: float) -> tuple[float, float]:
    """When the incoming of a fade or after a pause starts, and when the mix goes over to its clock."""
    leaves_s = float(out.time_at(out_offset + fade.out_at))
    late_s = fade.nudge_ms / 1000.0
    if fade.kind is Kind.FADE:
        return leaves_s + late_s, leaves_s + fade.seconds / 2.0
    start_s = leaves_s + fade.seconds + max(late_s, 0.0)
    return start_s, start_s


def _led(
    begin: float, chain: range, offsets: Sequence[float], transitions: Sequence[Transition], lanes: Sequence[Lane]
) -> list[TempoPoint]:
    """The tempo over a chain as its entries and transitions have it, from a beat of its first entry on."""
    leads = _Leading(lanes[chain.start].course, offsets[0])
    points = [TempoPoint(begin, leads.bpm_at(begin))]
    over = leads_from = begin
    for offset, i in zip(offsets, chain[:-1], strict=False):
        t = transitions[i]
        start = offset + t.out_at
        follows = transitions[i + 1] if i + 1 < len(transitions) else None
        latest = offsets[i + 1 - chain.start] + follows.out_at - follows.lead if follows else np.inf
        within = (over, max(latest, start + t.beats))
        leave, arrive = _ends(t, start, within)
        before = leads.bpm_before(leave) if leave > begin else leads.bpm_at(leave)
        into = lanes[i + 1]
        comes = _Leading(TempoMap.steady(before) if into.follows_mix else into.course, offsets[i + 1 - chain.start])
        points += leads.points_between(leads_from, leave)
        points += _way(t, leave, arrive, within[1], before, comes, lanes[i].played.bar)
        leads, leads_from, over = comes, points[-1].beat, start + t.beats
    points += leads.points_between(leads_from, np.inf)
    return _in_order(points)


@dataclass(frozen=True)
class _Leading:
    """The course of the entry that leads, with its beat 0 on ``offset`` of the chain."""

    course: TempoMap
    offset: float

    def bpm_at(self, beat: float) -> float:
        return float(self.course.bpm_at(beat - self.offset))

    def bpm_before(self, beat: float) -> float:
        return self.course.bpm_before(beat - self.offset)

    def points_between(self, after: float, before: float) -> list[TempoPoint]:
        """Where the tempo turns between two beats, not on them; a course of one tempo does not."""
        if self.course.is_one_tempo:
            return []
        inside = self.course.points_between(after - self.offset, before - self.offset)
        return [TempoPoint(p.beat + self.offset, p.bpm) for p in inside]


def _as_recorded(begin: float, played: Played) -> list[TempoPoint]:
    """The tempo of a track's own grid."""
    points = [TempoPoint(begin, float(played.bpm_at(begin)))]
    course = [TempoPoint(played.of_grid(beat), bpm * played.count) for beat, bpm in played.grid.course]
    return [*points, *(p for p in course if p.beat > begin)]


def _ends(t: Transition, start: float, within: tuple[float, float]) -> tuple[float, float]:
    """Where the tempo begins to go from that of one entry to that of the next, and where it has arrived: about an
    overlap from beat ``start`` on, and no farther than to the overlaps before and after it."""
    end = start + t.beats
    match t.tempo:
        case TempoPolicy.SWITCH_AT_START:
            return start, start
        case TempoPolicy.SWITCH_AT_END:
            return end, end
        case TempoPolicy.RAMP | TempoPolicy.STEPS:
            return max(start - t.way.before, within[0]), min(end + t.way.after, within[1])


def _way(
    t: Transition, leave: float, arrive: float, latest: float, before: float, into: _Leading, bar: float
) -> list[TempoPoint]:
    """How the tempo goes from that which the outgoing has where it ends to lead, to that of the incoming."""
    if t.tempo is not TempoPolicy.STEPS:
        return [TempoPoint(leave, before), TempoPoint(arrive, into.bpm_at(arrive))]
    after = into.bpm_at(arrive)
    rise = after - before
    steps = [*np.arange(t.way.step_bpm, abs(rise), t.way.step_bpm), abs(rise)]
    points = [TempoPoint(leave, before)]
    for n, step in enumerate(steps):
        beat = min(leave + n * t.way.step_bars * bar, latest)
        points += [TempoPoint(beat, points[-1].bpm), TempoPoint(beat, before + float(np.copysign(step, rise)))]
    # The tempo of the incoming may have gone on meanwhile.
    arrived = into.bpm_at(points[-1].beat)
    return points if arrived == after else [*points, TempoPoint(points[-1].beat, arrived)]


def _in_order(points: list[TempoPoint]) -> list[TempoPoint]:
    """Points that never go back: where rounding puts one a hair before its forerunner, it is moved onto it."""
    result: list[TempoPoint] = []
    for point in points:
        floor = result[-1].beat if result else point.beat
        result.append(TempoPoint(max(point.beat, floor), point.bpm))
    return result


def _marked(points: list[TempoPoint], marks: Sequence[tuple[float, TempoMark]]) -> list[TempoPoint]:
    """Tempo points with those set by hand in the place of all between the first and the last of these."""
    if not marks:
        return points
    itself = TempoMap(tuple(points), points[0].beat)
    first, last = marks[0][0], marks[-1][0]
    before, after = itself.bpm_before(first), float(itself.bpm_at(last))
    made = [TempoPoint(first, before), TempoPoint(first, marks[0][1].bpm)]
    for (a, here), (b, there) in pairwise(marks):
        made += _between(a, b, here, there)
    return [
        *(p for p in points if p.beat < first),
        *made,
        TempoPoint(last, after),
        *(p for p in points if p.beat > last),
    ]


def _between(a: float, b: float, here: TempoMark, there: TempoMark) -> list[TempoPoint]:
    """From one mark to the next, which is the last of the points."""
    match here.onward:
        case Onward.STEP:
            return [TempoPoint(b, here.bpm), TempoPoint(b, there.bpm)]
        case Onward.STRAIGHT:
            return [TempoPoint(b, there.bpm)]
        case Onward.SMOOTH:
            t = np.arange(1, SMOOTH_PIECES + 1) / SMOOTH_PIECES
            way = t * t * (3.0 - 2.0 * t)
            return [
                TempoPoint(a + float(x) * (b - a), here.bpm + float(y) * (there.bpm - here.bpm))
                for x, y in zip(t, way, strict=True)
            ]


def _joined(tempi: Sequence[TempoMap], begins: Sequence[float]) -> TempoMap:
    """The clock of the mix: each chain's own from the beat on at which the mix goes over to it."""
    points: list[TempoPoint] = []
    edges = [-np.inf, *begins, np.inf]
    for tempo, (first, last) in zip(tempi, pairwise(edges), strict=True):
        if np.isfinite(first):
            points.append(TempoPoint(first, float(tempo.bpm_at(first))))
        points += [p for p in tempo.points if first < p.beat < last]
        if np.isfinite(last):
            points.append(TempoPoint(last, float(tempo.bpm_at(np.nextafter(last, -np.inf)))))
    return TempoMap(tuple(points), tempi[0].origin_beat)
