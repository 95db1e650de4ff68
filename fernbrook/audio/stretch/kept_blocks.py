"""Blocks of sound that were made, kept for the next render that needs the same ones.

Whoever shapes a transition hears it again after each change of a curve; what is stretched stays the same. A block is
known by all that it follows from: one of a stretch by the source, the frames of the mix, and where the map reads the
source at them.
"""

from __future__ import annotations

from collections.abc import Hashable
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

from fernbrook.kept import KeptValues

Signal = NDArray[np.float32]


class KeptBlocks(KeptValues[Hashable, Signal]):
    """The blocks that were used last, up to a number of bytes."""

    def __init__(self, most_bytes: int) -> None:
        super().__init__(most_bytes, lambda block: block.nbytes)


def key_of(source: Hashable, frames: NDArray[np.int64], source_s: NDArray[np.float64], joins: Hashable) -> Hashable:
    """The key of a block of a source over some frames, which the map reads at ``source_s``."""
    return (source, int(frames[0]), len(frames), blake2b(source_s.tobytes(), digest_size=16).digest(), joins)
