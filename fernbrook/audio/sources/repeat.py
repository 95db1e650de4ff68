"""A span of sound that goes round without a seam."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.sources.source import Source
from fernbrook.audio.sources.splice import shares

JOIN_S = 0.008
"""What comes before a beat is blended over so long, so that the beat itself is whole."""
BLOCK = 16_384

Samples = NDArray[np.float32]


@dataclass(frozen=True)
class Repeat:
    """Rounds over [back_to, end) of a source, the first of which may begin within: what follows ``end`` is ``back_to``.

    The last milliseconds of each round are blended into what comes before ``back_to``, so that the join is one between
    neighbouring samples. Every round has ``end - back_to`` samples, and all rounds have the same.
    """

    source: Source
    back_to: int
    end: int

    @property
    def frames(self) -> int:
        """Samples in a round."""
        return self.end - self.back_to

    def blocks(self, start: int, times: int) -> Iterator[tuple[int, Samples]]:
        """``times`` rounds from ``start`` on, each ending where it began: blocks (n, 2), with where each lies."""
        join = self._join()
        for _ in range(times):
            for begin, stop in ((start, self.end), (self.back_to, start)):
                for at in range(begin, stop, BLOCK):
                    yield at, self._read(at, min(BLOCK, stop - at), join)

    def _read(self, at: int, count: int, join: Samples) -> Samples:
        block = self.source.read(at, count)
        first = self.end - len(join)
        covered = np.arange(max(at, first), at + count)
        block[covered - at] = join[covered - first]
        return block

    def _join(self) -> Samples:
        """The last samples of each round."""
        count = min(round(JOIN_S * self.source.rate), self.frames)
        leaving = self.source.read(self.end - count, count)
        return blended(leaving, self.source.read(self.back_to - count, count))


def blended(leaving: Samples, arriving: Samples) -> Samples:
    """From one sound into another of the same shape (n, 2), level throughout; two that are equal pass untouched."""
    if np.array_equal(leaving, arriving):
        return leaving
    power = float(np.sqrt(np.sum(leaving**2, dtype=np.float64) * np.sum(arriving**2, dtype=np.float64)))
    alike = float(np.clip(np.sum(leaving * arriving, dtype=np.float64) / power, 0.0, 1.0)) if power > 0 else 0.0
    out, into = shares((np.arange(len(leaving)) + 1.0) / len(leaving), alike)
    return (leaving * out[:, None] + arriving * into[:, None]).astype(np.float32)
