"""The mix as a stream of blocks: for the file, the preview and everything else that is heard."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.effects import after, limit
from fernbrook.audio.stretch import KeptBlocks
from fernbrook.core.mix.entries import CEILING_DBTP
from fernbrook.core.plan import RATE, Part, Plan
from fernbrook.render.blocks import BLOCK
from fernbrook.render.channel import EDGE, Channel

FULL_SCALE_DBTP = 0.0
AT_ONCE = 2
"""So many parts are rendered beside each other: hardly ever do more sound at once."""


@dataclass(frozen=True)
class Listen:
    """What is to be heard: the parts of the entries with these ids, or all."""

    owners: frozenset[str] | None = None

    def hears(self, part: Part) -> bool:
        """Whether a part is among them."""
        return self.owners is None or part.owner in self.owners


EVERYTHING = Listen()


def render(
    plan: Plan,
    paths: Mapping[str, Path],
    start: int = 0,
    end: int | None = None,
    listen: Listen = EVERYTHING,
    ceiling_dbtp: float = CEILING_DBTP,
    kept: KeptBlocks | None = None,
    master_db: float = 0.0,
) -> Iterator[NDArray[np.float32]]:
    """Render samples [start, end) of a mix.

    Parameters
    ----------
    plan : the resolved mix
    paths : the audio file of each track id
    start, end : in samples at ``RATE``; to the end of the mix where ``end`` is None
    listen : which parts are heard
    ceiling_dbtp : the true peak that the limiter lets nothing exceed
    master_db : the gain of all of it, before the limiter
    kept : where what was stretched is kept for the next time; nowhere where it is None

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
    channels = _Channels([p for p in plan.parts if listen.hears(p)], paths, kept)
    try:
        yield from limited(channels, start, end, ceiling_dbtp, master_db)
    finally:
        channels.close()


def unlimited(parts: Sequence[Part], paths: Mapping[str, Path], frames: int) -> Iterator[NDArray[np.float32]]:
    """The first ``frames`` samples of some parts before the limiter; blocks as ``render`` yields them, which raises as
    this does."""
    channels = _Channels(parts, paths, None)
    try:
        for number in range((frames + BLOCK - 1) // BLOCK):
            yield channels.sum(number)[: frames - number * BLOCK].astype(np.float32)
    finally:
        channels.close()


class Sums(Protocol):
    """Gives blocks of a mix before its limiter, by their numbers."""

    def sum(self, number: int) -> NDArray[np.float64]:
        """Block ``number``; shape (BLOCK, 2)."""
        ...

    def begin(self, number: int) -> Future[NDArray[np.float64]]:
        """The same, made meanwhile."""
        ...


def sums(
    plan: Plan, paths: Mapping[str, Path], spans: Sequence[tuple[int, int]], listen: Listen
) -> Iterator[tuple[int, NDArray[np.float64]]]:
    """The blocks of some spans [start, end) before the limiter, and those that it looks at around them: their numbers
    and what they hold, each once. Raises as ``render`` does."""
    numbers = {n for start, end in spans for n in range(start // BLOCK - 1, (end - 1) // BLOCK + 2)}
    channels = _Channels([p for p in plan.parts if listen.hears(p)], paths, None)
    try:
        for number in sorted(numbers):
            yield number, channels.sum(number)
    finally:
        channels.close()


def limited(
    channels: Sums, start: int, end: int, ceiling_dbtp: float, master_db: float
) -> Iterator[NDArray[np.float32]]:
    """Blocks of the sum after the limiter, which sees one block back and the start of the next."""
    first, last = start // BLOCK, (end - 1) // BLOCK
    ahead, gain = after(RATE), 10.0 ** (master_db / 20.0)
    previous = channels.sum(first - 1)
    now = channels.sum(first)
    coming = channels.begin(first + 1)
    for number in range(first, last + 1):
        following = coming.result()
        if number < last:
            # While this block is limited, and used by whoever asked for it, the one after the next is made.
            coming = channels.begin(number + 2)
        joined = np.concatenate((previous, now, following[:ahead]))
        if master_db:
            joined *= gain
        out = limit(joined, BLOCK, 2 * BLOCK, ceiling_dbtp, RATE)
        begin = max(start - number * BLOCK, 0)
        stop = min(end - number * BLOCK, BLOCK)
        yield out[begin:stop].astype(np.float32)
        previous, now = now, following


class _Channels:
    """The channels of parts, opened when they come in and closed when they have gone."""

    def __init__(self, parts: Sequence[Part], paths: Mapping[str, Path], kept: KeptBlocks | None) -> None:
        self._kept = kept
        self._parts = parts
        self._paths = paths
        self._open: dict[int, Channel] = {}
        self._threads = ThreadPoolExecutor(AT_ONCE, "channels")
        self._sums = ThreadPoolExecutor(1, "sums")

    def begin(self, number: int) -> Future[NDArray[np.float64]]:
        """Begin to make a block beside what else is done; blocks are made one after the other."""
        return self._sums.submit(self.sum, number)

    def sum(self, number: int) -> NDArray[np.float64]:
        """Block ``number`` of the mix before the limiter; shape (BLOCK, 2)."""
        start, end = number * BLOCK, (number + 1) * BLOCK
        sounding: list[Channel] = []
        for place, part in enumerate(self._parts):
            if part.start_s * RATE - EDGE - 1 >= end or part.silent_s * RATE + 1 <= start:
                self._close(place)
                continue
            channel = self._open.get(place)
            if channel is None:
                channel = self._open[place] = Channel(part, self._paths, self._kept)
            if channel.first < end and channel.end > start:
                sounding.append(channel)
        total = np.zeros((BLOCK, 2))
        for sound in self._together(sounding, number):
            if sound is not None:
                total += sound
        return total

    def _together(self, sounding: list[Channel], number: int) -> Iterable[NDArray[np.float64] | None]:
        """A block of each channel, in order; each in a thread of its own where there are several."""
        if len(sounding) < 2:
            return [channel.block(number) for channel in sounding]
        return self._threads.map(lambda channel: channel.block(number), sounding)

    def _close(self, place: int) -> None:
        channel = self._open.pop(place, None)
        if channel is not None:
            channel.close()

    def close(self) -> None:
        """Close all that are open, when what is being made is done."""
        self._sums.shutdown(cancel_futures=True)
        self._threads.shutdown()
        for place in list(self._open):
            self._close(place)
