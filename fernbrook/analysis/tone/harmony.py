"""Chroma and band levels per frame: what the harmony and the arrangement do over time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from fernbrook.analysis.framing import Framer, frames
from fernbrook.analysis.tone.bass import bass_classes, partials

FRAME = 8192
HOP = 2048
LOW_HZ, HIGH_HZ = 55.0, 1800.0
FINE, FINE_FROM_HZ = 5, 110.0
LEVEL_BANDS_HZ = ((20.0, 120.0), (120.0, 500.0), (500.0, 2500.0), (2500.0, 7000.0), (7000.0, 16_000.0))


@dataclass(frozen=True)
class Harmony:
    """Pitch classes and levels of frame i at ``i / rate`` seconds.

    ``chroma`` has shape (frames, 12) and rows of unit length, ``level`` shape (frames, 5), in log10 of power. ``fine``
    is the whole track's spectrum in fifths of a semitone over one octave from C; shape (60,). ``bass`` has the pitch
    classes of the bass note, in sum as strong as it is; shape (frames, 12), or None where an analysis before version 9
    kept none.
    """

    chroma: NDArray[np.float32]
    level: NDArray[np.float32]
    rate: float
    fine: NDArray[np.float64]
    bass: NDArray[np.float32] | None = None


def novelty(features: NDArray[np.floating], width: int) -> NDArray[np.float64]:
    """How different the ``width`` rows from each row on are from as many before it; shape (rows,), mean distance."""
    n = len(features)
    sums = np.concatenate((np.zeros((1, features.shape[1])), np.cumsum(features, axis=0, dtype=np.float64)))
    at = np.arange(n)
    until, since = np.minimum(at + width, n), np.maximum(at - width, 0)
    after = (sums[until] - sums[at]) / np.maximum(until - at, 1)[:, None]
    before = (sums[at] - sums[since]) / np.maximum(at - since, 1)[:, None]
    change = np.abs(after - before).sum(axis=1)
    change[:1] = 0.0
    return np.asarray(change)


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
        cell = np.round(pitch * FINE).astype(int) % (12 * FINE)
        self._to_fine = np.zeros((len(hz), 12 * FINE))
        self._to_fine[np.arange(len(hz)), cell] = (hz >= FINE_FROM_HZ) & (hz <= HIGH_HZ)
        self._to_bass = partials(hz)
        self._spectrum = np.zeros(len(hz))
        self._to_level = np.stack([(hz >= lo) & (hz < hi) for lo, hi in LEVEL_BANDS_HZ], axis=1).astype(np.float32)
        self._framer = Framer(FRAME, HOP)
        self._chroma: list[NDArray[np.float32]] = []
        self._level: list[NDArray[np.float32]] = []
        self._bass: list[NDArray[np.float32]] = []

    def add(self, mono: NDArray[np.float32]) -> None:
        """Hear a block; shape (n,)."""
        signal, count = self._framer.add(mono)
        if not count:
            return
        magnitude = np.abs(fft.rfft(frames(signal, FRAME, HOP, count) * self._window, axis=1)) / FRAME
        root = np.sqrt(magnitude)
        self._spectrum += (root / np.maximum(root.sum(axis=1, keepdims=True), 1e-6)).sum(axis=0)
        chroma = root @ self._to_chroma
        chroma /= np.maximum(np.linalg.norm(chroma, axis=1, keepdims=True), 1e-6)
        self._chroma.append(chroma.astype(np.float32))
        self._bass.append(bass_classes(root @ self._to_bass))
        self._level.append(np.log10((magnitude**2) @ self._to_level + 1e-9).astype(np.float32))

    @property
    def spectrum(self) -> NDArray[np.float64]:
        """The sum of the frames' spectra, roots of magnitudes, each frame as strong as the others."""
        return self._spectrum

    def result(self) -> Harmony:
        """All frames heard so far."""
        if not self._chroma:
            empty = np.zeros((0, 12), dtype=np.float32)
            levels = np.zeros((0, len(LEVEL_BANDS_HZ)), dtype=np.float32)
            return Harmony(empty, levels, self._rate / HOP, np.zeros(12 * FINE), empty)
        fine = self._spectrum @ self._to_fine / np.maximum(self._to_fine.sum(axis=0), 1.0)
        chroma, level, bass = (np.concatenate(rows) for rows in (self._chroma, self._level, self._bass))
        return Harmony(chroma, level, self._rate / HOP, fine, bass)
