"""Streams of sound put after one another, and one stream taken apart."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

Block = NDArray[np.float32]


def joined(pieces: Sequence[Iterable[Block]], over: int) -> Iterator[Block]:
    """Pieces after one another, the last ``over`` samples of each faded into the first of the next at equal power.

    Each piece is a stream of blocks of shape (n, 2) of at least twice ``over`` samples; one piece is left as it is.
    """
    turn = (np.arange(over, dtype=np.float32)[:, None] + 0.5) / max(over, 1) * np.float32(np.pi / 2)
    rise, fall = np.sin(turn), np.cos(turn)
    tail = np.zeros((0, 2), dtype=np.float32)
    for number, piece in enumerate(pieces):
        kept = over if number + 1 < len(pieces) else 0
        done, held = 0, np.zeros((0, 2), dtype=np.float32)
        for block in piece:
            shared = min(len(block), max(len(tail) - done, 0))
            if shared:
                at = slice(done, done + shared)
                mixed = block[:shared] * rise[at] + tail[at] * fall[at]
                block = np.concatenate((mixed, block[shared:]))  # noqa: PLW2901  (what was given stays as it was)
            done += len(block)
            held = np.concatenate((held, block)) if len(held) else block
            if len(held) > kept:
                yield held[: len(held) - kept]
                held = held[len(held) - kept :]
        tail = held


class Reel:
    """A stream of blocks of which so many samples are taken at a time."""

    def __init__(self, blocks: Iterable[Block]) -> None:
        self._blocks = iter(blocks)
        self._left = np.zeros((0, 2), dtype=np.float32)

    def take(self, frames: int) -> Iterator[Block]:
        """The next ``frames`` samples, in blocks; fewer where the stream ends."""
        while frames > 0:
            if not len(self._left):
                block = next(self._blocks, None)
                if block is None:
                    return
                self._left = block
            part, self._left = self._left[:frames], self._left[frames:]
            frames -= len(part)
            if len(part):
                yield part
