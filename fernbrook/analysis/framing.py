"""Cuts a stream that comes in blocks into overlapping frames."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


class Framer:
    """Keeps what does not fill a frame yet. Frame i is centred on sample ``i * hop`` of the stream.

    ``around`` samples more are given on both sides of the frames, for filters.
    """

    def __init__(self, frame: int, hop: int, around: int = 0) -> None:
        self._length, self._hop = frame + 2 * around, hop
        self._pending = np.zeros(self._length // 2, dtype=np.float32)

    def add(self, block: NDArray[np.float32]) -> tuple[NDArray[np.float32], int]:
        """The samples of all whole frames that there are now, and how many these are; shape (n,), n 0 with no frame."""
        signal = np.concatenate((self._pending, block))
        count = max((len(signal) - self._length) // self._hop + 1, 0)
        self._pending = signal[count * self._hop :]
        return signal[: (count - 1) * self._hop + self._length] if count else signal[:0], count


def frames(signal: NDArray[np.float32], frame: int, hop: int, count: int) -> NDArray[np.float32]:
    """A view of overlapping frames; shape (count, frame)."""
    return np.lib.stride_tricks.sliding_window_view(signal, frame)[: count * hop : hop]
