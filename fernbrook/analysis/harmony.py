"""Chroma and band levels per frame: what the harmony and the arrangement do over time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import fft

FRAME = 8192
HOP = 2048
LOW_HZ, HIGH_HZ = 55.0, 1800.0
LEVEL_BANDS_HZ = ((20.0, 120.0), (120.0, 500.0), (500.0, 2500.0), (2500.0, 7000.0), (7000.0, 16_000.0))


class HarmonyMeter:
    """Takes mono blocks in order; gives pitch-class strengths and levels per frame of 46 ms."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._window = np.hanning(FRAME).astype(np.float32)
        hz = np.fft.rfftfreq(FRAME, 1.0 / rate)
        pitch = 69.0 + 12.0 * np.log2(np.maximum(hz, 1.0) / 440.0)
        heard = (hz >= LOW_HZ) & (hz <= HIGH_HZ)
        self._to_chroma = np.zeros((len(hz), 12), dtype=np.float32)
        near = np.exp(-0.5 * ((pitch - np.round(pitch)) / 0.2) ** 2)
        self._to_chroma[np.arange(len(hz)), np.round(pitch).astype(int) % 12] = near * heard
        self._to_level = np.stack([(hz >= lo) & (hz < hi) for lo, hi in LEVEL_BANDS_HZ], axis=1).astype(np.float32)
        self._pending = np.zeros(FRAME // 2, dtype=np.float32)
        self._chroma: list[NDArray[np.float32]] = []
        self._level: list[NDArray[np.float32]] = []

    @property
    def rate(self) -> float:
        """Frames per second."""
        return self._rate / HOP

    def add(self, mono: NDArray[np.float32]) -> None:
        """Hear a block; shape (n,)."""
        signal = np.concatenate((self._pending, mono))
        count = (len(signal) - FRAME) // HOP + 1
        if count <= 0:
            self._pending = signal
            return
        frames = np.lib.stride_tricks.sliding_window_view(signal, FRAME)[: count * HOP : HOP]
        magnitude = np.abs(fft.rfft(frames * self._window, axis=1)) / FRAME
        chroma = np.sqrt(magnitude) @ self._to_chroma
        chroma /= np.maximum(np.linalg.norm(chroma, axis=1, keepdims=True), 1e-6)
        self._chroma.append(chroma.astype(np.float32))
        self._level.append(np.log10((magnitude**2) @ self._to_level + 1e-9).astype(np.float32))
        self._pending = signal[count * HOP :]

    def result(self) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Chroma of shape (frames, 12), unit length, and levels of shape (frames, 5), log power."""
        if not self._chroma:
            return np.zeros((0, 12), dtype=np.float32), np.zeros((0, len(LEVEL_BANDS_HZ)), dtype=np.float32)
        return np.concatenate(self._chroma), np.concatenate(self._level)
