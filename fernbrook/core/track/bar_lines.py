"""Which beats begin a bar: bars of one length from a beat on, until others begin.

Where bars start again before the one that sounds is full, what is left of it is a bar of its own, as a 2/4 before a
chorus is; a rest that is shorter than half a bar makes the bar before it that much longer.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray

FloatArray = NDArray[np.float64]

PHRASE_BARS = 8
ON_LINE = 1e-6


@dataclass(frozen=True, eq=False)
class BarLines:
    """Bars as a function of beats, linear between ``knots``: whole numbers are bar lines, bar 0 begins with beat 0.

    Parameters
    ----------
    knots : beats on which a bar begins, rising; shape (n,)
    numbers : which bar that is; shape (n,)
    before, after : how many beats a bar has before the first and after the last
    phrases : the bars with which phrases start again, rising, the first of them bar 0 or one before it
    """

    knots: FloatArray
    numbers: FloatArray
    before: float
    after: float
    phrases: FloatArray

    @classmethod
    def of(cls, runs: Sequence[tuple[float, float]], before: float) -> BarLines:
        """The lines of runs of bars: from which beat on, and how many beats a bar has; one of them begins at beat 0,
        or the bar that beat 0 lies in is bar 0.

        >>> lines = BarLines.of([(0.0, 4.0), (11.0, 4.0)], 4.0)
        >>> lines.at([0.0, 8.0, 9.5, 11.0, 15.0]).tolist()
        [0.0, 2.0, 2.5, 3.0, 4.0]
        """
        runs = _joined(runs)
        knots, numbers, begins = [runs[0][0]], [0.0], [0.0]
        for (start, length), (end, following) in pairwise(runs):
            bars, rest = divmod(end - start + ON_LINE, length)
            is_full = rest < 2 * ON_LINE
            whole = bars - 1.0 if bars and not is_full and rest < length / 2 else bars
            if whole and not is_full:
                knots.append(start + whole * length)
                numbers.append(numbers[-1] + whole)
            knots.append(end)
            numbers.append(numbers[-1] + (whole if is_full else 1.0))
            if not is_full or following != length:
                begins.append(numbers[-1])
        beats, bars_there = np.array(knots), np.array(numbers)
        unnumbered = cls(beats, bars_there, before, runs[-1][1], np.zeros(1))
        zero = float(unnumbered.bar_of(0.0))
        return cls(beats, bars_there - zero, before, runs[-1][1], _phrases([b - zero for b in begins]))

    @cached_property
    def _lengths(self) -> FloatArray:
        """How many beats a bar has before the first knot, between each two, and after the last."""
        inner = np.diff(self.knots) / np.diff(self.numbers)
        return np.concatenate(([self.before], inner, [self.after]))

    def at(self, beats: ArrayLike) -> FloatArray:
        """Beats as bars, parts of them included; same shape."""
        b = np.asarray(beats, dtype=np.float64)
        run = np.searchsorted(self.knots, b, side="right")
        knot = np.maximum(run - 1, 0)
        return np.asarray(self.numbers[knot] + (b - self.knots[knot]) / self._lengths[run])

    def beat_of(self, bars: ArrayLike) -> FloatArray:
        """The beats of bars and parts of them; the inverse of ``at``."""
        n = np.asarray(bars, dtype=np.float64)
        run = np.searchsorted(self.numbers, n, side="right")
        knot = np.maximum(run - 1, 0)
        return np.asarray(self.knots[knot] + (n - self.numbers[knot]) * self._lengths[run])

    def bar_of(self, beats: ArrayLike) -> FloatArray:
        """The bars that beats lie in: whole numbers, those on a line that of the bar which begins there."""
        return np.asarray(np.floor(self.at(beats) + ON_LINE))

    def within(self, beats: ArrayLike) -> FloatArray:
        """How many beats after the start of their bars beats lie."""
        b = np.asarray(beats, dtype=np.float64)
        return np.asarray(b - self.beat_of(self.bar_of(b)))

    def is_line(self, beats: ArrayLike) -> NDArray[np.bool_]:
        """Whether a bar begins on beats."""
        bars = self.at(beats)
        return np.asarray(np.abs(bars - np.rint(bars)) < ON_LINE)

    def down(self, beat: float) -> float:
        """The bar line at or before a beat."""
        return float(self.beat_of(self.bar_of(beat)))

    def up(self, beat: float) -> float:
        """The bar line at or after a beat."""
        return float(self.beat_of(np.ceil(self.at(beat) - ON_LINE)))

    def nearest(self, beat: float) -> float:
        """The bar line nearest to a beat."""
        return float(self.beat_of(np.rint(self.at(beat))))

    def length_at(self, beat: float) -> float:
        """How many beats the bar has that a beat lies in."""
        bar = float(self.bar_of(beat))
        return float(self.beat_of(bar + 1.0) - self.beat_of(bar))

    def odd_bars(self, first: float, last: float, usual: float) -> list[tuple[float, float]]:
        """The whole bars between two beats that have not as many as usual: from which beat on, and how many."""
        begin, end = float(np.ceil(self.at(first) - ON_LINE)), float(np.floor(self.at(last) + ON_LINE))
        lines = self.beat_of(np.arange(begin, end + 1.0))
        found = zip(lines[:-1].tolist(), np.diff(lines).tolist(), strict=True)
        return [(beat, beats) for beat, beats in found if abs(beats - usual) > ON_LINE]

    def phrase_of(self, bars: ArrayLike) -> FloatArray:
        """How many bars after the start of its phrase a bar lies: 0 where one begins."""
        n = np.asarray(bars, dtype=np.float64)
        begin = self.phrases[np.maximum(np.searchsorted(self.phrases, n + ON_LINE, side="right") - 1, 0)]
        return np.asarray((n - begin) % PHRASE_BARS)

    def phrase_down(self, beat: float) -> float:
        """The line at or before a beat with which a phrase begins."""
        bar = float(self.bar_of(beat))
        return float(self.beat_of(bar - float(self.phrase_of(bar))))

    def moved(self, scale: float, by: float) -> BarLines:
        """The same bars on other beats: each times ``scale``, then later by ``by``."""
        return BarLines(self.knots * scale + by, self.numbers, self.before * scale, self.after * scale, self.phrases)


def _joined(runs: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Runs without those that only go on counting: an entry that repeats a bar has hundreds. One that is followed by
    less than half a bar stays, for that would go to the bar before its line."""
    kept = [runs[0]]
    for n, (beat, beats) in enumerate(runs[1:], 1):
        start, length = kept[-1]
        follows = runs[n + 1][0] - beat if n + 1 < len(runs) else length
        goes_on = beats == length and (beat - start + ON_LINE) % length < 2 * ON_LINE
        if not goes_on or follows < length / 2:
            kept.append((beat, beats))
    return kept


def _phrases(begins: Sequence[float]) -> FloatArray:
    """The bars with which phrases start again: bar 0, and those that do so elsewhere than halfway through a phrase."""
    phrases = [min(0.0, begins[0])]
    for bar in sorted({*begins, 0.0}):
        if bar > phrases[-1] and (bar == 0.0 or (bar - phrases[-1]) % (PHRASE_BARS / 2)):
            phrases.append(bar)
    return np.array(phrases)
