"""The beats and bars of a whole mix, which follow from the entries: whoever leads says where a bar begins."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import FloatArray

SAME_BEAT = 1e-6


@dataclass(frozen=True)
class BarSpan:
    """From ``start_beat`` of the mix on, bars of ``bar`` beats begin at ``line_beat`` and every bar before and after.

    >>> BarSpan(start_beat=10.0, line_beat=1.0, bar=4.0).lines(10.0, 20.0).tolist()
    [13.0, 17.0]
    """

    start_beat: float
    line_beat: float
    bar: float

    def lines(self, first: float, last: float) -> FloatArray:
        """The beats in [first, last) on which a bar begins."""
        return self._every(self.bar, first, last)

    def beats(self, first: float, last: float) -> FloatArray:
        """All beats in [first, last): those counted from bar lines."""
        return self._every(1.0, first, last)

    def _every(self, unit: float, first: float, last: float) -> FloatArray:
        begin = np.ceil((first - self.line_beat) / unit - SAME_BEAT)
        end = np.ceil((last - self.line_beat) / unit - SAME_BEAT)
        return np.asarray(np.arange(begin, end) * unit + self.line_beat, dtype=np.float64)


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
