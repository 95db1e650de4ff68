"""One part's audio along its time map, before any gain."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.pace import interpolate, margin, shifted
from fernbrook.audio.sources import AHEAD_S, LENGTH_S, Readable, Sounding, Splice, shares, splice
from fernbrook.audio.stretch import HOP, REACH, Join, KeptBlocks, Stretcher
from fernbrook.core.mix.curves import Processor, controls_of
from fernbrook.core.plan import Mode, Part, Segment
from fernbrook.core.track import Stem
from fernbrook.render.stems import StemMix

JOIN = 512
"""Samples before a border over which one way of playing passes into the next."""


class Player:
    """Plays the segments of a part and joins them; what sounds at a sample never depends on what was asked before."""

    def __init__(
        self, part: Part, source: Sounding, kept: KeptBlocks | None = None, stems: Mapping[Stem, Sounding] | None = None
    ) -> None:
        self._part = part
        self._stems = stems
        self._source = source
        self._rate = source.rate
        self._starts = [round(s.start_s * self._rate) for s in part.segments]
        self._ends = [round(s.end_s * self._rate) for s in part.segments]
        self.identity: Hashable = (source.identity, *(stem.identity for stem in (stems or {}).values()))
        """All sound that it plays from, as it is now."""
        self._kept = None if kept is None else (kept, (self.identity, part.pitch, _turns(part) if stems else None))
        self._plays: dict[int, _Play] = {}
        self._borders = [_Border(JOIN, 0, None)]
        ahead, length = (round(s * self._rate) for s in (AHEAD_S, LENGTH_S))
        for one, other in pairwise(part.segments):
            self._borders.append(
                _Border(JOIN, 0, None) if _goes_on(one, other) else _Border(length, ahead, Splice(0, 0.0))
            )
        self._compared = 0

    def render(self, start: int, end: int) -> NDArray[np.float64]:
        """Samples [start, end) of the mix, whole hops; shape (end - start, 2)."""
        out = np.zeros((end - start, 2))
        last = len(self._starts) - 1
        for i in range(last + 1):
            begins = self._starts[i] - self._borders[i].lead if i else -np.inf
            stops = self._ends[i] if i < last else np.inf
            if begins >= end or stops <= start:
                continue
            self._compare(min(i + 1, last))
            sound = self._play(i)(start, end)
            weight = self._weight(i, start, end)
            out += sound if weight is None else sound * weight[:, None]
        return out

    def _compare(self, last: int) -> None:
        """See to the splices up to a segment. Each follows from where the segment before it has come to lie."""
        for i in range(self._compared + 1, last + 1):
            border = self._borders[i]
            if border.splice is None:
                # The same map: what was moved stays so.
                self._borders[i] = replace(border, moved=self._borders[i - 1].moved)
                continue
            at = np.asarray(self._part.segments[i].start_s)
            leaves, arrives = (
                round(float(self._part.segments[k].time_map.source_at(at)) * self._rate) for k in (i - 1, i)
            )
            found = splice(self._source, leaves + self._borders[i - 1].moved, arrives)
            self._borders[i] = replace(border, splice=found, moved=found.lag)
        self._compared = max(self._compared, last)

    def _weight(self, i: int, start: int, end: int) -> NDArray[np.float64] | None:
        """How much of segment ``i`` is heard at each sample; None where all of it is."""
        here = self._borders[i]
        after = self._borders[i + 1] if i + 1 < len(self._borders) else None
        comes = i > 0 and start < self._starts[i] - here.ahead
        goes = after is not None and end > self._ends[i] - after.lead
        if not comes and not goes:
            return None
        n = np.arange(start, end)
        weight = np.ones(len(n))
        if comes:
            weight = here.shares(n, self._starts[i])[1]
        if goes and after is not None:
            weight = np.minimum(weight, after.shares(n, self._ends[i])[0])
        return weight

    def _play(self, i: int) -> _Play:
        if i not in self._plays:
            self._plays[i] = self._play_of(i)
        return self._plays[i]

    def _play_of(self, i: int) -> _Play:
        segment, part = self._part.segments[i], self._part
        moved = self._borders[i].moved
        if moved:
            segment = replace(segment, time_map=segment.time_map.moved(moved / self._rate))
        source: Readable = self._source
        if self._stems is not None:
            source = StemMix(self._source, self._stems, part, segment.time_map)
        match segment.mode:
            case Mode.COPY:
                return _Copy(segment, source)
            case Mode.RESAMPLE:
                return _Resample(segment, source)
            case Mode.STRETCH:
                follows = i > 0 and self._borders[i].splice is None
                goes_on = i + 1 < len(self._borders) and self._borders[i + 1].splice is None
                return _Stretch(segment, part, source, follows, goes_on, self._crossings(i), self._kept)

    def _crossings(self, i: int) -> tuple[_Crossing, _Crossing]:
        """Where segment ``i`` comes in and where it goes."""
        last = i + 1 == len(self._borders)
        into, out = self._borders[i], self._borders[0 if last else i + 1]
        comes = into.middle(self._starts[i]) if i and into.splice is not None else None
        goes = out.middle(self._ends[i]) if not last and out.splice is not None else None
        return _Crossing(self._starts[i] - into.lead, comes), _Crossing(self._ends[i], goes)


@dataclass(frozen=True)
class _Border:
    """How a segment takes over from the one before it: in ``length`` samples that end ``ahead`` of its start; and by
    how many samples of the source it is ``moved``. Without a splice both are the same sound, played in two ways."""

    length: int
    ahead: int
    splice: Splice | None
    moved: int = 0

    @property
    def lead(self) -> int:
        """How many samples before its start the segment begins to be heard."""
        return self.length + self.ahead

    def middle(self, start: int) -> int:
        """The sample at which both are heard alike."""
        return start - self.ahead - self.length // 2

    def shares(self, n: NDArray[np.int64], start: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """The gains of the one before and of the segment at samples of the mix; same shapes."""
        turn = np.clip((n - (start - self.lead)) / self.length, 0.0, 1.0)
        return (1.0 - turn, turn) if self.splice is None else shares(turn, self.splice.alike)


@dataclass(frozen=True)
class _Crossing:
    """The first or last sample at which a segment is heard, and that in the middle of its splice, if it has one."""

    edge: int
    middle: int | None


def _turns(part: Part) -> Hashable:
    """All that the levels of a part's stems follow from."""
    curves = tuple(
        (a.start_s, a.end_s, control, a.curves.curve(control))
        for a in part.automations
        for control in controls_of(Processor.STEM)
        if a.moves(control)
    )
    return (curves, part.dropped_stems)


def _goes_on(one: Segment, other: Segment) -> bool:
    """Whether a segment goes on in the source where the one before it stops."""
    return one.time_map is other.time_map


class _Copy:
    """The source as it is, some samples earlier or later."""

    def __init__(self, segment: Segment, source: Readable) -> None:
        lead = float(segment.time_map.source_at(np.asarray(segment.start_s))) - segment.start_s
        self._lead = round(lead * source.rate)
        self._source = source

    def __call__(self, start: int, end: int) -> NDArray[np.float64]:
        return self._source.read(start + self._lead, end - start).astype(np.float64)


class _Resample:
    """The source at another speed, its pitch following."""

    def __init__(self, segment: Segment, source: Readable) -> None:
        time_map = segment.time_map
        fastest = time_map.speeds(*(float(b) for b in time_map.tempo.beat_at([segment.start_s, segment.end_s]))).max()
        self._cutoff = min(1.0, 1.0 / float(fastest))
        self._map = time_map
        self._source = source

    def __call__(self, start: int, end: int) -> NDArray[np.float64]:
        rate = self._source.rate
        positions = self._map.source_at(np.arange(start, end) / rate) * rate
        pad = margin(self._cutoff)
        first = int(np.floor(positions[0])) - pad
        signal = self._source.read(first, int(np.ceil(positions[-1])) + pad - first + 1)
        return interpolate(signal, positions - first, self._cutoff).astype(np.float64)


class _Stretch:
    """The source at another speed, its pitch kept, or shifted.

    Where it meets another segment, all its frames that are heard lie as that one has them. In the middle of a splice
    both have the phases of their sources, which are alike there: what goes on in both does not cancel.
    """

    def __init__(
        self,
        segment: Segment,
        part: Part,
        source: Readable,
        follows: bool,
        goes_on: bool,
        crossings: tuple[_Crossing, _Crossing],
        kept: tuple[KeptBlocks, Hashable] | None,
    ) -> None:
        rate, time_map = source.rate, segment.time_map
        into, out = crossings
        end = out.edge
        begin = (into.edge - 2 * REACH) // HOP
        stop = -(-(end + REACH) // HOP)
        joins = []
        if follows:
            joins.append(Join(segment.start_s, np.inf, REACH / rate))
        ends = [stop]
        if goes_on:
            joins.append(Join(segment.end_s, (JOIN + REACH + HOP) / rate, np.inf))
            ends = [max((end - JOIN - REACH) // HOP, begin + 1), stop]
        lines = np.ceil(time_map.block_lines_s(segment.start_s, segment.end_s) * rate / HOP).astype(np.int64)
        half = (np.diff(lines).max() if len(lines) > 1 else 0) / 2
        first = begin if into.middle is None else max(round(into.middle / HOP), begin + 1)
        last = ends[0] if out.middle is None else min(max(round(out.middle / HOP), first), ends[0])
        inside = lines[(lines > first + half) & (lines < last - half)]
        borders = np.unique(np.concatenate(([begin, first], inside, [last, *ends])))
        read, warp = (source.read, time_map) if part.pitch == 1.0 else shifted(source.read, time_map, part.pitch)
        self._stretcher = Stretcher(read, warp, borders, joins, rate, kept)

    def __call__(self, start: int, end: int) -> NDArray[np.float64]:
        return self._stretcher.render(start, end)


_Play = _Copy | _Resample | _Stretch
