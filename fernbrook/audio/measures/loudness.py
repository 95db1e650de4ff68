"""Integrated loudness (ITU-R BS.1770-5 with the gates of EBU R 128) and true peak, metered as a stream."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import sosfilt

from fernbrook.audio.measures.true_peak import TAPS, peak_per_sample

ABSOLUTE_GATE_LUFS = -70.0
RELATIVE_GATE_LU = -10.0
OFFSET_LUFS = -0.691
NEAR_PEAK = 10.0 ** (-4.0 / 20.0)
"""Peaks between samples are looked for down to 4 dB below the loudest so far: a limiter may be that busy, and more."""


@dataclass(frozen=True)
class Loudness:
    """Integrated and largest short-term loudness, and true peak; None where the signal is silent."""

    integrated_lufs: float | None
    true_peak_dbtp: float | None
    short_term_max_lufs: float | None = None


class LoudnessMeter:
    """Takes blocks of stereo samples; gives the loudness of all that it has heard."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._sections = k_weighting(rate)
        self._state = np.zeros((len(self._sections), 2, 2))
        self._step = round(rate * 0.1)
        self._pending = np.zeros((0, 2))
        self._energies: list[NDArray[np.float64]] = []
        self._peak = 0.0
        self._edge = np.zeros((TAPS, 2))
        self._heard = 0
        self._peaks: list[NDArray[np.float32]] = []

    def add(self, samples: NDArray[np.floating]) -> None:
        """Hear a block; shape (n, 2)."""
        block = np.asarray(samples, dtype=np.float64)
        if not len(block):
            return
        joined = np.concatenate((self._edge, block))
        peaks = peak_per_sample(joined, NEAR_PEAK * self._peak)[-len(block) - TAPS // 2 :]
        self._peak = max(self._peak, float(peaks.max()))
        self._edge = joined[-TAPS:]
        self._note(peaks[-len(block) :])
        weighted, self._state = sosfilt(self._sections, block, axis=0, zi=self._state)
        waiting = np.concatenate((self._pending, weighted))
        whole = len(waiting) // self._step
        if whole:
            steps = waiting[: whole * self._step].reshape(whole, self._step, 2)
            self._energies.append(np.einsum("ijk,ijk->i", steps, steps) / self._step)
        self._pending = waiting[whole * self._step :]

    def _note(self, peaks: NDArray[np.float64]) -> None:
        """Keep the largest peak of each 100 ms; one that a block begins within is met twice."""
        places = (self._heard + np.arange(0, len(peaks), 1)) // self._step
        first = np.flatnonzero(np.diff(places, prepend=-1))
        tenths = np.maximum.reduceat(peaks, first).astype(np.float32)
        if self._heard % self._step and self._peaks:
            self._peaks[-1][-1] = max(self._peaks[-1][-1], tenths[0])
            tenths = tenths[1:]
        if len(tenths):
            self._peaks.append(tenths)
        self._heard += len(peaks)

    def result(self) -> Loudness:
        """The loudness of what was heard so far."""
        peak = 20.0 * float(np.log10(self._peak)) if self._peak > 1e-7 else None
        energies = self.energies()
        return Loudness(_gated(energies), peak, _short_term_max(energies))

    def energies(self) -> NDArray[np.float64]:
        """K-weighted mean squares of each whole 100 ms, both channels together; shape (n,)."""
        return np.concatenate(self._energies) if self._energies else np.zeros(0)

    def peaks(self) -> NDArray[np.float32]:
        """The largest true peak of each 100 ms, the last of which may be shorter; shape (n,). Those far below the
        loudest are plain samples' peaks.
        """
        return np.concatenate(self._peaks) if self._peaks else np.zeros(0, dtype=np.float32)


def _gated(energies: NDArray[np.float64]) -> float | None:
    """Integrated loudness of mean squares per 100 ms: 400 ms blocks overlapping by three quarters, gated twice."""
    if len(energies) < 4:
        return None
    blocks = np.convolve(energies, np.full(4, 0.25), mode="valid")
    loud = blocks[lufs(blocks) >= ABSOLUTE_GATE_LUFS]
    if not len(loud):
        return None
    gate = lufs(loud.mean()) + RELATIVE_GATE_LU
    return float(lufs(loud[lufs(loud) >= gate].mean()))


def _short_term_max(energies: NDArray[np.float64]) -> float | None:
    """The loudest 3 s (EBU Tech 3341), of as much as there is in a shorter signal."""
    if not len(energies):
        return None
    width = min(30, len(energies))
    loudest = float(np.convolve(energies, np.full(width, 1.0 / width), mode="valid").max())
    return float(lufs(loudest)) if loudest > 1e-10 else None


def lufs(energy: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """The loudness of a K-weighted mean square."""
    return np.asarray(OFFSET_LUFS + 10.0 * np.log10(np.maximum(energy, 1e-12)))


def k_weighting(rate: int) -> NDArray[np.float64]:
    """The two filters of BS.1770 at any rate; shape (2, 6).

    The standard gives coefficients for 48 kHz only. These are the analogue shelf and high pass from which they come,
    by the bilinear transform (B. De Man, "Evaluation of implementations of the EBU R128 loudness measurement", AES
    145, 2018).
    """
    k = np.tan(np.pi * 1681.974450955533 / rate)
    q, gain = 0.7071752369554196, 10.0 ** (3.999843853973347 / 20.0)
    middle = gain**0.4996667741545416
    a0 = 1.0 + k / q + k * k
    shelf = [
        (gain + middle * k / q + k * k) / a0,
        2.0 * (k * k - gain) / a0,
        (gain - middle * k / q + k * k) / a0,
        1.0,
        2.0 * (k * k - 1.0) / a0,
        (1.0 - k / q + k * k) / a0,
    ]
    k = np.tan(np.pi * 38.13547087602444 / rate)
    q = 0.5003270373238773
    a0 = 1.0 + k / q + k * k
    high_pass = [1.0, -2.0, 1.0, 1.0, 2.0 * (k * k - 1.0) / a0, (1.0 - k / q + k * k) / a0]
    return np.array([shelf, high_pass])
