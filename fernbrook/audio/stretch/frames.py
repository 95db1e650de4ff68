"""Signals cut into windowed frames and their spectra, and frames added up to a signal again."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft
from scipy.signal import get_window

from fernbrook.audio.stretch.bands import Signal

Spectra = NDArray[np.complex64]


class Frames:
    """Frames of a band that has one sample in ``step`` of the full rate.

    Frames lie around samples of the **full** rate. Where such a sample falls between two of the band, the window is
    moved by the rest, and so are the phases; so nothing is rounded.
    """

    def __init__(self, length: int, hop: int, step: int = 1) -> None:
        """``length`` and ``hop`` are in samples of the full rate, multiples of ``step``."""
        self.length = length
        self._step = step
        self._hop = hop // step
        self._size = length // step
        places = np.arange(self._size)[None, :] * step - np.arange(step)[:, None]
        self._windows = (0.5 - 0.5 * np.cos(2 * np.pi * places / length)).astype(np.float32)
        # Two Hann windows in a row, overlapping by hop, are in sum 3/8 of how many lie over each other.
        fade = get_window("hann", self._size, fftbins=True) / (0.375 * length / hop)
        self._fade = fade.astype(np.float32)
        bins = np.arange(self._size // 2 + 1)
        self._shifts = np.exp(2j * np.pi * bins[None, :] * np.arange(step)[:, None] / length).astype(np.complex64)

    def spectra(self, band: Signal, first: int, centres: NDArray[np.int64]) -> Spectra:
        """Spectra of a band, shape (2, n), whose sample 0 is its sample ``first``; shape (frames, 2, bins)."""
        whole, rest = np.divmod(centres, self._step)
        frames = np.empty((len(centres), 2, self._size), np.float32)
        _cut(band, whole - self._size // 2 - first, rest, self._windows, frames)
        spectra = fft.rfft(frames, axis=2, overwrite_x=True)
        if self._step > 1:
            spectra *= self._shifts[rest][:, None, :]
        return np.asarray(spectra)

    def add(self, spectra: Spectra, band: Signal, at: int) -> None:
        """Add frames to a band, shape (2, n), a hop apart, the first from its sample ``at`` on."""
        _overlap_add(fft.irfft(spectra, self._size, axis=2, overwrite_x=True), self._fade, self._hop, band[:, at:])


@njit(cache=True, nogil=True)
def _cut(band: Signal, at: NDArray[np.int64], which: NDArray[np.int64], windows: Signal, out: Signal) -> None:
    for f in range(len(at)):
        window = windows[which[f]]
        for c in range(2):
            row, piece = out[f, c], band[c][at[f] :][: len(window)]
            for i in range(len(window)):
                row[i] = piece[i] * window[i]


@njit(cache=True, nogil=True)
def _overlap_add(frames: Signal, fade: Signal, hop: int, out: Signal) -> None:
    for f in range(len(frames)):
        for c in range(2):
            row, sum_ = frames[f, c], out[c][f * hop :][: len(fade)]
            for i in range(len(fade)):
                sum_[i] += row[i] * fade[i]
