"""The tempo of the whole mix over its beats, and the clock that follows from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike

from fernbrook.core.track import FloatArray

STEP_BEATS = 1e-9
"""A way from tempo to tempo that is shorter has no slope that a number can hold."""


@dataclass(frozen=True)
class TempoPoint:
    """The tempo at one beat of the mix."""

    beat: float
    bpm: float


@dataclass(frozen=True)
class TempoMap:
    """Tempo that is linear in beats between points and constant outside them.

    Two points on one beat, or less than ``STEP_BEATS`` apart, make a step. The clock reads zero at ``origin_beat``.

    With tempo v(b) = v0 + k (b - b0), time is the integral of 60 / v(b), which is
    t = 60 / k * log(1 + k (b - b0) / v0); its inverse is b - b0 = v0 / k * (exp(k t / 60) - 1).
    """

    points: tuple[TempoPoint, ...]
    origin_beat: float

    def __post_init__(self) -> None:
        if not self.points:
            raise ValueError("a tempo map needs at least one point")
        if any(p.bpm <= 0 for p in self.points):
            raise ValueError("tempo must be above 0 BPM")
        if any(b.beat < a.beat for a, b in pairwise(self.points)):
            raise ValueError("tempo points must not go back in beats")

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        """Worked out once: what follows from a map is kept by it, and it may have thousands of points."""
        return hash((self.points, self.origin_beat))

    @classmethod
    def of(cls, pairs: Sequence[tuple[float, float]], origin_beat: float = 0.0) -> TempoMap:
        """A map from ``(beat, bpm)`` pairs."""
        return cls(tuple(TempoPoint(beat, bpm) for beat, bpm in pairs), origin_beat)

    @classmethod
    def steady(cls, bpm: float) -> TempoMap:
        """One tempo."""
        return cls.of([(0.0, bpm)])

    @cached_property
    def is_one_tempo(self) -> bool:
        """Whether it never changes."""
        return len(self.points) == 1

    @cached_property
    def _beats(self) -> FloatArray:
        """Start of each stretch; the first, constant one begins anywhere before the first point."""
        return np.array([self.points[0].beat, *(p.beat for p in self.points)])

    @cached_property
    def _bpm(self) -> FloatArray:
        return np.array([self.points[0].bpm, *(p.bpm for p in self.points)])

    @cached_property
    def _slope(self) -> FloatArray:
        """BPM per beat within each stretch, zero for steps and outside the points."""
        beats = np.diff(self._beats)
        rise = np.diff(self._bpm)
        slope = np.divide(rise, beats, out=np.zeros_like(rise), where=beats > STEP_BEATS)
        return np.append(slope, 0.0)

    @cached_property
    def _times(self) -> FloatArray:
        """Clock at the start of each stretch."""
        lengths = self._elapsed(np.arange(len(self._beats) - 1), np.diff(self._beats))
        times = np.concatenate(([0.0], np.cumsum(lengths)))
        at_origin = self._stretch_of(np.asarray(self.origin_beat))
        origin = times[at_origin] + self._elapsed(at_origin, self.origin_beat - self._beats[at_origin])
        return np.asarray(times - origin)

    def _stretch_of(self, beats: FloatArray) -> np.ndarray:
        """Index of the stretch that holds each beat: 0 lies before the first point."""
        return np.searchsorted(self._beats[1:], beats, side="right")

    def _elapsed(self, stretch: np.ndarray, beats: FloatArray | float) -> FloatArray:
        """Seconds that ``beats`` take from the start of their stretch."""
        v0, k = self._bpm[stretch], self._slope[stretch]
        ramp = k != 0
        safe = np.where(ramp, k, 1.0)
        return np.asarray(np.where(ramp, 60.0 / safe * np.log1p(safe * beats / v0 * ramp), 60.0 * beats / v0))

    def time_at(self, beats: ArrayLike) -> FloatArray:
        """Seconds of the mix at the given beats; same shape as ``beats``."""
        b = np.asarray(beats, dtype=np.float64)
        stretch = self._stretch_of(b)
        return np.asarray(self._times[stretch] + self._elapsed(stretch, b - self._beats[stretch]))

    def beat_at(self, times_s: ArrayLike) -> FloatArray:
        """Beats of the mix at the given seconds; the inverse of ``time_at``."""
        t = np.asarray(times_s, dtype=np.float64)
        stretch = np.searchsorted(self._times[1:], t, side="right")
        v0, k = self._bpm[stretch], self._slope[stretch]
        elapsed = t - self._times[stretch]
        ramp = k != 0
        safe = np.where(ramp, k, 1.0)
        beats = np.where(ramp, v0 / safe * np.expm1(safe * elapsed / 60.0 * ramp), v0 * elapsed / 60.0)
        return np.asarray(self._beats[stretch] + beats)

    def bpm_at(self, beats: ArrayLike) -> FloatArray:
        """Tempo at the given beats; on a step, the tempo after it."""
        b = np.asarray(beats, dtype=np.float64)
        stretch = self._stretch_of(b)
        return np.asarray(self._bpm[stretch] + self._slope[stretch] * (b - self._beats[stretch]))

    def mean_bpm(self, start_s: float, end_s: float) -> float:
        """Beats a minute between two moments."""
        first, last = self.beat_at([start_s, end_s])
        return float(last - first) * 60.0 / (end_s - start_s)

    def bpm_before(self, beat: float) -> float:
        """Tempo just before a beat: of a step on it, the tempo that ends."""
        return float(self.bpm_at(np.nextafter(beat, -np.inf)))

    def points_between(self, start_beat: float, end_beat: float) -> tuple[TempoPoint, ...]:
        """The points that lie within a span of beats, not on its edges."""
        beats = self._beats[1:]
        first = int(np.searchsorted(beats, start_beat, side="right"))
        return self.points[first : max(first, int(np.searchsorted(beats, end_beat, side="left")))]

    def slowest(self, start_beat: float, end_beat: float) -> float:
        """The lowest tempo in a span of beats."""
        inside = (p.bpm for p in self.points_between(start_beat, end_beat))
        return min(*(float(bpm) for bpm in self.bpm_at([start_beat, end_beat])), *inside)

    def is_steady(self, start_beat: float, end_beat: float) -> bool:
        """Whether the tempo stays the same throughout a span of beats."""
        inside = [p.bpm for p in self.points_between(start_beat, end_beat)]
        edge = float(self.bpm_at(start_beat))
        just_before_end = float(self.bpm_at(np.nextafter(end_beat, start_beat)))
        return all(abs(bpm - edge) < 1e-9 for bpm in [*inside, just_before_end])
