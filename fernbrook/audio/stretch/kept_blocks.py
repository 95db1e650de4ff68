"""Blocks that a stretch has made, kept for the next render that needs the same ones.

Whoever shapes a transition hears it again after each change of a curve; what is stretched stays the same. A block is
known by all that it follows from: the source, the frames of the mix, and where the map reads the source at them.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from hashlib import blake2b
from threading import Lock

import numpy as np
from numpy.typing import NDArray

Signal = NDArray[np.float32]


class KeptBlocks:
    """The blocks that were used last, up to a number of bytes; safe to be used by several renders at a time."""

    def __init__(self, most_bytes: int) -> None:
        self._most = most_bytes
        self._bytes = 0
        self._blocks: OrderedDict[Hashable, Signal] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Hashable, make: Callable[[], Signal]) -> Signal:
        """The block of a key, made where it is not kept; whoever gets it leaves it as it is."""
        with self._lock:
            known = self._blocks.get(key)
            if known is not None:
                self._blocks.move_to_end(key)
                return known
        made = make()
        with self._lock:
            if key not in self._blocks:
                self._blocks[key] = made
                self._bytes += made.nbytes
            while self._bytes > self._most and len(self._blocks) > 1:
                self._bytes -= self._blocks.popitem(last=False)[1].nbytes
        return made


def key_of(source: Hashable, frames: NDArray[np.int64], source_s: NDArray[np.float64], joins: Hashable) -> Hashable:
    """The key of a block of a source over some frames, which the map reads at ``source_s``."""
    return (source, int(frames[0]), len(frames), blake2b(source_s.tobytes(), digest_size=16).digest(), joins)
