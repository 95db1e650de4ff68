"""Sounds whose truth is known, for measuring a stretch: tones, chords, pads, a voice, drums."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

RATE = 44_100
Sound = NDArray[np.float32]


def seconds(length_s: float) -> NDArray[np.float64]:
    """The moments of its samples."""
    return np.arange(round(length_s * RATE)) / RATE


def stereo(mono: NDArray[np.float64]) -> Sound:
    """The same on both sides."""
    return np.repeat(mono.astype(np.float32)[:, None], 2, axis=1)


def partials(hz: NDArray[np.float64], length_s: float, seed: int = 0, level: float = 0.1) -> Sound:
    """Steady partials of random phases, a little different on both sides, ``level`` in all (RMS x sqrt 2).

    Quiet enough that no limiter wakes.
    """
    rng = np.random.default_rng(seed)
    t = seconds(length_s)
    out = np.zeros((len(t), 2), np.float32)
    for f, phase, lean in zip(hz, rng.uniform(0, 2 * np.pi, len(hz)), rng.uniform(-0.4, 0.4, len(hz)), strict=True):
        wave = np.sin(2 * np.pi * f * t + phase)
        out[:, 0] += (1 + lean) * wave
        out[:, 1] += (1 - lean) * wave
    return np.asarray(out * np.float32(level / np.sqrt(len(hz))))


def chord(root_hz: float, harmonics: int, steps: tuple[int, ...] = (0, 3, 7, 10)) -> NDArray[np.float64]:
    """The partials of a chord of harmonic tones, without those that would beat against another."""
    every = np.sort([root_hz * 2 ** (s / 12) * h for s in steps for h in range(1, harmonics + 1)])
    return every[np.diff(every, prepend=0.0) > 8.0]


def pad(count: int = 100, seed: int = 1) -> NDArray[np.float64]:
    """Partials spread over the octaves from 80 Hz to 6 kHz, as a thick pad has."""
    rng = np.random.default_rng(seed)
    return np.asarray(np.sort(80.0 * (6000.0 / 80.0) ** rng.uniform(0, 1, count)))


def voice(length_s: float, hz: float = 196.0, vibrato_hz: float = 5.5, cents: float = 50.0) -> Sound:
    """A sung vowel: harmonics under three formants, with vibrato."""
    t = seconds(length_s)
    pitch = hz * 2 ** (cents / 1200 * np.sin(2 * np.pi * vibrato_hz * t))
    phase = 2 * np.pi * np.cumsum(pitch) / RATE
    out = np.zeros(len(t))
    for h in range(1, 40):
        at = h * pitch
        gain = sum(g / (1 + ((at - f) / w) ** 2) for f, w, g in ((650, 90, 1.0), (1080, 110, 0.5), (2650, 160, 0.25)))
        out += gain * np.sin(h * phase) * (at < 16_000)
    return stereo(0.3 * out / np.abs(out).max())


def hats(times_s: NDArray[np.float64], length_s: float, seed: int = 2, level: float = 0.5) -> Sound:
    """Bursts of bright noise that begin within 2 ms and last 60."""
    rng = np.random.default_rng(seed)
    out = np.zeros(round(length_s * RATE))
    t = seconds(0.08)
    for at in np.rint(times_s * RATE).astype(int):
        noise = np.diff(rng.standard_normal(len(t) + 2), n=2)
        burst = noise * np.minimum(t / 0.002, 1.0) * np.exp(-t / 0.02)
        n = min(len(burst), len(out) - at)
        if at >= 0 and n > 0:
            out[at : at + n] += burst[:n]
    return stereo(level * out / max(np.abs(out).max(), 1e-9))


def clicks(times_s: NDArray[np.float64], length_s: float) -> Sound:
    """Short wood-like hits: 1.8 kHz dying within 6 ms, beginning on the very moment."""
    out = np.zeros(round(length_s * RATE))
    for at in times_s:
        first = int(np.ceil(at * RATE))
        t = (first + np.arange(1500)) / RATE - at
        n = min(len(t), len(out) - first)
        if first >= 0 and n > 0:
            out[first : first + n] += (np.sin(2 * np.pi * 1800 * t) * np.exp(-t / 0.006))[:n]
    return stereo(0.5 * out)


def kicks(times_s: NDArray[np.float64], length_s: float) -> Sound:
    """Bass drums that begin without a click: 140 falling to 50 Hz, dying within 120 ms."""
    out = np.zeros(round(length_s * RATE))
    t = seconds(0.5)
    phase = 2 * np.pi * (50 * t + 90 * 0.03 * (1 - np.exp(-t / 0.03)))
    body = np.sin(phase) * np.exp(-t / 0.12)
    for at in np.rint(times_s * RATE).astype(int):
        n = min(len(body), len(out) - at)
        if at >= 0 and n > 0:
            out[at : at + n] += body[:n]
    return stereo(0.5 * out)
