"""One part as it is heard in the mix: played, equalised, faded."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.source import Source
from fernbrook.core.plan.part import Part
from fernbrook.core.plan.plan import RATE
from fernbrook.core.plan.tempo_map import TempoMap
from fernbrook.render.player import Player
from fernbrook.render.processors import AROUND, equalised, levelled

EDGE = 176
"""Samples (4 ms) over which a part that does not fade by itself comes in before a beat and goes before one."""


@lru_cache(maxsize=2)
def _beats(tempo: TempoMap, start: int, end: int) -> NDArray[np.float64]:
    """The mix's beat at each sample of a span: the same for all that sound in it, so it is kept for the next one."""
    return tempo.beat_at(np.arange(start, end) / RATE)


class Channel:
    """Renders a part in blocks; blocks in order are cheap, a leap begins afresh with the same result."""

    def __init__(self, part: Part, path: Path) -> None:
        self._part = part
        self._source = Source(path, RATE, part.name)
        self._player = Player(part, self._source)
        self._start = round(part.start_s * RATE)
        self._end = round(part.end_s * RATE)
        self._gain = 10.0 ** (part.gain_db / 20.0)
        self._played = np.zeros((0, 2))
        self._played_from = 0

    @property
    def first(self) -> int:
        """The sample from which the part may be heard."""
        return self._start - (EDGE if self._part.comes_in else 0)

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
        shaping = [a for a in self._part.automations if a.start_s * RATE < end and start < a.end_s * RATE]
        if not shaping:
            return around[AROUND:-AROUND] * self._level(start, end, None)[:, None]
        beats = _beats(self._part.time_map.tempo, start, end)
        return equalised(around, shaping, beats) * self._level(start, end, beats)[:, None]

    def _around(self, start: int, end: int) -> NDArray[np.float64]:
        """What the player plays from ``AROUND`` before the span to ``AROUND`` after it."""
        begin, stop = start - AROUND, end + AROUND
        known = self._played_from + len(self._played)
        if not self._played_from <= begin <= known:
            self._played, self._played_from, known = np.zeros((0, 2)), begin, begin
        fresh = self._player.render(known, stop) if stop > known else np.zeros((0, 2))
        self._played = np.concatenate((self._played[begin - self._played_from :], fresh))
        self._played_from = begin
        return self._played[: stop - begin]

    def _level(self, start: int, end: int, beats: NDArray[np.float64] | None) -> NDArray[np.float64]:
        """The linear gain of each sample: the part's own, its edges, its faders."""
        level = np.full(end - start, self._gain)
        if self._part.comes_in and start < self._start:
            level *= np.clip((np.arange(start, end) - self._start + EDGE) / EDGE, 0.0, 1.0)
        if self._part.goes and end > self._end - EDGE:
            level *= np.clip((self._end - np.arange(start, end)) / EDGE, 0.0, 1.0)
        level[max(self._end - start, 0) :] = 0.0
        for automation in self._part.automations:
            if beats is not None:
                levelled(level, automation, automation.places(beats))
            elif end <= automation.start_s * RATE:
                levelled(level, automation, 0.0)
        return level
