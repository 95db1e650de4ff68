"""The beat grid of a track: which moment of the audio is which beat.

Between anchors a grid has one tempo, or a ramp from one to another. One anchor and a tempo describe a machine-made
track, a second tempo after an anchor a change in mid-track, an anchor every beat a live player.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import Field, model_validator

from fernbrook.core.track.bar_lines import BarLines
from fernbrook.core.value import Beat, Seconds, Value

FloatArray = NDArray[np.float64]

MIN_BPM = 20.0
MAX_BPM = 400.0
MOST_ANCHORS = 50_000
MOST_BEATS_A_BAR = 12
MOST_BEGINNINGS = 1000
MIN_RAMP, MAX_RAMP = 0.05, 20.0
MEANT_STEP = 0.04
"""A tempo that changes by a larger share than this, from one stretch to the next, is meant to."""
MEANT_BEATS = 8.0


class Anchor(Value):
    """Ties a moment of the audio to a beat of the grid.

    ``ramp`` is the tempo at the end of the stretch that begins here over that at its start: 1 where it has one tempo,
    as it has after the last anchor.
    """

    time_s: Seconds
    beat: Beat
    ramp: float = Field(default=1.0, ge=MIN_RAMP, le=MAX_RAMP)

    def at(self, time_s: float, beat: float) -> Anchor:
        """The anchor elsewhere, with its ramp."""
        return self.model_copy(update={"time_s": time_s, "beat": beat})


class BarsFrom(Value):
    """From this beat on bars start again, and have so many beats."""

    beat: int = Field(ge=-1_000_000, le=1_000_000)
    beats: int = Field(ge=2, le=MOST_BEATS_A_BAR)


class Grid(Value):
    """Anchors, strictly rising in time and beat, with the tempo before the first and after the last.

    Beat 0 is the first downbeat; beats before it are negative. Bars have ``beats_per_bar`` beats on both sides of it,
    up to where they start again (``bars_from``, rising). A ramp is linear in beats, as the tempo map of a mix is:
    over L beats from v0 to v1 = r v0, beat b lies 60 / k * log(1 + k b / v0) after its anchor, with k = (v1 - v0) / L.
    All L take the time between the anchors, T, so v0 = 60 L log(r) / (T (r - 1)).
    """

    anchors: tuple[Anchor, ...] = Field(min_length=1, max_length=MOST_ANCHORS)
    bpm_before: float = Field(ge=MIN_BPM, le=MAX_BPM)
    bpm_after: float = Field(ge=MIN_BPM, le=MAX_BPM)
    beats_per_bar: int = Field(default=4, ge=2, le=MOST_BEATS_A_BAR)
    bars_from: tuple[BarsFrom, ...] = Field(default=(), max_length=MOST_BEGINNINGS)

    @model_validator(mode="after")
    def _rising(self) -> Grid:
        for earlier, later in pairwise(self.anchors):
            if later.time_s <= earlier.time_s or later.beat <= earlier.beat:
                raise ValueError(
                    f"anchors must rise in time and beat: {later.beat:g} at {later.time_s:g} s "
                    f"follows {earlier.beat:g} at {earlier.time_s:g} s"
                )
        if any(b.beat <= a.beat for a, b in pairwise(self.bars_from)) or any(b.beat == 0 for b in self.bars_from):
            raise ValueError("bars start again on rising beats, and on beat 0 in any case")
        if self.anchors[-1].ramp != 1.0:
            raise ValueError("a ramp goes from one anchor to the next: the last one begins none")
        return self

    @classmethod
    def constant(cls, bpm: float, first_downbeat_s: float, beats_per_bar: int = 4) -> Grid:
        """A grid of one tempo whose beat 0 lies at ``first_downbeat_s`` seconds.

        >>> Grid.constant(120.0, 0.5).time_at([0, 1, 4]).tolist()
        [0.5, 1.0, 2.5]
        """
        return cls(
            anchors=(Anchor(time_s=first_downbeat_s, beat=0.0),),
            bpm_before=bpm,
            bpm_after=bpm,
            beats_per_bar=beats_per_bar,
        )

    @classmethod
    def through(cls, times_s: ArrayLike, beats: ArrayLike, beats_per_bar: int = 4) -> Grid:
        """A grid through all given points; the tempo outside them is that of the outermost pairs.

        Parameters
        ----------
        times_s, beats : array_like, shape (n,), n >= 2
        """
        t = np.asarray(times_s, dtype=np.float64)
        b = np.asarray(beats, dtype=np.float64)
        if len(t) < 2 or len(t) != len(b):
            raise ValueError("a grid through points needs at least two times and as many beats")
        tempo = 60.0 * np.diff(b) / np.diff(t)
        anchors = tuple(Anchor(time_s=float(x), beat=float(y)) for x, y in zip(t, b, strict=True))
        return cls(anchors=anchors, bpm_before=float(tempo[0]), bpm_after=float(tempo[-1]), beats_per_bar=beats_per_bar)

    @cached_property
    def _times(self) -> FloatArray:
        return np.array([a.time_s for a in self.anchors], dtype=np.float64)

    @cached_property
    def _beats(self) -> FloatArray:
        return np.array([a.beat for a in self.anchors], dtype=np.float64)

    @cached_property
    def _bpm(self) -> FloatArray:
        """Tempo of each stretch: before the first anchor, between each two, after the last."""
        inner = 60.0 * np.diff(self._beats) / np.diff(self._times)
        return np.concatenate(([self.bpm_before], inner, [self.bpm_after]))

    @cached_property
    def _starts(self) -> FloatArray:
        """Tempo at the start of each stretch."""
        ramp = self._ramps
        is_ramp = ramp != 1.0
        safe = np.where(is_ramp, ramp, 2.0)
        return np.asarray(self._bpm * np.where(is_ramp, np.log(safe) / (safe - 1.0), 1.0))

    @cached_property
    def _ramps(self) -> FloatArray:
        return np.array([1.0, *(a.ramp for a in self.anchors[:-1]), 1.0])

    @cached_property
    def _slopes(self) -> FloatArray:
        """BPM per beat within each stretch; 0 where it has one tempo."""
        lengths = np.concatenate(([1.0], np.diff(self._beats), [1.0]))
        return np.asarray(self._starts * (self._ramps - 1.0) / lengths)

    @cached_property
    def is_constant(self) -> bool:
        """Whether one tempo describes the whole track."""
        return bool(np.ptp(self._bpm) < 1e-9 and np.all(self._ramps == 1.0))

    @cached_property
    def means_its_changes(self) -> bool:
        """Whether the tempo changes on purpose rather than wandering as a player does: by ``MEANT_STEP`` in a ramp, or
        between two stretches of ``MEANT_BEATS`` or more that lie less than that apart. Tempi that nobody could mean are
        none."""
        low, high = self.extremes
        if low < MIN_BPM or high > MAX_BPM:
            return False
        begins = np.concatenate(([-np.inf], self._beats))
        ends = np.concatenate((self._beats, [np.inf]))
        long = np.flatnonzero(ends - begins >= MEANT_BEATS)
        ramped = np.abs(np.log(self._ramps[long])) > MEANT_STEP
        steps = np.abs(np.log(self._starts[long[1:]] / (self._starts * self._ramps)[long[:-1]]))
        near = begins[long[1:]] - ends[long[:-1]] < MEANT_BEATS
        return bool(np.any(ramped) or np.any(steps[near] > MEANT_STEP))

    def tempi_at_ends(self, start_s: float, end_s: float) -> tuple[float, float] | tuple[None, None]:
        """The tempi at two moments, between which the track sounds; none where it does not mean its changes."""
        if not self.means_its_changes:
            return None, None
        comes, leaves = (float(bpm) for bpm in self.bpm_at(self.beat_at([start_s, end_s])))
        return comes, leaves

    @property
    def extremes(self) -> tuple[float, float]:
        """The lowest and the highest tempo that there is."""
        ends = np.concatenate((self._starts, self._starts * self._ramps))
        return float(ends.min()), float(ends.max())

    @property
    def course(self) -> list[tuple[float, float]]:
        """The tempo as pairs of beat and BPM: linear between them, level outside, two on one beat where it steps."""
        beats = np.repeat(self._beats, 2)
        ends = self._starts * self._ramps
        bpm = np.stack((ends[:-1], self._starts[1:]), axis=1).ravel()
        return [(float(b), float(v)) for b, v in zip(beats, bpm, strict=True)]

    @property
    def stretch_tempi(self) -> FloatArray:
        """The tempi of the stretches between anchors, and those beyond where there are no two."""
        return self._bpm[1:-1] if len(self.anchors) > 1 else self._bpm

    def time_at(self, beats: ArrayLike) -> FloatArray:
        """Seconds of audio at the given beats; same shape as ``beats``."""
        b = np.asarray(beats, dtype=np.float64)
        stretch = np.searchsorted(self._beats, b, side="right")
        anchor = np.maximum(stretch - 1, 0)
        past = b - self._beats[anchor]
        level = past * (60.0 / self._bpm[stretch])
        slope = self._slopes[stretch]
        if not np.any(slope):
            return np.asarray(self._times[anchor] + level)
        is_ramp = slope != 0.0
        safe = np.where(is_ramp, slope, 1.0)
        ramped = 60.0 / safe * np.log1p(np.where(is_ramp, slope, 0.0) * past / self._starts[stretch])
        return np.asarray(self._times[anchor] + np.where(is_ramp, ramped, level))

    def beat_at(self, times_s: ArrayLike) -> FloatArray:
        """Beats at the given seconds of audio; the exact inverse of ``time_at``."""
        t = np.asarray(times_s, dtype=np.float64)
        stretch = np.searchsorted(self._times, t, side="right")
        anchor = np.maximum(stretch - 1, 0)
        past = t - self._times[anchor]
        level = past * (self._bpm[stretch] / 60.0)
        slope = self._slopes[stretch]
        if not np.any(slope):
            return np.asarray(self._beats[anchor] + level)
        is_ramp = slope != 0.0
        safe = np.where(is_ramp, slope, 1.0)
        ramped = self._starts[stretch] / safe * np.expm1(np.where(is_ramp, slope, 0.0) * past / 60.0)
        return np.asarray(self._beats[anchor] + np.where(is_ramp, ramped, level))

    def bpm_at(self, beats: ArrayLike) -> FloatArray:
        """Tempo in BPM at the given beats; on an anchor, that of the stretch which begins there."""
        b = np.asarray(beats, dtype=np.float64)
        stretch = np.searchsorted(self._beats, b, side="right")
        past = b - self._beats[np.maximum(stretch - 1, 0)]
        return np.asarray(self._starts[stretch] + self._slopes[stretch] * past)

    def ticks(self, start_s: float, end_s: float) -> tuple[FloatArray, np.ndarray]:
        """The moments of all beats in [start_s, end_s), and which of them begin a bar."""
        first, last = self.beat_at([start_s, end_s])
        beats = np.arange(np.ceil(first - 1e-6), np.ceil(last - 1e-6))
        return self.time_at(beats), self.bar_lines.is_line(beats)

    @cached_property
    def bar_lines(self) -> BarLines:
        """Which beats begin a bar."""
        runs = [(float(b.beat), float(b.beats)) for b in self.bars_from]
        runs = sorted([*runs, (0.0, float(self.beats_per_bar))])
        return BarLines.of(runs, float(self.beats_per_bar))

    def mean_bpm(self, start_s: float, end_s: float) -> float:
        """The steady tempo that has as many beats between two moments as the grid has."""
        if self.is_constant:
            return self.bpm_after
        first, last = self.beat_at([start_s, end_s])
        return float(60.0 * (last - first) / (end_s - start_s))

    def without_needless_anchors(self, tolerance_s: float) -> Grid:
        """The same grid with only the anchors that are needed to stay within a tolerance of all of them.

        Found as in D. Douglas and T. Peucker, "Algorithms for the reduction of the number of points required to
        represent a digitized line", Cartographica 10(2), 1973, with the distance taken in time.
        """
        times, beats = self._times, self._beats
        # A ramp is what its two anchors make of it.
        ramps = [i for i, a in enumerate(self.anchors[:-1]) if a.ramp != 1.0]
        borders = sorted({0, len(times) - 1, *ramps, *(i + 1 for i in ramps)})
        keep = set(borders)
        spans = list(pairwise(borders))
        while spans:
            begin, end = spans.pop()
            if end - begin < 2:
                continue
            inner = np.arange(begin + 1, end)
            line = np.interp(beats[inner], [beats[begin], beats[end]], [times[begin], times[end]])
            far = np.abs(times[inner] - line)
            worst = int(np.argmax(far))
            if far[worst] > tolerance_s:
                middle = begin + 1 + worst
                keep.add(middle)
                spans += [(begin, middle), (middle, end)]
        anchors = tuple(self.anchors[i] for i in sorted(keep))
        return self.model_copy(update={"anchors": anchors})

    def counted(self, beats_per_beat: float, zero_beat: float) -> Grid:
        """The same moments counted otherwise: ``beats_per_beat`` new ones for each beat, 0 at ``zero_beat``."""
        return Grid(
            anchors=tuple(a.at(a.time_s, (a.beat - zero_beat) * beats_per_beat) for a in self.anchors),
            bpm_before=self.bpm_before * beats_per_beat,
            bpm_after=self.bpm_after * beats_per_beat,
            beats_per_bar=self.beats_per_bar,
            bars_from=bars_counted(self.bars_from, beats_per_beat, zero_beat),
        )

    def slid(self, by_s: float) -> Grid:
        """The whole grid moved in time."""
        return self.model_copy(update={"anchors": tuple(a.at(a.time_s + by_s, a.beat) for a in self.anchors)})


def bars_counted(bars_from: Iterable[BarsFrom], beats_per_beat: float, zero_beat: float) -> tuple[BarsFrom, ...]:
    """Where bars start again in beats that are counted otherwise: on the line before, where there is none any more."""
    counted = {math.floor((b.beat - zero_beat) * beats_per_beat + 1e-6): b.beats for b in bars_from}
    return tuple(BarsFrom(beat=beat, beats=beats) for beat, beats in sorted(counted.items()) if beat)


STAND_IN_BPM = 120.0
STAND_IN = Grid.constant(STAND_IN_BPM, 0.0)
"""What a track is counted by until it has a grid."""
