"""The pitch of one who sings, frame by frame, and where its harmonics lie.

How much speaks for a pitch is the weighted sum of what sounds at its harmonics, less what sounds halfway between them,
which keeps octaves apart (A. Klapuri: Multiple fundamental frequency estimation by summing harmonic amplitudes, ISMIR
2006). Over time the pitch is the way through these of highest sum, where a leap has its price (A. Viterbi, 1967).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

LOW_HZ, HIGH_HZ = 90.0, 900.0
AN_OCTAVE = 48
"""Pitches lie an eighth of a tone apart."""
HARMONICS = 12
BETWEEN = 0.6
"""How much counts against a pitch what lies halfway between its harmonics."""
FLATTER = 0.6
"""Magnitudes are taken to this power, so that one strong harmonic does not decide."""
GLIDE = 4
"""From a frame to the next a pitch glides by so many steps at most, or leaps."""
PRICE = 0.12
LEAST, SURE = 0.1, 0.2
"""So much must speak for a pitch, and from so much on it is believed wholly."""
WIDE_HZ, WIDE_SHARE = 36.0, 0.012
"""A harmonic is so wide, to its fall by a half of a neper: by the window, and by a share of its height for vibrato."""

AROUND, STILL = 31, 1.6
"""A pitch is still where it spreads over fewer steps, over so many frames: more than a vibrato of half a semitone."""

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Pitched:
    """How far each cell belongs to the pitch that is sung, from 0 to 1; shape (frames, bins). ``steady`` tells for each
    frame how far the pitch holds still around it, as a sung note does and speech does not."""

    shares: Floats
    steady: Floats


def pitched(levels: Floats, a_bin_hz: float, up_to_hz: float) -> Pitched:
    """The pitch in a spectrogram.

    ``levels`` are magnitudes in frames that follow each other, shape (frames, bins).
    """
    if not len(levels):
        return Pitched(levels, np.zeros(0, np.float32))
    salience = _salience(levels**FLATTER, a_bin_hz, up_to_hz)
    path = _way(salience, GLIDE, PRICE)
    sure = np.clip((salience[np.arange(len(path)), path] - LEAST) / (SURE - LEAST), 0.0, 1.0)
    shares = np.asarray(_combs(levels.shape[1], a_bin_hz)[path] * sure[:, None], dtype=np.float32)
    return Pitched(shares, _steady(path))


def _steady(path: NDArray[np.int64]) -> Floats:
    steps = path.astype(float)
    spread = np.sqrt(np.maximum(uniform_filter1d(steps**2, AROUND) - uniform_filter1d(steps, AROUND) ** 2, 0.0))
    return np.asarray(uniform_filter1d((spread < STILL).astype(np.float32), AROUND // 3))


def _pitches() -> NDArray[np.float64]:
    count = int(np.log2(HIGH_HZ / LOW_HZ) * AN_OCTAVE) + 1
    return np.asarray(LOW_HZ * 2.0 ** (np.arange(count) / AN_OCTAVE))


def _salience(levels: Floats, a_bin_hz: float, up_to_hz: float) -> Floats:
    """How much speaks for each pitch in each frame, at most 1; shape (frames, pitches)."""
    pitches = _pitches()
    total = np.zeros((len(levels), len(pitches)), np.float32)
    weights = np.arange(1, HARMONICS + 1) ** -0.5
    for number, weight in enumerate(weights, 1):
        within = pitches * number < up_to_hz
        on, off = (_between_bins(levels, pitches * (number - d) / a_bin_hz) for d in (0.0, 0.5))
        total += np.where(within, np.float32(weight) * (on - np.float32(BETWEEN) * off), np.float32(0.0))
    highest = levels.max(axis=1, keepdims=True)
    return np.asarray(total / (highest * np.float32(weights.sum()) + np.float32(1e-9)))


def _between_bins(levels: Floats, places: NDArray[np.float64]) -> Floats:
    """Levels at places between bins, on straight lines; shape (frames, places)."""
    at = np.clip(places.astype(int), 0, levels.shape[1] - 2)
    share = np.clip(places - at, 0.0, 1.0).astype(np.float32)
    return np.asarray(levels[:, at] * (1 - share) + levels[:, at + 1] * share)


@lru_cache(maxsize=4)
def _combs(bins: int, a_bin_hz: float) -> Floats:
    """How far each bin belongs to the harmonics of each pitch; shape (pitches, bins)."""
    hz, pitches = np.arange(bins) * a_bin_hz, _pitches()[:, None]
    away = np.abs(hz - np.maximum(1.0, np.rint(hz / pitches)) * pitches)
    return np.exp(-0.5 * (away / np.maximum(WIDE_HZ, WIDE_SHARE * hz)) ** 2).astype(np.float32)


@njit(cache=True, nogil=True)
def _way(salience: Floats, glide: int, price: float) -> NDArray[np.int64]:
    """The pitch of each frame on the way of highest sum; a glide costs by its length, a leap three times the price."""
    frames, count = salience.shape
    best = salience[0].copy()
    came = np.zeros((frames, count), np.int16)
    for t in range(1, frames):
        top = int(best.argmax())
        leap = best[top] - 3.0 * price
        now = np.empty(count, np.float32)
        for k in range(count):
            value, origin = leap, top
            for j in range(max(0, k - glide), min(count, k + glide + 1)):
                there = best[j] - price * abs(j - k) / glide
                if there > value:
                    value, origin = there, j
            now[k] = value + salience[t, k]
            came[t, k] = origin
        best = now
    path = np.zeros(frames, np.int64)
    path[-1] = best.argmax()
    for t in range(frames - 1, 0, -1):
        path[t - 1] = came[t, path[t]]
    return path
