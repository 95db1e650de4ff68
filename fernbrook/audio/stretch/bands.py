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
"""That of every mix (docs/decisions/0009): the crossover is designed for it."""
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


EDGE_HZ = CROSSOVER_HZ + WIDTH_HZ / 2
"""Above this the low band has nothing."""
_LOW_RATE = _RATE / STEP
_CROSSOVER = _low_pass(CROSSOVER_HZ, WIDTH_HZ).astype(np.float32)
_FILL = _phases(_low_pass(_LOW_RATE / 2, _LOW_RATE - 2 * EDGE_HZ))
FILL_REACH = len(_FILL) // 2
"""Samples of the low band on both sides that one of the full rate is made of."""
CONTEXT = len(_CROSSOVER) // 2 + STEP * (FILL_REACH + 2)
"""Samples at both ends of a signal that its bands leave out."""


def split(signal: Signal, first: int) -> tuple[int, Signal, int, Signal]:
    """The two bands of a signal of shape (2, n) that begins at sample ``first`` of its source.

    Returns
    -------
    the number of the low band's first sample, and the band, shape (2, m): its sample k is sample 16 k of the source;
    the same for the high band, at the full rate. Both are a little shorter than the signal.
    """
    half = len(_CROSSOVER) // 2
    begin = -(-(first + half) // STEP)
    count = (first + signal.shape[1] - half - 1) // STEP - begin + 1
    low = np.asarray(_decimated(signal, _CROSSOVER, begin * STEP - first, count))
    under = full_rate(low)
    inner = (begin + FILL_REACH) * STEP
    return begin, low, inner, signal[:, inner - first : inner - first + under.shape[1]] - under


def full_rate(low: Signal) -> Signal:
    """The low band at the full rate, without ``FILL_REACH`` of its samples at both ends; shape (2, 16 m)."""
    return np.asarray(_interpolated(low, _FILL, FILL_REACH, low.shape[1] - 2 * FILL_REACH))


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
