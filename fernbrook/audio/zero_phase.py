"""Filtering forwards and backwards: no phase shift, and the square of the filter's magnitude.

With a fourth-order Butterworth filter this gives the magnitudes of an eighth-order Linkwitz-Riley crossover, whose low
and high pass add up to 1 (S. Linkwitz, "Active crossover networks for noncoincident drivers", JAES 24(1), 1976).
"""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.signal import butter

CONTEXT = 4096
"""Samples on both sides of a span by which the response of a crossover at 200 Hz or more has fallen below 1e-20."""


@lru_cache(maxsize=16)
def _sections(kind: str, hz: float, rate: int) -> NDArray[np.float64]:
    """Second-order sections of a fourth-order Butterworth filter; shape (2, 6)."""
    return np.asarray(butter(4, hz, kind, fs=rate, output="sos"))


def band_beyond(
    signal: NDArray[np.float64], side: Literal["lowpass", "highpass"], hz: float, rate: int
) -> NDArray[np.float64]:
    """What of a signal lies below or above a crossover frequency; shape (n, channels), like the signal.

    Within ``CONTEXT`` samples of the ends the result is that of a signal with silence beyond.
    """
    return _both_ways(signal, _sections(side, hz, rate))


@njit(cache=True, nogil=True)
def _both_ways(signal: NDArray[np.float64], sections: NDArray[np.float64]) -> NDArray[np.float64]:
    """The signal filtered forwards, then backwards, by second-order sections (transposed direct form II).

    Channels are taken in pairs, so that the processor has two independent chains to work on.
    """
    out = signal.copy()
    n, channels = out.shape
    for left in range(0, channels, 2):
        right = min(left + 1, channels - 1)
        for s in range(sections.shape[0]):
            b0, b1, b2, _, a1, a2 = sections[s]
            for backwards in range(2):
                y1 = y2 = z1 = z2 = 0.0
                for k in range(n):
                    i = n - 1 - k if backwards else k
                    p, q = out[i, left], out[i, right]
                    y = b0 * p + y1
                    y1 = b1 * p - a1 * y + y2
                    y2 = b2 * p - a2 * y
                    z = b0 * q + z1
                    z1 = b1 * q - a1 * z + z2
                    z2 = b2 * q - a2 * z
                    out[i, left] = y
                    out[i, right] = z
    return out
