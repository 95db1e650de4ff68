"""Which moment of an entry's audio sounds at which moment of the mix.

Between its edges an entry is played in segments: copied sample for sample where it runs at its own speed, resampled
where pitch may follow the tempo (or the difference is too small to hear), stretched otherwise.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise

import numpy as np

from fernbrook.core.mix.entries import Played
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import FloatArray

INAUDIBLE = 1e-3
"""A change of speed by less than this is played by resampling: 1.7 cents."""
EXACT = 1e-9
JUST_AFTER = 1e-7
"""Beats by which a place on a line is looked at after it, where rounding may have put it a hair before."""
BLOCK_BEATS = 8
"""A stretch works in blocks of so many beats of the grid, so that a render may begin anywhere and come out the same."""
LONGEST_BLOCK_S = 4.5
"""Blocks are made of fewer beats where they would take longer, so that a preview need not make much at its start."""


class Mode(StrEnum):
    """How a segment of an entry is played."""

    COPY = "copy"
    RESAMPLE = "resample"
    STRETCH = "stretch"


@dataclass(frozen=True)
class TimeMap:
    """The map from mix time to source time.

    ``offset`` is the mix beat of the entry's beat 0; ``shift_s`` moves the source by less than a sample so that
    copied segments fall on whole samples.
    """

    played: Played
    offset: float
    tempo: TempoMap
    start_beat: float
    end_beat: float
    shift_s: float = 0.0

    def source_at(self, mix_times: FloatArray) -> FloatArray:
        """Seconds of the source at seconds of the mix; same shape."""
        return self.played.time_at(self.tempo.beat_at(mix_times) - self.offset) + self.shift_s

    def mix_at(self, source_times: FloatArray) -> FloatArray:
        """Seconds of the mix at seconds of the source; the inverse of ``source_at``."""
        beats = self.played.beat_at(np.asarray(source_times) - self.shift_s)
        return self.tempo.time_at(beats + self.offset)

    def block_lines_s(self, start_s: float, end_s: float) -> FloatArray:
        """Beats between two mix times, in seconds, between which a stretch works: ``BLOCK_BEATS``, or half or a quarter
        of it where those would take longer than ``LONGEST_BLOCK_S``."""
        first, last = (float(b) - self.offset for b in self.tempo.beat_at([start_s, end_s]))
        lines = self.played.grid_lines(first, last)
        times = self.tempo.time_at(lines + self.offset)
        if len(lines) < 2:
            return np.zeros(0)
        apart_s = float(times[-1] - times[0]) / (len(times) - 1)
        every = BLOCK_BEATS
        while every > 1 and every * apart_s > LONGEST_BLOCK_S:
            every //= 2
        wanted = (
            (np.rint((lines - self.played.shift) / self.played.count) % every == 0)
            & (times > start_s)
            & (times < end_s)
        )
        return np.asarray(times[wanted])

    def speeds(self, start_beat: float, end_beat: float) -> FloatArray:
        """Source seconds per mix second through a span of mix beats; at each half beat where the grid is free."""
        n = 9 if self.played.grid.is_constant else max(9, int(2 * (end_beat - start_beat)) + 1)
        inset = 1e-9 * (end_beat - start_beat)
        beats = np.linspace(start_beat + inset, end_beat - inset, n)
        # Where both step on one beat, neither is to be looked at before it and the other after it.
        beats[:-1] += min(JUST_AFTER, inset)
        return np.asarray(self.tempo.bpm_at(beats) / self.played.bpm_at(beats - self.offset))

    def farthest_speed(self, start_beat: float, end_beat: float) -> float:
        """The speed in a span that differs most from 1."""
        speeds = self.speeds(start_beat, end_beat)
        return float(speeds[np.argmax(np.abs(speeds - 1.0))])

    def mode_between(self, start_beat: float, end_beat: float, keeps_pitch: bool, shifted: bool = False) -> Mode:
        """How the span is best played."""
        if shifted:
            return Mode.STRETCH
        off = abs(self.farthest_speed(start_beat, end_beat) - 1.0)
        if off < EXACT:
            return Mode.COPY
        if not keeps_pitch or off < INAUDIBLE:
            return Mode.RESAMPLE
        return Mode.STRETCH

    def moved(self, by_s: float) -> TimeMap:
        """The map that reads the source so much later."""
        return replace(self, shift_s=self.shift_s + by_s)

    def on_whole_samples(self, at_s: float, rate: int) -> TimeMap:
        """The map shifted so that the copy around ``at_s`` reads whole samples of the source.

        The shift is at most half a sample; all of the entry moves with it, so nothing jumps.
        """
        lead = float(self.source_at(np.asarray(at_s))) - at_s
        shift = (round(lead * rate) - lead * rate) / rate
        return self.moved(shift)


@dataclass(frozen=True)
class Segment:
    """A stretch of the mix, in seconds, in which a part is played in one way, by one map."""

    start_s: float
    end_s: float
    mode: Mode
    time_map: TimeMap


def source_at(segments: Sequence[Segment], mix_times: FloatArray) -> FloatArray:
    """Seconds of the source at seconds of the mix, which rise, along segments in order; same shape."""
    places = np.searchsorted([s.start_s for s in segments[1:]], mix_times, side="right")
    source = np.zeros(np.shape(mix_times))
    for place in np.unique(places):
        here = places == place
        source[here] = segments[place].time_map.source_at(mix_times[here])
    return source


def segments_of(
    time_map: TimeMap, borders: list[float], keeps_pitch: bool, rate: int, shifted: bool = False
) -> tuple[Segment, ...]:
    """The segments between successive borders, given in mix beats; neighbours of one mode are joined.

    Where the pitch is shifted all of it is stretched, at its own speed too. What is copied falls on whole samples.
    """
    times = [float(t) for t in time_map.tempo.time_at(borders)]
    joined: list[Segment] = []
    for i, (start, end) in enumerate(pairwise(times)):
        if end - start < 1e-9:
            continue
        mode = time_map.mode_between(borders[i], borders[i + 1], keeps_pitch, shifted)
        if joined and joined[-1].mode is mode:
            joined[-1] = replace(joined[-1], end_s=end)
        else:
            joined.append(Segment(start, end, mode, time_map))
    copied = next((s for s in joined if s.mode is Mode.COPY), None)
    if copied is None:
        return tuple(joined)
    whole = time_map.on_whole_samples(copied.start_s, rate)
    return tuple(replace(s, time_map=whole) for s in joined)
