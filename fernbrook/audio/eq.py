"""The three-band equaliser of a transition.

The bands are those of an eighth-order Linkwitz-Riley crossover, reached by running a fourth-order Butterworth filter
forwards and backwards: the squared magnitudes of its low and high pass add up to 1, and its phase is zero. So a band
that is left alone stays as it is in time as well as in level, neutral settings give back the input to the bit, and
beats do not move when the equaliser works. (S. Linkwitz, "Active crossover networks for noncoincident drivers", JAES
24(1), 1976; squared Butterworth responses are what makes his filters sum flat.)
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.signal import butter

LOW_HZ = 250.0
HIGH_HZ = 2500.0
CONTEXT = 4096
"""Samples that ``equalise`` needs on both sides: by then the response of the low filter has fallen below 1e-20."""


@lru_cache(maxsize=8)
def _sections(kind: str, hz: float, rate: int) -> NDArray[np.float64]:
    """Second-order sections of a fourth-order Butterworth filter; shape (2, 6)."""
    return np.asarray(butter(4, hz, kind, fs=rate, output="sos"))


def equalise(
    signal: NDArray[np.float64],
    low: NDArray[np.float64],
    mid: NDArray[np.float64],
    high: NDArray[np.float64],
    rate: int,
) -> NDArray[np.float64]:
    """Apply a gain to each band of a stereo signal.

    Parameters
    ----------
    signal : shape (n + 2 * CONTEXT, 2), the span to equalise with its surroundings
    low, mid, high : linear gains per sample, shape (n,)

    Returns
    -------
    shape (n, 2)
    """
    middle = signal[CONTEXT:-CONTEXT]
    out = middle * mid[:, None]
    for gain, kind, hz in ((low, "lowpass", LOW_HZ), (high, "highpass", HIGH_HZ)):
        extra = gain - mid
        if np.any(extra):
            band = _both_ways(signal, _sections(kind, hz, rate))[CONTEXT:-CONTEXT]
            out += extra[:, None] * band
    return out


@njit(cache=True, nogil=True)
def _both_ways(signal: NDArray[np.float64], sections: NDArray[np.float64]) -> NDArray[np.float64]:
    """The signal filtered forwards, then backwards, by second-order sections (transposed direct form II)."""
    out = signal.copy()
    n, channels = out.shape
    for c in range(channels):
        for s in range(sections.shape[0]):
            b0, b1, b2, _, a1, a2 = sections[s]
            for backwards in range(2):
                z1 = 0.0
                z2 = 0.0
                for k in range(n):
                    i = n - 1 - k if backwards else k
                    x = out[i, c]
                    y = b0 * x + z1
                    z1 = b1 * x - a1 * y + z2
                    z2 = b2 * x - a2 * y
                    out[i, c] = y
    return out
