"""Peaks between the samples (ITU-R BS.1770-5, annex 2: four-fold oversampling)."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray

TAPS = 24
"""Input samples that each oversampled value is made of; half of them lie on each side."""
PHASES = 4


@lru_cache(maxsize=1)
def _filters() -> NDArray[np.float64]:
    """Kaiser-windowed sinc for the three places between two samples; shape (3, TAPS)."""
    distance = np.arange(1 - TAPS // 2, TAPS // 2 + 1)[None, :] - (np.arange(1, PHASES) / PHASES)[:, None]
    shape = np.i0(6.0 * np.sqrt(np.clip(1.0 - (distance / (TAPS / 2)) ** 2, 0.0, 1.0))) / np.i0(6.0)
    kernel = np.sinc(distance) * shape
    return np.asarray(kernel / kernel.sum(axis=1, keepdims=True))


def peak_per_sample(signal: NDArray[np.float64], floor: float = 0.0) -> NDArray[np.float64]:
    """The largest magnitude at each sample and up to the next, over all channels.

    ``signal`` has shape (n, channels); the result (n,). The outermost TAPS / 2 samples see silence beyond the ends.
    Where nothing can exceed ``floor``, the plain magnitude of the sample is given, which saves most of the work.
    """
    filters = _filters()
    most = float(np.abs(filters).sum(axis=1).max())
    return _peaks(np.ascontiguousarray(signal, dtype=np.float64), filters, floor / most)


@njit(cache=True, nogil=True)
def _peaks(signal: NDArray[np.float64], filters: NDArray[np.float64], quiet: float) -> NDArray[np.float64]:
    """Peaks; the filters run only within reach of a sample above ``quiet``."""
    n, channels = signal.shape
    between, taps = filters.shape
    before = taps // 2 - 1
    out = np.zeros(n)
    for c in range(channels):
        loud_until = -1
        for i in range(min(taps // 2, n)):
            if abs(signal[i, c]) > quiet:
                loud_until = i + before
        for i in range(n):
            peak = abs(signal[i, c])
            if i + taps // 2 < n and abs(signal[i + taps // 2, c]) > quiet:
                loud_until = i + taps - 1
            if i > loud_until:
                out[i] = max(out[i], peak)
                continue
            for p in range(between):
                total = 0.0
                for k in range(taps):
                    j = i - before + k
                    if 0 <= j < n:
                        total += filters[p, k] * signal[j, c]
                peak = max(peak, abs(total))
            out[i] = max(out[i], peak)
    return out
