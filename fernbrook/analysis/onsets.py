"""Onset strength: how much of something new begins at each moment, in three bands.

Spectral flux of compressed magnitudes on short frames (S. Boeck and G. Widmer, "Maximum filter vibrato suppression for
onset detection", DAFx 2013, without the suppression). The frames' latency is known and taken out, so that a strength
at time t belongs to a sound that starts at t.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft

FRAME = 1024
HOP = 128
BANDS_HZ = ((20.0, 200.0), (200.0, 2500.0), (2500.0, 16_000.0))
COMPRESSION = 100.0
RISE_FRAMES = 3
"""Flux is the rise over this many hops (9 ms), long enough to see a soft attack."""
LATENCY_S = -0.0005
"""How long after a sound starts its flux is largest, the mean over kicks and snares: it rises just before."""


@dataclass(frozen=True)
class Onsets:
    """Onset strength of frame i at ``i / rate`` seconds; ``bands`` has shape (3, frames): low, mid, high."""

    bands: NDArray[np.float32]
    rate: float

    @property
    def full(self) -> NDArray[np.float32]:
        """The three bands together, each brought to the same mean."""
        level = self.bands.mean(axis=1, keepdims=True)
        return np.asarray((self.bands / np.maximum(level, 1e-9)).sum(axis=0))


class OnsetMeter:
    """Takes mono blocks of any length in order; gives the onset strength of all of them."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._window = np.hanning(FRAME).astype(np.float32)
        hz = np.fft.rfftfreq(FRAME, 1.0 / rate)
        self._masks = [(hz >= low) & (hz < high) for low, high in BANDS_HZ]
        self._pending = np.zeros(FRAME // 2, dtype=np.float32)
        self._recent = np.zeros((RISE_FRAMES, FRAME // 2 + 1), dtype=np.float32)
        self._flux: list[NDArray[np.float32]] = []

    def add(self, mono: NDArray[np.float32]) -> None:
        """Hear a block; shape (n,)."""
        signal = np.concatenate((self._pending, mono))
        count = (len(signal) - FRAME) // HOP + 1
        if count <= 0:
            self._pending = signal
            return
        frames = np.lib.stride_tricks.sliding_window_view(signal, FRAME)[: count * HOP : HOP]
        spectra = np.log1p(COMPRESSION * np.abs(fft.rfft(frames * self._window, axis=1)) / FRAME)
        history = np.concatenate((self._recent, spectra.astype(np.float32)))
        rise = np.maximum(history[RISE_FRAMES:] - history[:-RISE_FRAMES], 0.0)
        self._flux.append(np.stack([rise[:, mask].mean(axis=1) for mask in self._masks]))
        self._recent = history[-RISE_FRAMES:]
        self._pending = signal[count * HOP :]

    def result(self) -> Onsets:
        """Strengths up to the last whole frame, moved to where the sounds start."""
        flux = np.concatenate(self._flux, axis=1) if self._flux else np.zeros((3, 0), dtype=np.float32)
        rate = self._rate / HOP
        late = LATENCY_S * rate
        places = np.arange(flux.shape[1])
        shifted = [np.interp(places + late, places, band, right=0.0) if len(band) else band for band in flux]
        return Onsets(np.asarray(shifted, dtype=np.float32), rate)
