"""A signal split in two, low and high, that are in sum the signal again.

The low band is kept at a sixteenth of the rate: a frame long enough to tell bass notes apart then has as few samples
as a short frame of the high band. The split is a linear-phase low-pass at ``CROSSOVER_HZ`` and what it leaves over.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.signal import firwin, kaiserord

CROSSOVER_HZ = 700.0
WIDTH_HZ = 300.0
"""The bands cross over within this width, half of it on each side."""
STEP = 16
"""One sample of the low band in so many."""
_RATE = 44_100
_FLOOR_DB = 80.0

Signal = NDArray[np.float32]


def _low_pass(cutoff_hz: float, width_hz: float) -> NDArray[np.float64]:
    """A linear-phase low-pass of odd length by Kaiser's window."""
    length, beta = kaiserord(_FLOOR_DB, width_hz / (_RATE / 2))
    return np.asarray(firwin(length | 1, cutoff_hz, window=("kaiser", beta), fs=_RATE))


def _phases(taps: NDArray[np.float64]) -> Signal:
    """An interpolation filter, sorted by where a sample lies between two of the low band; shape (taps, STEP)."""
    half = len(taps) // 2
    reach = -(-half // STEP)
    at = np.arange(STEP)[None, :] - STEP * np.arange(-reach, reach + 1)[:, None] + half
    inside = (at >= 0) & (at < len(taps))
    return np.where(inside, STEP * taps[np.clip(at, 0, len(taps) - 1)], 0.0).astype(np.float32)


_CROSSOVER = _low_pass(CROSSOVER_HZ, WIDTH_HZ).astype(np.float32)
_RATE_LOW = _RATE / STEP
_EDGE = CROSSOVER_HZ + WIDTH_HZ / 2
_FILL = _phases(_low_pass(_RATE_LOW / 2, _RATE_LOW - 2 * _EDGE))
_FILL_REACH = len(_FILL) // 2
CONTEXT = len(_CROSSOVER) // 2 + STEP * (_FILL_REACH + 2)
"""Samples around a span of the full rate that its two bands are made of."""


def low_band(signal: Signal, first: int, start: int, count: int) -> Signal:
    """The low band of a signal of shape (2, n) that begins at sample ``first``: ``count`` samples from ``start`` on.

    Sample m of the low band lies at sample 16 m of the signal.
    """
    return np.asarray(_decimated(signal, _CROSSOVER, start * STEP - first, count))


def full_rate(low: Signal, start: int, count: int) -> Signal:
    """The low band at the full rate: ``count`` times 16 samples, from that of low sample ``start`` on."""
    return np.asarray(_interpolated(low, _FILL, start, count))


def fill_reach() -> int:
    """Low samples on both sides that ``full_rate`` hears."""
    return _FILL_REACH


@njit(cache=True, nogil=True, fastmath=True)
def _decimated(signal: Signal, taps: Signal, at: int, count: int) -> Signal:
    half = len(taps) // 2
    out = np.empty((2, count), np.float32)
    for c in range(2):
        row = signal[c]
        for m in range(count):
            heard = row[at + 16 * m - half :][: len(taps)]
            total = np.float32(0.0)
            for i in range(len(taps)):
                total += heard[i] * taps[i]
            out[c, m] = total
    return out


@njit(cache=True, nogil=True, fastmath=True)
def _interpolated(low: Signal, phases: Signal, start: int, count: int) -> Signal:
    width = len(phases)
    half = width // 2
    out = np.zeros((2, 16 * count), np.float32)
    for c in range(2):
        for m in range(count):
            sixteen = out[c, 16 * m :][:16]
            for j in range(width):
                value = low[c, start + m + j - half]
                for r in range(16):
                    sixteen[r] += value * phases[j, r]
    return out
