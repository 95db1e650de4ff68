"""The mix as a stream of blocks: for the file, the preview and everything else that is heard."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.limiter import context, limit
from fernbrook.core.mix import CEILING_DBTP
from fernbrook.core.plan import RATE, Plan, PlannedEntry
from fernbrook.render.voice import EDGE, Voice

FULL_SCALE_DBTP = 0.0
BLOCK = 16_384
"""Samples in a block. Blocks lie at whole multiples from the start of the mix, wherever a render begins, so that each
is computed in the same way every time."""


@dataclass(frozen=True)
class Listen:
    """What is to be heard: the entries with these places in the order, or all."""

    entries: frozenset[int] | None = None

    def hears(self, planned: PlannedEntry) -> bool:
        return self.entries is None or planned.index in self.entries


EVERYTHING = Listen()


def render(
    plan: Plan,
    paths: Mapping[str, Path],
    start: int = 0,
    end: int | None = None,
    listen: Listen = EVERYTHING,
    ceiling_dbtp: float = CEILING_DBTP,
) -> Iterator[NDArray[np.float32]]:
    """Render samples [start, end) of a mix.

    Parameters
    ----------
    plan : the resolved mix
    paths : the audio file of each track id
    start, end : in samples at ``RATE``; to the end of the mix where ``end`` is None
    listen : which entries are heard
    ceiling_dbtp : the true peak that the limiter lets nothing exceed

    Yields
    ------
    blocks of shape (n, 2), float32, that together hold end - start samples; the same samples for the same place,
    whatever the start

    Raises
    ------
    AudioFileError
        When a file has gone or cannot be read.
    """
    end = plan.frames if end is None else min(end, plan.frames)
    start = max(start, 0)
    if end <= start:
        return
    voices = _Voices(plan, paths, listen)
    try:
        yield from _limited(voices, start, end, ceiling_dbtp)
    finally:
        voices.close()


def _limited(voices: _Voices, start: int, end: int, ceiling_dbtp: float) -> Iterator[NDArray[np.float32]]:
    """Blocks of the sum after the limiter, which sees one block back and the start of the next."""
    first, last = start // BLOCK, (end - 1) // BLOCK
    ahead = context(RATE)
    before = voices.sum(first - 1)
    now = voices.sum(first)
    for number in range(first, last + 1):
        after = voices.sum(number + 1)
        joined = np.concatenate((before, now, after[:ahead]))
        out = limit(joined, BLOCK, 2 * BLOCK, ceiling_dbtp, RATE)
        begin = max(start - number * BLOCK, 0)
        stop = min(end - number * BLOCK, BLOCK)
        yield out[begin:stop].astype(np.float32)
        before, now = now, after


class _Voices:
    """The voices of a plan, opened when they come in and closed when they have gone."""

    def __init__(self, plan: Plan, paths: Mapping[str, Path], listen: Listen) -> None:
        self._entries = [e for e in plan.entries if listen.hears(e)]
        self._paths = paths
        self._open: dict[int, Voice] = {}

    def sum(self, number: int) -> NDArray[np.float64]:
        """Block ``number`` of the mix before the limiter; shape (BLOCK, 2)."""
        start, end = number * BLOCK, (number + 1) * BLOCK
        total = np.zeros((BLOCK, 2))
        for entry in self._entries:
            if entry.start_s * RATE - EDGE - 1 >= end or entry.end_s * RATE + 1 <= start:
                self._close(entry.index)
                continue
            voice = self._open.get(entry.index)
            if voice is None:
                voice = self._open[entry.index] = Voice(entry, self._paths[entry.track.id])
            if voice.first < end and voice.end > start:
                total += voice.render(start, end)
        return total

    def _close(self, index: int) -> None:
        voice = self._open.pop(index, None)
        if voice is not None:
            voice.close()

    def close(self) -> None:
        """Close all that are open."""
        for index in list(self._open):
            self._close(index)
