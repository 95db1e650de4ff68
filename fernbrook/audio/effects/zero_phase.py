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
"""Samples on both sides of a span by which the response of a crossover at 120 Hz or more has fallen below 1e-10."""


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
    """The signal filtered forwards, then backwards, by two second-order sections (transposed direct form II).

    Two channels and both sections go side by side, so that the processor has four chains to work on.
    """
    a0, a1, a2, _, a3, a4 = sections[0]
    b0, b1, b2, _, b3, b4 = sections[1]
    out = signal.copy()
    n, channels = out.shape
    for left in range(0, channels, 2):
        right = min(left + 1, channels - 1)
        for backwards in range(2):
            p1 = p2 = q1 = q2 = u1 = u2 = v1 = v2 = 0.0
            for k in range(n):
                i = n - 1 - k if backwards else k
                x, y = out[i, left], out[i, right]
                p = a0 * x + p1
                p1 = a1 * x - a3 * p + p2
                p2 = a2 * x - a4 * p
                q = a0 * y + q1
                q1 = a1 * y - a3 * q + q2
                q2 = a2 * y - a4 * q
                u = b0 * p + u1
                u1 = b1 * p - b3 * u + u2
                u2 = b2 * p - b4 * u
                v = b0 * q + v1
                v1 = b1 * q - b3 * v + v2
                v2 = b2 * q - b4 * v
                out[i, left] = u
                out[i, right] = v
    return out
