"""Reading a signal between its samples.

Band-limited interpolation with a Kaiser-windowed sinc (J. O. Smith, "Digital Audio Resampling", CCRMA, 2002). It has
no memory: what is read at a position does not depend on where reading began, so a render may start anywhere.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray

HALF_WIDTH = 24
"""Zero crossings of the kernel on each side, at full bandwidth."""
SHORT_WIDTH = 8
"""The same of a kernel for what is dull anyway, in a third of the time."""
PHASES = 2048
KAISER_BETA = 10.0


@lru_cache(maxsize=16)
def _kernel(cutoff: float, width: int) -> tuple[NDArray[np.float32], int]:
    """Kernel values for each phase, shape (PHASES + 1, taps), and the taps on each side."""
    half = int(np.ceil(width / cutoff))
    phase = np.arange(PHASES + 1)[:, None] / PHASES
    distance = np.arange(1 - half, half + 1)[None, :] - phase
    window = np.i0(KAISER_BETA * np.sqrt(np.clip(1.0 - (distance / half) ** 2, 0.0, 1.0))) / np.i0(KAISER_BETA)
    return (cutoff * np.sinc(cutoff * distance) * window).astype(np.float32), half


def margin(cutoff: float = 1.0) -> int:
    """Samples that ``interpolate`` needs on both sides of the outermost positions."""
    return int(np.ceil(HALF_WIDTH / _rounded(cutoff))) + 1


def interpolate(
    signal: NDArray[np.float32], positions: NDArray[np.float64], cutoff: float = 1.0, width: int = HALF_WIDTH
) -> NDArray[np.float32]:
    """The signal at fractional positions.

    Parameters
    ----------
    signal : shape (n, channels)
    positions : shape (m,), each within ``margin(cutoff)`` samples of the signal's ends
    cutoff : bandwidth to keep, 1 is all; lower it to the inverse of the speed where reading faster than 1
    width : zero crossings of the kernel on each side, at most ``HALF_WIDTH``

    Returns
    -------
    shape (m, channels), float32
    """
    table, half = _kernel(_rounded(cutoff), width)
    out = np.empty((len(positions), signal.shape[1]), dtype=np.float32)
    _interpolate(signal, positions, table, half, out)
    return out


def _rounded(cutoff: float) -> float:
    """A few fixed bandwidths, so that kernels are shared."""
    return max(0.05, np.floor(min(cutoff, 1.0) * 200.0) / 200.0)


@njit(cache=True, nogil=True, fastmath=True)
def _interpolate(
    signal: NDArray[np.float32],
    positions: NDArray[np.float64],
    table: NDArray[np.float32],
    half: int,
    out: NDArray[np.float32],
) -> None:
    phases = table.shape[0] - 1
    channels = signal.shape[1]
    taps = 2 * half
    weights = np.empty(taps, np.float32)
    for i in range(len(positions)):
        whole = int(np.floor(positions[i]))
        place = (positions[i] - whole) * phases
        row = int(place)
        part = np.float32(place - row)
        here, there = table[row], table[row + 1]
        for k in range(taps):
            weights[k] = here[k] + part * (there[k] - here[k])
        span = signal[whole + 1 - half :][:taps]
        for c in range(channels):
            total = np.float32(0.0)
            for k in range(taps):
                total += weights[k] * span[k, c]
            out[i, c] = total
