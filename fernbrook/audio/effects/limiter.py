"""A true-peak limiter that leaves alone what stays below its ceiling.

The gain falls ahead of a peak within the look-ahead and comes back afterwards. Its memory is finite whatever the peak,
so a span can be limited with only its surroundings known, wherever a render began: the way back from any depth takes
at most ``MEMORY_S``. It is one curve D(u) of the depth in dB over the time that is left, 60 dB a second up to 12 dB
and steeper beyond, without bound as u nears ``MEMORY_S``. Each peak is turned into its time u; time runs down by one
sample a sample, the longest time left wins, and the depth follows from it. So peaks never depend on the order in
which they were met.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fernbrook.audio.measures import FINE_TAPS, peak_against

LOOK_AHEAD_S = 0.005
RELEASE_DB_PER_S = 60.0
MEMORY_S = 0.34
BEND_S = 0.2
"""Up to here, which is 12 dB, the release is a straight line."""
MARGIN_DB = 0.1
"""The ceiling is set this much low, for peaks that fall between sixteen points a sample, and for other meters."""


def before(rate: int) -> int:
    """Samples needed before a span: as far back as a peak may still be felt."""
    return round(MEMORY_S * rate) + 3 * _ahead(rate) + FINE_TAPS


def after(rate: int) -> int:
    """Samples needed after a span, for the look-ahead."""
    return 2 * _ahead(rate) + FINE_TAPS


def limit(signal: NDArray[np.float64], start: int, end: int, ceiling_db: float, rate: int) -> NDArray[np.float64]:
    """The span [start, end) of a signal, limited to a true peak.

    Parameters
    ----------
    signal : shape (n, 2), with at least ``before(rate)`` samples before ``start`` and ``after(rate)`` after ``end``
    ceiling_db : in dBTP

    Returns
    -------
    shape (end - start, 2); bit for bit the input wherever no peak within reach passes the ceiling
    """
    ceiling = 10.0 ** ((ceiling_db - MARGIN_DB) / 20.0)
    begin, stop = max(start - before(rate), 0), min(end + after(rate), len(signal))
    heard = signal[begin:stop]
    if float(np.max(np.abs(heard), initial=0.0)) < ceiling / 2:
        return signal[start:end]
    peaks = peak_against(heard, ceiling)
    if float(peaks.max(initial=0.0)) <= ceiling:
        return signal[start:end]
    gains = _gains(peaks, ceiling, _ahead(rate), rate)
    return np.asarray(signal[start:end] * gains[start - begin : end - begin, None])


def _ahead(rate: int) -> int:
    return round(LOOK_AHEAD_S * rate)


@njit(cache=True, nogil=True)
def _gains(peaks: NDArray[np.float64], ceiling: float, ahead: int, rate: int) -> NDArray[np.float64]:
    """Gain per sample: what each peak asks for, held over the look-ahead, released, and smoothed towards it."""
    n = len(peaks)
    wanted = _held(_times_left(peaks, ceiling, rate), 2 * ahead)
    left = 0.0
    gains = np.ones(n)
    for i in range(n):
        left = max(wanted[i], left - 1.0, 0.0)
        if left > 0.0:
            gains[i] = 10.0 ** (-_depth(left / rate) / 20.0)
    return _averaged(gains, ahead)


@njit(cache=True, nogil=True)
def _times_left(peaks: NDArray[np.float64], ceiling: float, rate: int) -> NDArray[np.float64]:
    """How many samples the way back from each peak takes; 0 where the ceiling is not passed."""
    out = np.zeros(len(peaks))
    for i in range(len(peaks)):
        if peaks[i] > ceiling:
            depth = 20.0 * np.log10(peaks[i] / ceiling)
            beyond = depth - RELEASE_DB_PER_S * BEND_S
            if beyond <= 0.0:
                out[i] = depth / RELEASE_DB_PER_S * rate
            else:
                out[i] = (BEND_S + beyond / (RELEASE_DB_PER_S + beyond / (MEMORY_S - BEND_S))) * rate
    return out


@njit(cache=True, nogil=True)
def _depth(left_s: float) -> float:
    """The reduction in dB with so much time left: the inverse of what ``_times_left`` computes."""
    beyond = left_s - BEND_S
    if beyond <= 0.0:
        return RELEASE_DB_PER_S * left_s
    return RELEASE_DB_PER_S * (BEND_S + beyond / max(1.0 - beyond / (MEMORY_S - BEND_S), 1e-9))


@njit(cache=True, nogil=True)
def _held(wanted: NDArray[np.float64], ahead: int) -> NDArray[np.float64]:
    """The largest of each sample, the one before it, and the ``ahead`` ones after it (Lemire's running maximum)."""
    n = len(wanted)
    out = np.zeros(n)
    queue = np.empty(n, dtype=np.int64)
    first = last = 0
    for i in range(n + ahead):
        if i < n:
            while last > first and wanted[queue[last - 1]] <= wanted[i]:
                last -= 1
            queue[last] = i
            last += 1
        at = i - ahead
        if at >= 0:
            while queue[first] < at - 1:
                first += 1
            out[at] = wanted[queue[first]]
    return out


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
