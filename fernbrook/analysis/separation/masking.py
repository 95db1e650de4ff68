"""Soft masks: how much of each cell of a spectrogram belongs to one of two sounds."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from fernbrook.analysis.separation.bands import Sound

FRAME, HOP = 2048, 512
AT_ONCE = 2048
"""Frames that are looked at together, so that long tracks need no more memory than short ones."""
FLOOR = 1e-12
SHARPNESS = 3.0
"""A power of the magnitudes; 2 would be Wiener's filter."""

Power = NDArray[np.float32]
Spectra = NDArray[np.complex64]
Mask = Callable[[slice, Spectra, Spectra], Power]


def masked(sound: Sound, guess: Sound, mask: Mask) -> Sound:
    """A sound with its spectrogram weighted by a mask; shape (n, 2).

    The mask is given the frames, and the spectra of the sound and of a guess at a part of it, each of shape (frames,
    bins, 2); it gives weights of that shape, or of (frames, bins, 1).
    """
    n = len(sound)
    window = np.sqrt(np.hanning(FRAME + 1)[:-1]).astype(np.float32)
    count = frames_of(n)
    padded = [np.pad(s, ((FRAME, FRAME + count * HOP - n), (0, 0))) for s in (sound, guess)]
    out = np.zeros_like(padded[0])
    scale = np.float32(2.0 * HOP / FRAME)
    for first in range(0, count, AT_ONCE):
        here = slice(first, min(first + AT_ONCE, count))
        at = np.arange(here.start, here.stop)[:, None] * HOP + np.arange(FRAME)
        spectra = [fft.rfft(p[at] * window[:, None], axis=1, workers=2) for p in padded]
        weighted = fft.irfft(spectra[0] * mask(here, *spectra), FRAME, axis=1, workers=2) * (window[:, None] * scale)
        for k in range(here.start, here.stop):
            out[k * HOP : k * HOP + FRAME] += weighted[k - here.start]
    return out[FRAME : FRAME + n]


def frames_of(samples: int) -> int:
    """How many frames there are of a sound; frame k is centred on sample ``(k - 1) * HOP - HOP``, as it is padded."""
    return -(-samples // HOP) + FRAME // HOP


def against_the_rest(_: slice, whole: Spectra, guess: Spectra) -> Power:
    """How much of each cell is of the guess, and not of what it leaves."""
    part = np.abs(guess).astype(np.float32) ** SHARPNESS
    rest = np.abs(whole - guess).astype(np.float32) ** SHARPNESS
    return np.asarray(part / (part + rest + FLOOR))
