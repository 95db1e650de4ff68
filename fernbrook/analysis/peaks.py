"""The picture of a waveform: the largest magnitudes of three bands, at several resolutions.

Stored as bytes, so that a page can draw without computing: for each bucket low, mid, high, from 0 to 255.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.effects import CONTEXT, band_beyond

BUCKETS = (64, 256, 1024, 4096, 16_384)
"""Samples at 44.1 kHz per bucket, finest first; each is four of the one before."""
SPLITS_HZ = (200.0, 2500.0)


class PeaksMeter:
    """Takes mono blocks in order; gives the peaks of all resolutions.

    The bands are split without phase shift, so that an attack is drawn where it sounds.
    """

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._around: NDArray[np.float64] = np.zeros(CONTEXT)
        self._pending = np.zeros((3, 0), dtype=np.float32)
        self._fine: list[NDArray[np.uint8]] = []

    def add(self, mono: NDArray[np.float32]) -> None:
        """Hear a block; shape (n,)."""
        signal: NDArray[np.float64] = np.concatenate((self._around, mono.astype(np.float64)))
        if len(signal) <= 2 * CONTEXT:
            self._around = signal
            return
        low = band_beyond(signal[:, None], "lowpass", SPLITS_HZ[0], self._rate)[:, 0]
        high = band_beyond(signal[:, None], "highpass", SPLITS_HZ[1], self._rate)[:, 0]
        bands = np.stack((low, signal - low - high, high))[:, CONTEXT:-CONTEXT].astype(np.float32)
        waiting = np.concatenate((self._pending, bands), axis=1)
        whole = waiting.shape[1] // BUCKETS[0]
        self._fine.append(self._bytes(waiting[:, : whole * BUCKETS[0]]))
        self._pending = waiting[:, whole * BUCKETS[0] :]
        self._around = signal[-2 * CONTEXT :]

    def result(self) -> dict[int, NDArray[np.uint8]]:
        """Peaks for each of ``BUCKETS``; shape (buckets, 3)."""
        self.add(np.zeros(CONTEXT, dtype=np.float32))
        rest = self._pending.shape[1]
        tail = np.pad(self._pending, ((0, 0), (0, -rest % BUCKETS[0])))
        finest = np.concatenate([*self._fine, self._bytes(tail)])
        levels = {BUCKETS[0]: finest}
        for bucket in BUCKETS[1:]:
            finer = levels[bucket // 4]
            padded = np.pad(finer, ((0, -len(finer) % 4), (0, 0)))
            levels[bucket] = padded.reshape(-1, 4, 3).max(axis=1)
        return levels

    @staticmethod
    def _bytes(bands: NDArray[np.float32]) -> NDArray[np.uint8]:
        """Largest magnitude per bucket as bytes; shape (buckets, 3)."""
        buckets = np.abs(bands.reshape(3, -1, BUCKETS[0])).max(axis=2)
        return np.clip(np.rint(buckets.T * 255.0), 0, 255).astype(np.uint8)
