"""Onset strengths and harmony as a track with plain drums would give them, made at once instead of heard."""

from __future__ import annotations

import numpy as np

from fernbrook.analysis.beat.onsets import BANDS, Onsets
from fernbrook.analysis.features import Features
from fernbrook.analysis.tone.harmony import FINE, Harmony
from fernbrook.analysis.voice.movement import Movement
from fernbrook.core.track import Grid

RATE = 44_100 / 128
HARMONY_RATE = 44_100 / 2048
CHORDS = ((9, 0, 4), (5, 9, 0), (0, 4, 7), (7, 11, 2))
"""Am, F, C, G: one bar each."""


def drums(grid: Grid, duration_s: float, silent: tuple[float, float] | None = None, jitter_s: float = 0.0) -> Onsets:
    """Kicks on one and three, snares on two and four, hats on eighths; nothing in a span of seconds."""
    rng = np.random.default_rng(3)
    bands = np.full((BANDS, round(duration_s * RATE)), 0.002)
    first, last = (int(b) for b in grid.beat_at([0.2, duration_s - 0.2]))
    for half in range(2 * first + 2, 2 * last):
        at = float(grid.time_at(half / 2)) + jitter_s * rng.standard_normal()
        if silent and silent[0] <= at < silent[1]:
            continue
        _hit(bands[4:], at, 0.25)
        if half % 2 == 0:
            _hit(bands[:2] if half % 4 == 0 else bands[1:4], at, 0.6)
    return Onsets((bands * (1.0 + 0.1 * rng.random(bands.shape))).astype(np.float32), RATE)


def _hit(bands: np.ndarray, at_s: float, size: float) -> None:
    frames = np.arange(int(at_s * RATE) - 3, int(at_s * RATE) + 5)
    frames = frames[(frames >= 0) & (frames < bands.shape[1])]
    bands[:, frames] += size * np.exp(-0.5 * ((frames / RATE - at_s) / 0.003) ** 2)


def chords(grid: Grid, duration_s: float) -> Harmony:
    """The four chords, one bar each, around and around."""
    times = np.arange(round(duration_s * HARMONY_RATE)) / HARMONY_RATE
    bar = np.floor(grid.beat_at(times) / grid.beats_per_bar).astype(int)
    chroma = np.full((len(times), 12), 0.02)
    for i, b in enumerate(bar):
        chroma[i, list(CHORDS[b % 4])] = 1.0
    chroma /= np.linalg.norm(chroma, axis=1, keepdims=True)
    fine = np.zeros(12 * FINE)
    fine[::FINE] = chroma.sum(axis=0)
    return Harmony(chroma.astype(np.float32), np.full((len(times), 5), -3.0, dtype=np.float32), HARMONY_RATE, fine)


def features(grid: Grid, duration_s: float = 90.0, **changes: object) -> Features:
    still = Movement(np.zeros(round(duration_s * 40), dtype=np.float32), 40.0)
    return Features(drums(grid, duration_s, **changes), chords(grid, duration_s), still)  # type: ignore[arg-type]
