"""How fast the pulse is: rough tempi from the autocorrelation, and a steady one refined on the whole track at once.

The rough tempo is the lag whose multiples the autocorrelation supports best (as in D. Ellis, "Beat tracking by dynamic
programming", JNMR 36(1), 2007). Refined, it is the frequency at which the onsets' Fourier sums at the pulse, its half
and its quarter are largest: that explains the end of a track as well as its start. Which multiple of the pulse is the
beat is not decided here but in ``metre``.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, next_fast_len, rfft
from scipy.signal import zoom_fft

SLOWEST, FASTEST = 60.0, 200.0
HARMONICS = (1, 2, 3, 4, 6, 8)
FEWER = 4
MULTIPLES = ((1, 1.0), (2, 1.5), (4, 2.0), (8, 4.0))
"""Multiples of a lag, and what their support is divided by."""
AS_WELL = 0.985
"""A rounder tempo must reach this share of what the measured one explains."""

Array = NDArray[np.float64]


def rough_tempi(strength: Array, rate: float, count: int = 3) -> list[float]:
    """The best supported tempi that are no octaves of each other, best first."""
    bpms, support = _support(strength, rate)
    peaks = np.flatnonzero((support[1:-1] > support[:-2]) & (support[1:-1] >= support[2:])) + 1
    if len(peaks) == 0:
        peaks = np.array([int(np.argmax(support))])
    found: list[float] = []
    for peak in peaks[np.argsort(-support[peaks])]:
        octaves = np.log2(bpms[peak] / np.array(found)) if found else np.array([0.5])
        if np.abs(octaves - np.rint(octaves)).min() > 0.02:
            found.append(float(bpms[peak]))
    return found[:count]


def _support(strength: Array, rate: float) -> tuple[Array, Array]:
    """Tempi between ``SLOWEST`` and ``FASTEST``, and what the autocorrelation says for each."""
    n = next_fast_len(2 * len(strength), real=True)
    spectrum = rfft(strength - strength.mean(), n)
    correlation = irfft(np.abs(spectrum) ** 2, n)[: len(strength)]
    correlation /= max(float(correlation[0]), 1e-12)
    bpms = np.exp(np.arange(np.log(SLOWEST), np.log(FASTEST), 0.002))
    lags, places = 60.0 / bpms * rate, np.arange(len(correlation))
    support = sum(np.interp(lags * k, places, correlation, right=0.0) / weight for k, weight in MULTIPLES)
    return bpms, np.asarray(support)


def refined(strength: Array, rate: float, rough: float, beside: float = 0.012) -> float:
    """The steady tempo within 1.2 % (or another share) of a rough one that explains all onsets best, to 0.0002 BPM."""
    bpm, span = rough, beside * rough
    step = 60.0 / (len(strength) / rate) / 8
    while step > 0.0002:
        tried = np.arange(bpm - span, bpm + span + step / 2, step)
        bpm = float(tried[int(np.argmax(_energy(strength, rate, tried[0], tried[-1], len(tried))))])
        span, step = 2 * step, step / 4
    return bpm


def _energy(strength: Array, rate: float, slowest: float, fastest: float, count: int) -> Array:
    """Sum of the magnitudes of the onsets' Fourier sums at the harmonics of evenly spaced tempi; shape (count,).

    The fastest harmonic is far below half of the rate, so ``FEWER`` frames are taken as one.
    """
    thin = strength[: len(strength) // FEWER * FEWER].reshape(-1, FEWER).sum(axis=1)
    total = np.zeros(count)
    for k in HARMONICS:
        band = np.array([slowest, fastest]) * k / 60.0
        total += np.abs(zoom_fft(thin, band, m=count, fs=rate / FEWER, endpoint=True))
    return total


def preferring_whole(strength: Array, rate: float, bpm: float) -> float:
    """The whole, half, tenth or hundredth tempo near the measured one, when it explains the onsets just as well."""
    length_s = len(strength) / rate
    for parts, tolerance_s in ((1, 0.012), (2, 0.012), (10, 0.004), (100, 0.002)):
        near = round(bpm * parts) / parts
        if near == bpm or abs(bpm / near - 1.0) * length_s / 2 > tolerance_s:
            continue
        here, there = _energy(strength, rate, min(bpm, near), max(bpm, near), 2)[:: 1 if bpm < near else -1]
        if there > AS_WELL * here:
            return near
    return bpm


def coherence(strength: Array, rate: float, bpm: float, window_s: float = 8.0) -> float:
    """How well the phases of a pulse in different parts of a track agree: about 1 for a steady one, 0 for none.

    The largest over the harmonics of the pulse.
    """
    times = np.arange(len(strength)) / rate
    edges = np.arange(0, len(strength), round(window_s * rate))
    found = 0.0
    for k in HARMONICS:
        sums = np.add.reduceat(strength * np.exp(-2j * np.pi * k * bpm / 60.0 * times), edges)
        found = max(found, float(np.abs(sums.sum()) / max(np.abs(sums).sum(), 1e-12)))
    return found
