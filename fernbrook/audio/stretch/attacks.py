"""Where sounds begin in a signal, to a millisecond: the moments that a stretch must not smear."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

STEP = 64
"""Samples (1.5 ms) between two looks."""
CONTEXT = 8192
"""Samples on both sides of a moment that decide whether a sound begins there."""
_SPANS = (8, 3, 3)
"""Steps over which the present energy of each look is taken: a bass note needs 12 ms to have one."""
_PASTS = (48, 16, 16)
"""Steps before it against which it is held: 70 ms, so that the beating of two bass notes is no attack; 23 ms above."""
_APART = 14
"""Steps (20 ms) within which the strongest of several is the one."""
_RISES = (1.8, 0.9, 0.9)
"""By how much, in natural logarithms of energy, a sound rises that begins."""
_BASS = (0.0, 4.6e-4, 3.3e-6)
"""What the differences leave of the energy of a tone of 150 and of 300 Hz: less than that is a bass note's own wave."""
_QUIET = 1e-3
"""A band's energy as a share of its mean around, below which nothing begins."""


def find_attacks(signal: NDArray[np.float32], first: int) -> NDArray[np.int64]:
    """Samples at which sounds begin.

    The energies of the signal, of its first and of its second difference are three looks at it that
    hear bass drums, snares and cymbals; a rise of their mean logarithm over what was there in the 23 ms before is an
    attack (after A. Klapuri, "Sound onset detection by applying psychoacoustic knowledge", ICASSP 1999).

    Parameters
    ----------
    signal : shape (2, n)
    first : the sample of the source at which it begins

    Returns
    -------
    samples of the source in rising order; the same ones whatever span is given, but for ``CONTEXT`` at its ends
    """
    begin = -(-first // STEP) * STEP - first
    energies = _energies(signal, begin)
    steps = _rising(energies)
    return np.asarray(first + begin + steps * STEP)


@njit(cache=True, nogil=True, fastmath=True)
def _energies(signal: NDArray[np.float32], begin: int) -> NDArray[np.float64]:
    """Energy of the signal and its first two differences in steps of ``STEP`` samples; shape (3, steps)."""
    steps = (signal.shape[1] - begin) // STEP
    out = np.zeros((3, steps))
    for c in range(2):
        for k in range(steps):
            at = begin + k * STEP
            plain = first = second = np.float32(0.0)
            for n in range(max(at, 2), at + STEP):
                a, b, d = signal[c, n], signal[c, n - 1], signal[c, n - 2]
                plain += a * a
                first += (a - b) * (a - b)
                second += (a - b - b + d) * (a - b - b + d)
            out[0, k] += plain
            out[1, k] += first
            out[2, k] += second
    return out


@njit(cache=True, nogil=True)
def _rising(energies: NDArray[np.float64]) -> NDArray[np.int64]:
    """Steps at which an attack begins."""
    bands, steps = energies.shape
    rise = np.zeros(steps)
    around = CONTEXT // STEP // 2
    plain = np.concatenate((np.zeros(1), np.cumsum(energies[0])))
    for b in range(bands):
        span, history = _SPANS[b], _PASTS[b]
        sums = np.zeros(steps + 1)
        for k in range(steps):
            sums[k + 1] = sums[k] + energies[b, k]
        for k in range(steps):
            low, high = max(0, k - around), min(steps, k + around)
            floor = (_QUIET * (sums[high] - sums[low]) + _BASS[b] * (plain[high] - plain[low])) / (high - low) + 1e-9
            end = min(steps, k + span)
            now = (sums[end] - sums[k]) / (end - k)
            start = max(0, k - history)
            past = (sums[k] - sums[start]) / max(1, k - start)
            recent = (sums[k] - sums[max(0, k - span)]) / max(1, min(k, span))
            step = np.log((now + floor) / (max(past, recent) + floor))
            rise[k] = max(rise[k], step / _RISES[b])
    found = np.empty(steps, np.int64)
    count = 0
    for k in range(steps):
        if rise[k] < 1.0:
            continue
        best = True
        for j in range(max(0, k - _APART), min(steps, k + _APART + 1)):
            if rise[j] > rise[k] or (rise[j] == rise[k] and j < k):
                best = False
                break
        if best:
            found[count] = k
            count += 1
    return found[:count]
