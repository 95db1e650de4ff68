"""Three bands whose sum is the sound: hits stray a little from the grid, low ones otherwise than high ones."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfiltfilt

Sound = NDArray[np.float32]

BORDERS_HZ = (250.0, 3000.0)
ORDER = 2
"""Gentle, so that an attack stays one in each band."""


def lower(sound: Sound, hz: float, rate: int) -> Sound:
    """What lies below a frequency, in phase with the sound; shape (n, 2)."""
    sos = butter(ORDER, hz, fs=rate, output="sos")
    return np.asarray(sosfiltfilt(sos, sound, axis=0), dtype=np.float32)


def split(sound: Sound, rate: int) -> list[Sound]:
    """Low, middle and high, which add up to the sound; each of its shape."""
    low = lower(sound, BORDERS_HZ[0], rate)
    rest = sound - low
    middle = lower(rest, BORDERS_HZ[1], rate)
    return [low, middle, rest - middle]
