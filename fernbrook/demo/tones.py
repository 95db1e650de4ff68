"""Pitched sounds of the demo band: basses, pads, plucks, leads and a sung-like voice."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

RATE = 44_100

Sound = NDArray[np.float32]

VOWELS = {
    "ah": ((730, 1.0, 90), (1090, 0.5, 110), (2440, 0.25, 160)),
    "oh": ((570, 1.0, 80), (840, 0.45, 100), (2410, 0.12, 160)),
    "eh": ((530, 1.0, 80), (1840, 0.4, 130), (2480, 0.25, 160)),
    "oo": ((300, 1.0, 60), (870, 0.25, 100), (2240, 0.08, 160)),
}
"""Formants as (centre Hz, level, bandwidth Hz), after Peterson and Barney (JASA 24, 1952)."""


def hertz(midi: float) -> float:
    """Frequency of a MIDI note number, A4 = 440 Hz."""
    return float(440.0 * 2.0 ** ((midi - 69.0) / 12.0))


def seconds(length_s: float) -> NDArray[np.float64]:
    """A time axis of that length."""
    return np.arange(round(length_s * RATE)) / RATE


def envelope(length_s: float, attack_s: float, release_s: float, decay_s: float = 0.0, sustain: float = 1.0) -> Sound:
    """Rise, fall to the sustain level, and fade within the length."""
    t = seconds(length_s)
    rise = np.clip(t / max(attack_s, 1e-4), 0.0, 1.0)
    fall = np.clip((length_s - t) / max(release_s, 1e-4), 0.0, 1.0)
    hold = sustain + (1.0 - sustain) * np.exp(-t / decay_s) if decay_s else 1.0
    return np.asarray(rise * fall * hold, dtype=np.float32)


def low_pass(sound: NDArray[np.floating], hz: float) -> Sound:
    """A gentle low pass, 12 dB per octave."""
    return np.asarray(sosfilt(butter(2, min(hz, RATE * 0.45), fs=RATE, output="sos"), sound, axis=0), dtype=np.float32)


def saw(hz: float | NDArray[np.float64], length_s: float, phase: float = 0.0) -> NDArray[np.float64]:
    """A sawtooth with its steps smoothed over one sample (polynomial band-limiting)."""
    step = np.broadcast_to(np.asarray(hz) / RATE, seconds(length_s).shape)
    at = (phase + np.cumsum(step)) % 1.0
    wave = 2.0 * at - 1.0
    rising, falling = at < step, at > 1.0 - step
    x = at[rising] / step[rising]
    wave[rising] -= x + x - x * x - 1.0
    x = (at[falling] - 1.0) / step[falling]
    wave[falling] -= x * x + x + x + 1.0
    return wave


@lru_cache(maxsize=256)
def bass(midi: int, length_s: float, bright: float) -> Sound:
    """A round bass: fundamental, a filtered sawtooth above it. Mono, shape (n,)."""
    t = seconds(length_s)
    hz = hertz(midi)
    body = 0.8 * np.sin(2 * np.pi * hz * t) + 0.35 * low_pass(saw(hz, length_s), 200.0 + 900.0 * bright)
    return np.asarray(body * envelope(length_s, 0.004, 0.03, 0.25, 0.6), dtype=np.float32)


@lru_cache(maxsize=64)
def pad(notes: tuple[int, ...], length_s: float, bright: float) -> Sound:
    """A wide chord of detuned sawtooths; shape (n, 2)."""
    sides = []
    for side in (-1.0, 1.0):
        total = np.zeros(len(seconds(length_s)))
        for i, midi in enumerate(notes):
            for cents in (-6.0, 7.0):
                total += saw(hertz(midi + side * cents / 100.0), length_s, (0.37 * i + 0.21 * cents + side) % 1.0)
        sides.append(low_pass(total / (2 * len(notes)), 350.0 + 2600.0 * bright))
    return np.asarray(
        np.stack(sides, axis=1) * envelope(length_s, min(0.4, length_s / 4), min(0.5, length_s / 4))[:, None],
        dtype=np.float32,
    )


@lru_cache(maxsize=256)
def pluck(midi: int, length_s: float, bright: float) -> Sound:
    """A short bell-like note by frequency modulation. Mono."""
    t = seconds(length_s)
    hz = hertz(midi)
    index = (0.6 + 2.5 * bright) * np.exp(-t / 0.12)
    body = np.sin(2 * np.pi * hz * t + index * np.sin(2 * np.pi * 2 * hz * t)) * np.exp(-t / 0.22)
    return np.asarray(body * envelope(length_s, 0.002, 0.02), dtype=np.float32)


@lru_cache(maxsize=256)
def lead(midi: int, length_s: float, bright: float) -> Sound:
    """A singing sawtooth with vibrato that sets in late. Mono."""
    t = seconds(length_s)
    hz = hertz(midi) * 2.0 ** (np.clip(t - 0.2, 0.0, 0.3) / 0.3 * 0.12 / 12.0 * np.sin(2 * np.pi * 5.3 * t))
    return low_pass(saw(hz, length_s), 700.0 + 2500.0 * bright) * envelope(length_s, 0.012, 0.06, 0.4, 0.7)


@lru_cache(maxsize=256)
def voice(midi: int, length_s: float, vowel: str) -> Sound:
    """A sung-like note: a pulse train with vibrato through the formants of a vowel, and some breath. Mono."""
    t = seconds(length_s)
    glide = -0.6 * np.exp(-t / 0.05)
    vibrato = np.clip((t - 0.15) / 0.25, 0.0, 1.0) * 0.28 * np.sin(2 * np.pi * 5.6 * t)
    source = saw(440.0 * 2.0 ** ((midi - 69 + glide + vibrato) / 12.0), length_s)
    source = source + 0.05 * np.random.default_rng(midi).standard_normal(len(t))
    total = np.zeros(len(t))
    for centre, level, width in VOWELS[vowel]:
        band = butter(1, [centre - width, centre + width], "bandpass", fs=RATE, output="sos")
        total += level * sosfilt(band, source)
    return np.asarray(total * envelope(length_s, 0.04, 0.08), dtype=np.float32)
