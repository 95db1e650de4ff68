"""The beats and bars of a whole mix, which follow from the entries: whoever leads says where a bar begins."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import BarLines, FloatArray

SAME_BEAT = 1e-6


@dataclass(frozen=True)
class BarSpan:
    """From ``start_beat`` of the mix on, bars begin as an entry has them whose beat 0 lies on ``zero_beat``.

    >>> span = BarSpan(start_beat=10.0, zero_beat=1.0, bar_lines=BarLines.of([(0.0, 4.0)], 4.0))
    >>> span.lines(10.0, 20.0).tolist()
    [13.0, 17.0]
    """

    start_beat: float
    zero_beat: float
    bar_lines: BarLines

    def lines(self, first: float, last: float) -> FloatArray:
        """The beats in [first, last) on which a bar begins."""
        bars = self.bar_lines.at(np.array([first, last]) - self.zero_beat)
        begin, end = np.ceil(bars - SAME_BEAT)
        return self.bar_lines.beat_of(np.arange(begin, end)) + self.zero_beat

    def beats(self, first: float, last: float) -> FloatArray:
        """All beats in [first, last): those counted from beat 0."""
        begin, end = np.ceil(np.array([first, last]) - self.zero_beat - SAME_BEAT)
        return np.asarray(np.arange(begin, end) + self.zero_beat, dtype=np.float64)


@dataclass(frozen=True)
class Bars:
    """The bars of a mix: each span holds until the next one starts, the first also before its start."""

    spans: tuple[BarSpan, ...]
    tempo: TempoMap

    def ticks(self, start_s: float, end_s: float) -> tuple[FloatArray, np.ndarray]:
        """The moments of all beats and bar lines in [start_s, end_s), and which of them begin a bar."""
        first, last = (float(b) for b in self.tempo.beat_at([start_s, end_s]))
        beats: list[FloatArray] = []
        firsts: list[np.ndarray] = []
        for i, span in enumerate(self.spans):
            begin = first if i == 0 else max(first, span.start_beat)
            end = last if i + 1 == len(self.spans) else min(last, self.spans[i + 1].start_beat)
            if begin >= end:
                continue
            lines = span.lines(begin, end)
            both = np.concatenate((lines, span.beats(begin, end)))
            _, kept = np.unique(np.rint(both / SAME_BEAT), return_index=True)
            beats.append(both[kept])
            firsts.append(kept < len(lines))
        if not beats:
            return np.zeros(0), np.zeros(0, dtype=bool)
        return self.tempo.time_at(np.concatenate(beats)), np.concatenate(firsts)
