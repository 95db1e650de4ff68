"""A source whose pitch is shifted, for a stretch that then plays it in the time that it had.

Read faster by a factor, a recording is higher by it and over sooner. A stretch that is told so, by a map of which the
source's times are divided by the factor, gives the time back: the pitch has moved, and every beat is where it was. The
spectrum moves as a whole, formants with it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.pace.interpolate import interpolate, margin
from fernbrook.audio.stretch import Array, Read, Warp


def shifted(read: Read, warp: Warp, factor: float) -> tuple[Read, Warp]:
    """What a stretch is to read, and along which map, so that all frequencies are higher by a factor.

    Parameters
    ----------
    read : gives so many samples of the source from a place on, shape (n, 2)
    warp : the map from the mix to the source
    factor : 2 ** (semitones / 12)
    """
    return _Faster(read, factor), _Sooner(warp, factor)


@dataclass(frozen=True)
class _Faster:
    """Sample n is the source at ``factor`` n, whichever span is asked for."""

    read: Read
    factor: float

    def __call__(self, start: int, frames: int) -> NDArray[np.float32]:
        cutoff = min(1.0, 1.0 / self.factor)
        positions = np.arange(start, start + frames, dtype=np.float64) * self.factor
        pad = margin(cutoff)
        first = int(np.floor(positions[0])) - pad
        signal = self.read(first, int(np.ceil(positions[-1])) + pad - first + 1)
        return interpolate(signal, np.asarray(positions - first), cutoff)


@dataclass(frozen=True)
class _Sooner:
    """A map to a source that is over sooner by a factor."""

    warp: Warp
    factor: float

    def source_at(self, mix_times: Array) -> Array:
        return self.warp.source_at(mix_times) / self.factor

    def mix_at(self, source_times: Array) -> Array:
        return self.warp.mix_at(np.asarray(source_times) * self.factor)
