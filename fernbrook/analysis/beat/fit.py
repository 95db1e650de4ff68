"""The simplest grid through measured beats: few constant stretches, or an anchor wherever the player turns."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.track import Grid

TOLERANCE_S = 0.003
"""Stretches are good when the beats, clear ones above all, lie this close to them on average."""
MOST_STRETCHES = 6
RUN_BEATS = 32
LEAST_HEARD = 0.3
"""Beats that count for less than this share of what is usual lie on any line."""
SHORTEST_BEATS = 16
MOST_CUTS = 800
"""Stretches begin at one of so many beats at most: memory and time grow with the square of this."""
FREE_TOLERANCE_S = 0.003
"""An anchor that the line between its neighbours meets within this is left out."""
SAME_TEMPO = 0.0006
"""Neighbouring stretches whose tempi differ by less, as a share, are one."""

Array = NDArray[np.float64]


def stretches(beats: Array, times_s: Array, weight: Array) -> Grid | None:
    """A grid of at most six constant stretches, or None where so few do not explain the beats.

    Parameters
    ----------
    beats, times_s, weight : shape (n,), rising beats; times of beats with weight 0 do not count
    """
    sums = _Sums(beats, times_s, weight)
    n = len(beats)
    spacing = max(2, -(-n // MOST_CUTS))
    cuts = np.unique(np.concatenate(([0], np.arange(SHORTEST_BEATS, n - SHORTEST_BEATS + 1, spacing), [n])))
    errors = sums.errors(cuts)
    total = max(float(weight.sum()), 1e-9)
    best = errors[0].copy()
    came: list[NDArray[np.int64]] = []
    for _ in range(2, MOST_STRETCHES + 1):
        joined = best[:, None] + errors
        came.append(np.argmin(joined, axis=0))
        best = joined.min(axis=0)
        if np.sqrt(best[-1] / total) < TOLERANCE_S:
            return _through(sums, _borders(cuts, came), max(8, spacing))
    return None


@dataclass(frozen=True)
class Run:
    """Beats that lie on a line: the first and the last of them, and the line."""

    first: float
    last: float
    slope_s: float
    offset_s: float

    @property
    def bpm(self) -> float:
        """Their tempo."""
        return 60.0 / self.slope_s

    def time_at(self, beats: Array | float) -> Array:
        """Seconds of beats on the line."""
        return np.asarray(self.offset_s + np.asarray(beats) * self.slope_s)


def runs(beats: Array, times_s: Array, weight: Array) -> list[Run]:
    """All runs of ``RUN_BEATS`` or more, in order, that lie on a line within the tolerance; parameters as above."""
    sums = _Sums(beats, times_s, weight)
    found: list[Run] = []
    begin = 0
    while begin + RUN_BEATS <= len(beats):
        end = begin + RUN_BEATS
        if sums.off(begin, end) > TOLERANCE_S:
            begin += 1
            continue
        while (
            end < len(beats)
            and sums.off(end - RUN_BEATS // 2, end + 1) < TOLERANCE_S
            and (sums.off(begin, end + 1) < TOLERANCE_S)
        ):
            end += 1
        slope, offset = sums.line(begin, end)
        found.append(Run(float(beats[begin]), float(beats[end - 1]), slope, offset))
        begin = end
    return found


def _borders(cuts: NDArray[np.int64], came: list[NDArray[np.int64]]) -> list[int]:
    """Where the best stretches begin and end, as indices of beats."""
    at = len(cuts) - 1
    borders = [int(cuts[at])]
    for row in reversed(came):
        at = int(row[at])
        borders.append(int(cuts[at]))
    return [0, *reversed(borders)]


def _through(sums: _Sums, borders: list[int], reach: int) -> Grid | None:
    """A grid along the lines of the stretches, anchored where neighbours meet, that far from the borders at most."""
    lines = [sums.line(a, b) for a, b in pairwise(borders)]
    kept, inner = [lines[0]], []
    for line, border in zip(lines[1:], borders[1:-1], strict=True):
        if abs(line[0] / kept[-1][0] - 1.0) < SAME_TEMPO:
            continue
        inner.append(border)
        kept.append(line)
    anchors: list[tuple[float, float]] = []
    for (slope, offset), (next_slope, next_offset), border in zip(kept, kept[1:], inner, strict=False):
        beat = (next_offset - offset) / (slope - next_slope)
        middle = float(sums.beats[min(border, len(sums.beats) - 1)])
        beat = float(np.clip(beat, middle - reach, middle + reach))
        beat = float(np.round(beat)) if abs(beat - np.round(beat)) < 0.5 else beat
        anchors.append((slope * beat + offset, beat))
    if not anchors:
        slope, offset = kept[0]
        return Grid.constant(60.0 / slope, offset) if 0.15 < slope < 3.0 else None
    tempi = [60.0 / slope for slope, _ in kept]
    times, at = [a[0] for a in anchors], [a[1] for a in anchors]
    if any(b <= a for a, b in pairwise(at)) or min(tempi) < 20.0 or max(tempi) > 400.0:
        return None
    first = (times[0] - 16 * 60.0 / tempi[0], at[0] - 16)
    last = (times[-1] + 16 * 60.0 / tempi[-1], at[-1] + 16)
    points = [first, *zip(times, at, strict=True), last]
    return Grid.through([p[0] for p in points], [p[1] for p in points]).without_needless_anchors(1e-4)


class _Sums:
    """Running sums, so that the line through any stretch of beats and its error cost nothing."""

    def __init__(self, beats: Array, times_s: Array, weight: Array) -> None:
        self.beats = beats
        columns = np.stack((weight, weight * beats, weight * times_s, weight * beats**2, weight * beats * times_s,
                            weight * times_s**2))  # fmt: skip
        self._sums = np.concatenate((np.zeros((6, 1)), np.cumsum(columns, axis=1)), axis=1)

    def line(self, begin: int, end: int) -> tuple[float, float]:
        """Slope and offset of the times over the beats [begin, end)."""
        w, x, y, xx, xy, _ = self._sums[:, end] - self._sums[:, begin]
        spread = w * xx - x * x
        slope = (w * xy - x * y) / spread if spread > 1e-9 else 0.0
        return float(slope), float((y - slope * x) / max(w, 1e-9))

    def off(self, begin: int, end: int) -> float:
        """How far the beats [begin, end) lie from their line, as a root of a mean square in seconds; infinitely far
        where hardly anything of them is heard."""
        w, x, y, xx, xy, yy = self._sums[:, end] - self._sums[:, begin]
        spread = w * xx - x * x
        usual = self._sums[0, -1] / max(len(self.beats), 1)
        if spread <= 1e-9 or w < LEAST_HEARD * usual * (end - begin):
            return float("inf")
        cross = w * xy - x * y
        return float(np.sqrt(max(0.0, (w * yy - y * y - cross**2 / spread) / (w * w))))

    def errors(self, cuts: NDArray[np.int64]) -> Array:
        """Weighted sum of squared distances from the line between each two cuts; infinite where too short."""
        part = self._sums[:, cuts][:, None, :] - self._sums[:, cuts][:, :, None]
        w, x, y, xx, xy, yy = part
        spread = w * xx - x * x
        cross = w * xy - x * y
        with np.errstate(divide="ignore", invalid="ignore"):
            error = np.where(spread > 1e-9, (w * yy - y * y - cross**2 / spread) / np.maximum(w, 1e-9), 0.0)
        length = cuts[None, :] - cuts[:, None]
        return np.where(length >= SHORTEST_BEATS, np.maximum(error, 0.0), np.inf)


def free(beats: Array, times_s: Array) -> Grid:
    """A grid through all beats, less the anchors that the others make needless."""
    return Grid.through(times_s, beats).without_needless_anchors(FREE_TOLERANCE_S)
