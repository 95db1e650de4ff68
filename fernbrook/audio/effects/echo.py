"""The response of an echo, in beats: the same at any tempo, so that its repeats fall on the beat through a ramp too.

Each repeat is duller than the one before. One pass through the echo blurs by a Gaussian, so that k passes blur by one
whose width is the root of k times as large; it has no phase shift, so every repeat is where it belongs.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

OPEN_HZ, DULL_HZ = 16_000.0, 1500.0
"""Where one pass is 3 dB down, without damping and with all of it."""
WIDTHS = 5.0
"""A Gaussian is left out beyond so many of its standard deviations: below -108 dB."""


@lru_cache(maxsize=8)
def repeats(apart: float, feedback: float, damping: float, count: int, rate: float) -> NDArray[np.float64]:
    """An impulse response with ``count`` repeats, ``apart`` samples from each other; shape (n, 2).

    The first is as loud as what went in, each after it by ``feedback`` of the one before.
    """
    cutoff = OPEN_HZ * (DULL_HZ / OPEN_HZ) ** damping
    width = np.sqrt(np.log(2.0)) / (2.0 * np.pi * cutoff) * rate
    reach = int(np.ceil(WIDTHS * width * np.sqrt(count))) + 1
    out = np.zeros(int(np.ceil(apart * count)) + reach + 1)
    for k in range(1, count + 1):
        centre, sigma = k * apart, width * np.sqrt(k)
        n = np.arange(max(0, int(centre - WIDTHS * sigma) - 1), int(centre + WIDTHS * sigma) + 2)
        pulse = np.exp(-0.5 * ((n - centre) / sigma) ** 2)
        out[n] += feedback ** (k - 1) * pulse / pulse.sum()
    return np.repeat(out[:, None], 2, axis=1)
