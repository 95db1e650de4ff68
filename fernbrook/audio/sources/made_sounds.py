"""Sounds that are computed: what leads up to a beat, and one that falls from it. None of them is a recording.

Each is made as a whole, of its length alone, so that it is the same wherever a render begins. Noise comes from a
generator with a fixed seed.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.effects import swept
from fernbrook.audio.sources.source import Readable

PEAK = 0.5
"""The highest sample of each."""
SEED = 20_261
SWEEP_HZ = (180.0, 14_000.0)
RISE_HZ = (110.0, 880.0)
HARMONICS = 8
DETUNED = 1.004
"""The right of a tone rise lies so much above the left, which makes it wide."""
SUB_HZ = (92.0, 32.0)
HIT_S = 0.22
"""So much of a drum is heard at each hit of a roll, or up to the next one."""
BEFORE_HIT_S = 0.002
EDGE_S = 0.003

Sound = NDArray[np.float32]
Floats = NDArray[np.float64]


class MadeSound:
    """A sound in memory that is read like a file; silence lies before its start and after its end."""

    def __init__(self, sound: Sound, rate: int, identity: Hashable) -> None:
        """``sound`` has the shape (n, 2); ``identity`` tells it from all others."""
        self._sound = sound
        self.rate = rate
        self.identity = identity

    def read(self, start: int, frames: int) -> Sound:
        """Samples from ``start`` (may be negative) on; shape (frames, 2)."""
        out = np.zeros((frames, 2), dtype=np.float32)
        begin, end = max(start, 0), min(start + frames, len(self._sound))
        if end > begin:
            out[begin - start : end - start] = self._sound[begin:end]
        return out

    def close(self) -> None:
        """Nothing is open."""


@lru_cache(maxsize=8)
def noise_sweep(frames: int, rate: int) -> Sound:
    """Noise that opens and swells; shape (frames, 2)."""
    t = _places(frames)
    noise = np.random.default_rng(SEED).standard_normal((frames, 2))
    low, high = SWEEP_HZ
    opened = swept(noise, low * (high / low) ** t, np.ones(frames), 0.35, False, rate)
    return _made(opened * (0.02 + 0.98 * t**1.6)[:, None])


@lru_cache(maxsize=8)
def tone_rise(frames: int, rate: int) -> Sound:
    """A tone that glides up by three octaves and swells; shape (frames, 2)."""
    t = _places(frames)
    low, high = RISE_HZ
    hz = low * (high / low) ** t
    phase = 2.0 * np.pi * np.cumsum(hz) / rate
    sides = [sum(np.sin(k * wide * phase) / k for k in range(1, HARMONICS + 1)) for wide in (1.0, DETUNED)]
    return _made(np.stack(sides, axis=1) * (0.05 + 0.95 * t**1.3)[:, None])


@lru_cache(maxsize=8)
def reversed_hit(frames: int, rate: int) -> Sound:
    """A struck cymbal played backwards: what rings after it swells up to where it was struck; shape (frames, 2)."""
    t = np.arange(frames) / rate
    length_s = max(frames / rate, 1e-3)
    noise = np.random.default_rng(SEED + 1).standard_normal((frames, 2))
    bright = swept(noise, np.full(frames, 2500.0), np.ones(frames), 0.1, True, rate)
    struck = bright * np.exp(-4.5 * t / length_s)[:, None]
    return _made(struck[::-1])


@lru_cache(maxsize=8)
def sub_drop(frames: int, rate: int) -> Sound:
    """A deep tone that falls and dies away; shape (frames, 2)."""
    t = _places(frames)
    high, low = SUB_HZ
    phase = 2.0 * np.pi * np.cumsum(high * (low / high) ** np.minimum(2.0 * t, 1.0)) / rate
    tone = np.sin(phase) * np.exp(-3.5 * t) * np.minimum(np.arange(frames) / (EDGE_S * rate), 1.0)
    return _made(np.repeat(tone[:, None], 2, axis=1))


def drum_roll(frames: int, rate: int, hits_s: Sequence[float], drum: Readable, at_s: float) -> Sound:
    """One hit of a drum again and again, swelling; shape (frames, 2).

    ``hits_s`` are the moments of the hits, ``at_s`` the moment at which the drum is struck in what it is read from.
    """
    before, edge = round(BEFORE_HIT_S * rate), round(EDGE_S * rate)
    hit = drum.read(round(at_s * rate) - before, before + round(HIT_S * rate)).astype(np.float64)
    starts = [round(s * rate) for s in hits_s]
    out = np.zeros((frames + len(hit), 2))
    for n, start in enumerate(starts):
        until = starts[n + 1] if n + 1 < len(starts) else frames
        piece = hit[: until - start + before].copy()
        fall = min(edge, len(piece))
        piece[len(piece) - fall :] *= np.linspace(1.0, 0.0, fall)[:, None]
        begin = start - before
        skip = max(0, -begin)
        out[begin + skip : begin + len(piece)] += piece[skip:] * (0.35 + 0.65 * start / max(frames, 1))
    return out[:frames].astype(np.float32)


def _places(frames: int) -> Floats:
    return np.linspace(0.0, 1.0, max(frames, 1))[:frames]


def _made(sound: Floats) -> Sound:
    """A sound brought to its peak."""
    highest = float(np.abs(sound).max(initial=0.0))
    made = (sound * (PEAK / highest if highest else 0.0)).astype(np.float32)
    made.flags.writeable = False
    return made
