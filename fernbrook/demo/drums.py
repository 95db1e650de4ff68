"""The drum machine of the demo band. All hits start at their first sample; mono, shape (n,)."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from fernbrook.demo.tones import RATE, Sound, seconds


def _noise(length_s: float, seed: int) -> NDArray[np.float64]:
    return np.random.default_rng(seed).standard_normal(len(seconds(length_s)))


def _band(sound: NDArray[np.float64], low: float, high: float) -> NDArray[np.float64]:
    return np.asarray(sosfilt(butter(2, [low, min(high, 20_000)], "bandpass", fs=RATE, output="sos"), sound))


@lru_cache(maxsize=8)
def kick(tone: float) -> Sound:
    """A kick whose pitch falls to about 50 Hz; ``tone`` from 0 (soft) to 1 (hard)."""
    t = seconds(0.32)
    hz = 47.0 + 6.0 * tone + (130.0 + 120.0 * tone) * np.exp(-t / 0.028)
    body = np.sin(2 * np.pi * np.cumsum(hz) / RATE) * np.exp(-t / 0.11)
    click = _band(_noise(0.32, 1), 1500, 7000) * np.exp(-t / 0.0035) * (0.10 + 0.25 * tone)
    return np.asarray((body + click) * np.clip((0.32 - t) / 0.02, 0, 1), dtype=np.float32)


@lru_cache(maxsize=8)
def clap(tone: float) -> Sound:
    """A clap: three quick bursts and a tail."""
    t = seconds(0.22)
    bursts = sum(np.exp(-np.clip(t - at, 0, None) / 0.006) * (t >= at) for at in (0.0, 0.011, 0.021))
    shape = 0.5 * bursts + 0.6 * np.exp(-np.clip(t - 0.021, 0, None) / 0.06) * (t >= 0.021)
    return np.asarray(_band(_noise(0.22, 2), 800 + 500 * tone, 5200) * shape * 0.5, dtype=np.float32)


@lru_cache(maxsize=8)
def snare(tone: float) -> Sound:
    """A snare: two drum tones and a rattle."""
    t = seconds(0.2)
    drum = np.sin(2 * np.pi * 185 * t) * np.exp(-t / 0.05) + 0.5 * np.sin(2 * np.pi * 330 * t) * np.exp(-t / 0.03)
    rattle = _band(_noise(0.2, 3), 1200 + 800 * tone, 9000) * np.exp(-t / 0.055)
    return np.asarray(0.6 * drum + 0.6 * rattle, dtype=np.float32)


@lru_cache(maxsize=8)
def hat(is_open: bool) -> Sound:
    """A closed or open hi-hat."""
    length, decay = (0.25, 0.09) if is_open else (0.07, 0.018)
    t = seconds(length)
    return np.asarray(_band(_noise(length, 4), 7000, 16_000) * np.exp(-t / decay) * 0.55, dtype=np.float32)


@lru_cache(maxsize=8)
def shaker() -> Sound:
    """A shaker that swells briefly."""
    t = seconds(0.09)
    return np.asarray(_band(_noise(0.09, 5), 4500, 11_000) * np.minimum(t / 0.012, np.exp(-t / 0.03)), dtype=np.float32)


@lru_cache(maxsize=16)
def tom(midi: int) -> Sound:
    """A tom or conga at a pitch."""
    t = seconds(0.25)
    hz = 440.0 * 2 ** ((midi - 69) / 12) * (1 + 0.35 * np.exp(-t / 0.02))
    return np.asarray(np.sin(2 * np.pi * np.cumsum(hz) / RATE) * np.exp(-t / 0.07), dtype=np.float32)


def riser(length_s: float, seed: int) -> Sound:
    """Noise that brightens and grows to its end; shape (n, 2)."""
    t = seconds(length_s)
    place = t / length_s
    noise = np.random.default_rng(seed).standard_normal((len(t), 2))
    dark = sosfilt(butter(2, 900, fs=RATE, output="sos"), noise, axis=0)
    bright = sosfilt(butter(2, [3000, 9000], "bandpass", fs=RATE, output="sos"), noise, axis=0)
    return np.asarray((dark * (1 - place)[:, None] + bright * place[:, None]) * (place**2)[:, None], dtype=np.float32)
