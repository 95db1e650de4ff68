"""One entry as it is heard in the mix: played, equalised, faded."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.eq import equalise
from fernbrook.audio.source import Source
from fernbrook.audio.zero_phase import CONTEXT
from fernbrook.core.plan import RATE, PlannedEntry, PlannedTransition
from fernbrook.core.transition import Kind, Side, SideCurves
from fernbrook.render.player import Player

EDGE = 176
"""Samples (4 ms) over which an entry that does not fade by itself comes in before a beat and goes before one."""

Curves = tuple[PlannedTransition, SideCurves]


class Voice:
    """Renders an entry in blocks; blocks in order are cheap, a leap begins afresh with the same result."""

    def __init__(self, planned: PlannedEntry, path: Path) -> None:
        self._planned = planned
        self._source = Source(path, RATE, planned.track.title)
        self._player = Player(planned, self._source)
        self._start = round(planned.start_s * RATE)
        self._end = round(planned.end_s * RATE)
        self._gain = 10.0 ** (planned.gain_db / 20.0)
        self._curves: list[Curves] = [
            (t, t.transition.curves(side))
            for t, side in ((planned.arrival, Side.INCOMING), (planned.departure, Side.OUTGOING))
            if t is not None and t.transition.kind is Kind.BLEND
        ]
        self._played = np.zeros((0, 2))
        self._played_from = 0

    @property
    def first(self) -> int:
        """The sample from which the voice may be heard."""
        return self._start - (EDGE if self._planned.arrival else 0)

    @property
    def end(self) -> int:
        """The sample at which it is silent again."""
        return self._end

    def close(self) -> None:
        """Let go of the file."""
        self._source.close()

    def render(self, start: int, end: int) -> NDArray[np.float64]:
        """Samples [start, end) of the mix, whole hops; shape (end - start, 2)."""
        around = self._around(start, end)
        beats = None
        shaped = [c for c in self._curves if c[0].start_s * RATE < end and start < c[0].end_s * RATE]
        if shaped:
            beats = self._planned.time_map.tempo.beat_at(np.arange(start, end) / RATE)
            sound = self._equalised(around, shaped, beats)
        else:
            sound = around[CONTEXT:-CONTEXT]
        return sound * self._level(start, end, beats)[:, None]

    def _around(self, start: int, end: int) -> NDArray[np.float64]:
        """What the player plays from ``CONTEXT`` before the span to ``CONTEXT`` after it."""
        begin, stop = start - CONTEXT, end + CONTEXT
        known = self._played_from + len(self._played)
        if not self._played_from <= begin <= known:
            self._played, self._played_from, known = np.zeros((0, 2)), begin, begin
        fresh = self._player.render(known, stop) if stop > known else np.zeros((0, 2))
        self._played = np.concatenate((self._played[begin - self._played_from :], fresh))
        self._played_from = begin
        return self._played[: stop - begin]

    @staticmethod
    def _equalised(
        around: NDArray[np.float64], shaped: list[Curves], beats: NDArray[np.float64]
    ) -> NDArray[np.float64]:
        if all(curves.eq_is_neutral for _, curves in shaped):
            return around[CONTEXT:-CONTEXT]
        low, mid, high = (np.ones(len(beats)) for _ in range(3))
        for at, curves in shaped:
            places = _places(at, beats)
            low *= curves.low.gain_at(places)
            mid *= curves.mid.gain_at(places)
            high *= curves.high.gain_at(places)
        return equalise(around, low, mid, high, RATE)

    def _level(self, start: int, end: int, beats: NDArray[np.float64] | None) -> NDArray[np.float64]:
        """The linear gain of each sample: the entry's own, its volume curves, its edges."""
        n = np.arange(start, end)
        level = np.full(len(n), self._gain)
        if self._planned.arrival:
            level *= np.clip((n - self._start + EDGE) / EDGE, 0.0, 1.0)
        if self._planned.departure:
            level *= np.clip((self._end - n) / EDGE, 0.0, 1.0)
        level[n >= self._end] = 0.0
        for at, curves in self._curves:
            if beats is not None:
                level *= curves.volume.gain_at(_places(at, beats))
            elif at is self._planned.arrival and end <= at.start_s * RATE:
                level *= curves.volume.gain_at(0.0)
        return level


def _places(at: PlannedTransition, beats: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places in an overlap, 0 at its start and 1 at its end, for beats of the mix."""
    return (beats - at.start_beat) / (at.end_beat - at.start_beat)
