"""Onset strength: how much of something new begins at each moment, in six bands.

The rise of each band's compressed energy (A. Klapuri, "Sound onset detection by applying psychoacoustic knowledge",
ICASSP 1999, takes the same quantity). Low bands are read from longer frames, because the beating of bass notes within a
short one looks like onsets. The frames' latency is known and taken out, so that a strength at time t belongs to a sound
that starts at t.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import uniform_filter1d
from scipy.signal import firwin, upfirdn

from fernbrook.analysis.framing import Framer, frames

LONG, SHORT = 2048, 1024
HOP = 128
FEWER = 8
"""The long frames are read from the sound at an eighth of its rate: their bands need no more."""
HALF_FIR = 64
AT_ONCE = 128
"""Frames in one go: few enough to stay in the processor's cache."""
LONG_BANDS_HZ = ((30.0, 180.0), (180.0, 450.0))
SHORT_BANDS_HZ = ((450.0, 1200.0), (1200.0, 3500.0), (3500.0, 8000.0), (8000.0, 16_000.0))
BANDS = len(LONG_BANDS_HZ) + len(SHORT_BANDS_HZ)
LOW_BANDS = slice(0, len(LONG_BANDS_HZ))
"""The bands in which kicks and basses begin."""
COMPRESSION = 100.0
LONG_RISE, SHORT_RISE = 6, 3
"""The hops over which a rise is taken (17 and 9 ms), long enough to see a soft attack."""
EVENED_OVER_S = 0.4
INAUDIBLE = 0.001
"""A rise this small is the noise of the coding, not a sound: a twentieth of what quiet music has."""
LATENCY_S = (-0.0012, -0.0009, -0.0009, 0.0009, 0.0005, 0.0005)
"""How long after a sound starts its strength is largest, for each band, as measured on kicks, snares and hats."""

Bands = NDArray[np.float32]


@dataclass(frozen=True)
class Onsets:
    """Onset strength of frame i at ``i / rate`` seconds; ``bands`` has shape (6, frames), lowest first."""

    bands: Bands
    rate: float

    @property
    def duration_s(self) -> float:
        """How long the sound is."""
        return self.bands.shape[1] / self.rate

    @cached_property
    def evened(self) -> Bands:
        """Strengths above their surroundings of half a second, relative to them; shape (6, frames).

        Loud and quiet parts, and loud and quiet bands, count alike afterwards.
        """
        width = round(EVENED_OVER_S * self.rate) | 1
        around = self.bands
        for _ in range(2):
            around = uniform_filter1d(around, width, axis=1, mode="nearest")
        floor = 0.1 * self.bands.mean(axis=1, keepdims=True) + np.float32(INAUDIBLE)
        return np.asarray(np.maximum(self.bands - around, 0.0) / (around + floor))


class OnsetMeter:
    """Takes mono blocks of any length in order; gives the onset strength of all of them."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._long = np.hanning(LONG // FEWER).astype(np.float32)
        self._fir = firwin(2 * HALF_FIR + 1, 0.8 / FEWER).astype(np.float32)
        self._short = np.hanning(SHORT).astype(np.float32)
        self._long_masks = _masks(LONG_BANDS_HZ, LONG // FEWER, rate // FEWER)
        self._short_masks = _masks(SHORT_BANDS_HZ, SHORT, rate)
        self._framer = Framer(LONG, HOP, HALF_FIR)
        self._recent = np.zeros((LONG_RISE, BANDS), dtype=np.float32)
        self._rises: list[NDArray[np.float32]] = []

    def add(self, mono: NDArray[np.float32]) -> None:
        """Hear a block; shape (n,)."""
        signal, count = self._framer.add(mono)
        if not count:
            return
        slow = upfirdn(self._fir, signal, 1, FEWER)[2 * HALF_FIR // FEWER :]
        long = frames(slow, LONG // FEWER, HOP // FEWER, count)
        short = frames(signal[HALF_FIR + (LONG - SHORT) // 2 :], SHORT, HOP, count)
        levels = np.concatenate(
            (_levels(long, self._long, self._long_masks), _levels(short, self._short, self._short_masks)), axis=1
        )
        history = np.concatenate((self._recent, levels))
        rise = history[LONG_RISE:].copy()
        rise[:, LOW_BANDS] -= history[:-LONG_RISE, LOW_BANDS]
        rise[:, LOW_BANDS.stop :] -= history[LONG_RISE - SHORT_RISE : -SHORT_RISE, LOW_BANDS.stop :]
        self._rises.append(np.maximum(rise, 0.0))
        self._recent = history[-LONG_RISE:]

    def result(self) -> Onsets:
        """Strengths up to the last whole frame, moved to where the sounds start."""
        rises = np.concatenate(self._rises).T if self._rises else np.zeros((BANDS, 0), dtype=np.float32)
        rate = self._rate / HOP
        places = np.arange(rises.shape[1])
        moved = [
            np.interp(places + late * rate, places, band, right=0.0) if len(band) else band
            for band, late in zip(rises, LATENCY_S, strict=True)
        ]
        return Onsets(np.asarray(moved, dtype=np.float32), rate)


def _masks(bands_hz: tuple[tuple[float, float], ...], frame: int, rate: int) -> NDArray[np.float32]:
    """Which bins belong to which band; shape (bins, bands)."""
    hz = np.fft.rfftfreq(frame, 1.0 / rate)
    return np.stack([(hz >= low) & (hz < high) for low, high in bands_hz], axis=1).astype(np.float32)


def _levels(
    frames: NDArray[np.float32], window: NDArray[np.float32], masks: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Compressed amplitude of each band in each frame; shape (frames, bands)."""
    out = np.empty((len(frames), masks.shape[1]), dtype=np.float32)
    for begin in range(0, len(frames), AT_ONCE):
        spectra = fft.rfft(frames[begin : begin + AT_ONCE] * window, axis=1)
        power = (spectra.real**2 + spectra.imag**2) @ masks
        out[begin : begin + AT_ONCE] = np.log1p(COMPRESSION / frames.shape[1] * np.sqrt(power))
    return out
