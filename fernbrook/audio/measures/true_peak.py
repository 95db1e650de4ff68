"""Peaks between the samples: as a meter gives them, and finer where a ceiling must hold.

The meter oversamples four-fold (ITU-R BS.1770-5, annex 2). Four points a sample can miss the top of a wave near half
the sampling rate by 0.69 dB, so whatever comes near a ceiling is looked at again at sixteen points, with a longer
filter.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray

TAPS = 24
"""Input samples that each oversampled value is made of; half of them lie on each side."""
PHASES = 4
FINE_TAPS = 64
FINE_PHASES = 16
NEAR = 10.0 ** (-2.0 / 20.0)
"""Within 2 dB of the ceiling a peak is measured finely."""


@lru_cache(maxsize=2)
def _filters(taps: int, phases: int) -> NDArray[np.float64]:
    """Kaiser-windowed sinc for the places between two samples; shape (phases - 1, taps)."""
    distance = np.arange(1 - taps // 2, taps // 2 + 1)[None, :] - (np.arange(1, phases) / phases)[:, None]
    shape = np.i0(6.0 * np.sqrt(np.clip(1.0 - (distance / (taps / 2)) ** 2, 0.0, 1.0))) / np.i0(6.0)
    kernel = np.sinc(distance) * shape
    return np.asarray(kernel / kernel.sum(axis=1, keepdims=True))


def peak_per_sample(signal: NDArray[np.float64], floor: float = 0.0) -> NDArray[np.float64]:
    """The largest magnitude at each sample and up to the next, over all channels.

    ``signal`` has shape (n, channels); the result (n,). The outermost TAPS / 2 samples see silence beyond the ends.
    Where nothing can exceed ``floor``, the plain magnitude of the sample is given, which saves most of the work.
    """
    return _peaks(*_prepared(signal, floor), np.inf)


def peak_against(signal: NDArray[np.float64], ceiling: float) -> NDArray[np.float64]:
    """Like ``peak_per_sample`` with the ceiling as its floor, but fine where the ceiling is near."""
    return _peaks(*_prepared(signal, ceiling * NEAR), ceiling * NEAR)


def _prepared(
    signal: NDArray[np.float64], floor: float
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], float]:
    """The arguments of the kernel: the signal, both sets of filters, what cannot exceed the floor."""
    coarse = _filters(TAPS, PHASES)
    most = float(np.abs(coarse).sum(axis=1).max())
    fine = _filters(FINE_TAPS, FINE_PHASES)
    return np.ascontiguousarray(signal, dtype=np.float64), coarse, fine, floor / most


@njit(cache=True, nogil=True)
def _peaks(
    signal: NDArray[np.float64], coarse: NDArray[np.float64], fine: NDArray[np.float64], quiet: float, near: float
) -> NDArray[np.float64]:
    """Peaks; the filters run only within reach of a sample above ``quiet``, the fine ones only above ``near``."""
    n, channels = signal.shape
    taps = coarse.shape[1]
    before = taps // 2 - 1
    edge = fine.shape[1] // 2
    out = np.zeros(n)
    row = np.zeros(n + 2 * edge)
    for c in range(channels):
        row[edge : edge + n] = signal[:, c]
        loud_until = -1
        for i in range(min(taps // 2, n)):
            if abs(row[edge + i]) > quiet:
                loud_until = i + before
        for i in range(n):
            peak = abs(row[edge + i])
            if abs(row[edge + i + taps // 2]) > quiet:
                loud_until = i + taps - 1
            if i <= loud_until:
                peak = _between(row, edge + i, coarse, peak)
                if peak > near:
                    peak = _between(row, edge + i, fine, peak)
            out[i] = max(out[i], peak)
    return out


@njit(cache=True, nogil=True, fastmath=True)
def _between(row: NDArray[np.float64], i: int, filters: NDArray[np.float64], peak: float) -> float:
    """The largest of ``peak`` and the magnitudes between sample i and the next."""
    phases, taps = filters.shape
    heard = row[i - taps // 2 + 1 :][:taps]
    for p in range(phases):
        kernel = filters[p]
        total = 0.0
        for k in range(taps):
            total += kernel[k] * heard[k]
        peak = max(peak, abs(total))
    return peak
