"""One part's audio along its time map, before any gain."""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.interpolate import interpolate, margin
from fernbrook.audio.pitch import shifted
from fernbrook.audio.source import Source
from fernbrook.audio.stretch.held_map import Join
from fernbrook.audio.stretch.kept_blocks import KeptBlocks
from fernbrook.audio.stretch.stretcher import HOP, REACH, Stretcher
from fernbrook.core.plan.part import Part
from fernbrook.core.plan.time_map import Mode, Segment, TimeMap

JOIN = 512
"""Samples before a border over which one way of playing passes into the next."""


class Player:
    """Plays the segments of a part and joins them; what sounds at a sample never depends on what was asked before."""

    def __init__(self, part: Part, source: Source, kept: KeptBlocks | None = None) -> None:
        self._rate = source.rate
        segments = part.segments
        self._starts = [round(s.start_s * self._rate) for s in segments]
        self._ends = [round(s.end_s * self._rate) for s in segments]
        self._kept = None if kept is None else (kept, (source.identity, part.pitch))
        self._plays = [self._play_of(i, part, source) for i in range(len(segments))]

    def render(self, start: int, end: int) -> NDArray[np.float64]:
        """Samples [start, end) of the mix, whole hops; shape (end - start, 2)."""
        out = np.zeros((end - start, 2))
        last = len(self._plays) - 1
        for i, play in enumerate(self._plays):
            begins = self._starts[i] - JOIN if i else -np.inf
            stops = self._ends[i] if i < last else np.inf
            if begins >= end or stops <= start:
                continue
            sound = play(start, end)
            weight = self._weight(i, start, end)
            out += sound if weight is None else sound * weight[:, None]
        return out

    def _weight(self, i: int, start: int, end: int) -> NDArray[np.float64] | None:
        """How much of segment ``i`` is heard at each sample; None where all of it is."""
        comes = i > 0 and start < self._starts[i]
        goes = i < len(self._plays) - 1 and end > self._ends[i] - JOIN
        if not comes and not goes:
            return None
        n = np.arange(start, end)
        weight = np.ones(len(n))
        if comes:
            weight = np.clip((n - (self._starts[i] - JOIN)) / JOIN, 0.0, 1.0)
        if goes:
            weight = np.minimum(weight, np.clip((self._ends[i] - n) / JOIN, 0.0, 1.0))
        return weight

    def _play_of(self, i: int, part: Part, source: Source) -> _Play:
        segment, time_map = part.segments[i], part.time_map
        match segment.mode:
            case Mode.COPY:
                return _Copy(segment, time_map, source)
            case Mode.RESAMPLE:
                return _Resample(segment, time_map, source)
            case Mode.STRETCH:
                follows, goes_on = i > 0, i + 1 < len(part.segments)
                return _Stretch(segment, part, source, follows, goes_on, self._kept)


class _Copy:
    """The source as it is, some samples earlier or later."""

    def __init__(self, segment: Segment, time_map: TimeMap, source: Source) -> None:
        lead = float(time_map.source_at(np.asarray(segment.start_s))) - segment.start_s
        self._lead = round(lead * source.rate)
        self._source = source

    def __call__(self, start: int, end: int) -> NDArray[np.float64]:
        return self._source.read(start + self._lead, end - start).astype(np.float64)


class _Resample:
    """The source at another speed, its pitch following."""

    def __init__(self, segment: Segment, time_map: TimeMap, source: Source) -> None:
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

    Where it meets another segment, all its frames that are heard lie as that one has them.
    """

    def __init__(
        self,
        segment: Segment,
        part: Part,
        source: Source,
        follows: bool,
        goes_on: bool,
        kept: tuple[KeptBlocks, Hashable] | None,
    ) -> None:
        rate, time_map = source.rate, part.time_map
        start, end = round(segment.start_s * rate), round(segment.end_s * rate)
        begin = (start - JOIN - 2 * REACH) // HOP
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
        inside = lines[(lines > begin + half) & (lines < ends[0] - half)]
        borders = np.concatenate(([begin], inside, ends))
        read, warp = (source.read, time_map) if part.pitch == 1.0 else shifted(source.read, time_map, part.pitch)
        self._stretcher = Stretcher(read, warp, borders, joins, rate, kept)

    def __call__(self, start: int, end: int) -> NDArray[np.float64]:
        return self._stretcher.render(start, end)


_Play = _Copy | _Resample | _Stretch
