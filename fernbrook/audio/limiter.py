"""A true-peak limiter that leaves alone what stays below its ceiling.

The gain falls ahead of a peak within the look-ahead and comes back at a constant rate in dB. Its memory is finite, so a
span can be limited with only its surroundings known, wherever a render began.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fernbrook.audio.true_peak import peak_per_sample

LOOK_AHEAD_S = 0.005
RELEASE_DB_PER_S = 60.0
MARGIN_DB = 0.2
"""The ceiling is set this much low: four-fold oversampling can miss the very top of a peak."""


def context(rate: int) -> int:
    """Samples needed after the span, for the look-ahead; before it, as much release as may still be under way."""
    return 2 * round(LOOK_AHEAD_S * rate) + 16


def limit(signal: NDArray[np.float64], start: int, end: int, ceiling_db: float, rate: int) -> NDArray[np.float64]:
    """The span [start, end) of a signal, limited to a true peak.

    Parameters
    ----------
    signal : shape (n, 2), with what came before ``start`` and at least ``context(rate)`` samples after ``end``
    ceiling_db : in dBTP

    Returns
    -------
    shape (end - start, 2); bit for bit the input wherever no peak within reach passes the ceiling
    """
    ceiling = 10.0 ** ((ceiling_db - MARGIN_DB) / 20.0)
    loudest = float(np.max(np.abs(signal), initial=0.0))
    if loudest < ceiling / 2:
        return signal[start:end]
    peaks = peak_per_sample(signal, ceiling)
    if float(peaks.max(initial=0.0)) <= ceiling:
        return signal[start:end]
    gains = _gains(peaks, ceiling, round(LOOK_AHEAD_S * rate), RELEASE_DB_PER_S / rate)
    return np.asarray(signal[start:end] * gains[start:end, None])


@njit(cache=True, nogil=True)
def _gains(peaks: NDArray[np.float64], ceiling: float, ahead: int, release_db: float) -> NDArray[np.float64]:
    """Gain per sample: what each peak asks for, held over the look-ahead, released, and smoothed towards it."""
    n = len(peaks)
    wanted = np.zeros(n)
    for i in range(n):
        if peaks[i] > ceiling:
            need = 20.0 * np.log10(ceiling / peaks[i])
            for j in range(max(0, i - 2 * ahead), min(n, i + 2)):
                wanted[j] = min(wanted[j], need)
    level = 0.0
    gains = np.ones(n)
    for i in range(n):
        level = min(wanted[i], level + release_db)
        gains[i] = 10.0 ** (level / 20.0) if level < 0.0 else 1.0
    return _averaged(gains, ahead)


@njit(cache=True, nogil=True)
def _averaged(gains: NDArray[np.float64], length: int) -> NDArray[np.float64]:
    """Mean over the last ``length`` samples, exactly 1 where all of them are."""
    n = len(gains)
    out = np.ones(n)
    total = float(length)
    reduced = 0
    for i in range(n):
        leaving = gains[i - length] if i >= length else 1.0
        total += gains[i] - leaving
        reduced += int(gains[i] < 1.0) - int(leaving < 1.0)
        if reduced == 0:
            total = float(length)
        else:
            out[i] = total / length
    return out
