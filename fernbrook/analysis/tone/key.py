"""The musical key: which of 24 profiles the track's pitch classes resemble most, and how the track is tuned.

Profiles of major and minor keys by J. Albrecht and D. Shanahan ("The use of large corpora to train a new type of
key-finding algorithm", Music Perception 31, 2013), after the tuning has been taken out. A major key and its relative
minor share their notes; what tells them apart is the chord on which phrases begin.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.tone.harmony import FINE, Harmony
from fernbrook.core.track import Grid, Key

MAJOR = np.array([0.238, 0.006, 0.111, 0.006, 0.137, 0.094, 0.016, 0.214, 0.009, 0.080, 0.008, 0.081])
MINOR = np.array([0.220, 0.006, 0.104, 0.123, 0.019, 0.103, 0.012, 0.214, 0.062, 0.022, 0.061, 0.052])
MAJOR_CHORD = np.array([1.0, 0.0, 0.0, 0.0, 0.6, 0.0, 0.0, 0.8, 0.0, 0.0, 0.0, 0.0])
MINOR_CHORD = np.array([1.0, 0.0, 0.0, 0.6, 0.0, 0.0, 0.0, 0.8, 0.0, 0.0, 0.0, 0.0])
PHRASES = ((4, 0.8), (8, 0.4))
"""Bars after which phrases begin, and what their first chords weigh."""
MINOR_FIRST = 0.1
"""What minor keys have ahead: most dance music is in minor."""
SHARPNESS = 6.0
"""How strongly differences of score tell in the confidence."""
LEAST_TONAL = 0.008
"""A spectrum that keeps less than this to semitones, whatever their tuning, has no pitch; noise has a tenth of it."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class KeyFound:
    """The likeliest key, the next, how probable the first is (0..1), and the tuning in cents from A = 440 Hz."""

    key: Key
    second: Key
    confidence: float
    tuning_cents: float


def find_key(harmony: Harmony, grid: Grid | None) -> KeyFound | None:
    """The key of a track, or None where it has no pitch. Without a grid, only its pitch classes are known."""
    fine = harmony.fine
    if not len(harmony.chroma) or float(fine.max(initial=0.0)) <= 0.0:
        return None
    turn = np.exp(-2j * np.pi * np.arange(len(fine)) / FINE)
    semitones = complex(fine @ turn) / float(fine.sum())
    if abs(semitones) < LEAST_TONAL:
        return None
    tuning = float(-np.angle(semitones) / (2.0 * np.pi))
    classes = _classes(fine, tuning)
    scores = _against(classes, MAJOR, MINOR)
    if grid is not None:
        for bars, weight in PHRASES:
            scores += weight * _against(_phrase_starts(harmony, grid, bars), MAJOR_CHORD, MINOR_CHORD)
    scores[12:] += MINOR_FIRST
    share = np.exp(SHARPNESS * (scores - scores.max()))
    share /= share.sum()
    first, second = (int(i) for i in np.argsort(-share)[:2])
    return KeyFound(_key(first), _key(second), float(share[first]), tuning * 100.0)


def _against(classes: Array, major: Array, minor: Array) -> Array:
    """Correlation of pitch classes with both profiles on all tonics; shape (24,), major keys first."""
    heard = _standard(classes)
    return np.array([float(heard @ np.roll(_standard(p), tonic)) / 12.0 for p in (major, minor) for tonic in range(12)])


def _phrase_starts(harmony: Harmony, grid: Grid, bars: int) -> Array:
    """What pitch classes the first bars of phrases have more than others; shape (12,)."""
    bar = np.floor(grid.beat_at(np.arange(len(harmony.chroma)) / harmony.rate) / grid.beats_per_bar)
    chroma = harmony.chroma.astype(np.float64)
    starts = (bar % bars == 0) & (bar >= 0)
    return chroma[starts].mean(axis=0) - chroma.mean(axis=0) if starts.any() else np.zeros(12)


def _key(index: int) -> Key:
    return Key(tonic=index % 12, minor=index >= 12)


def _standard(profile: Array) -> Array:
    return np.asarray((profile - profile.mean()) / max(float(profile.std()), 1e-9))


def _classes(fine: Array, tuning: float) -> Array:
    """Strength of each pitch class with the tuning taken out; shape (12,)."""
    octave = len(fine)
    places = np.arange(octave)
    from_centre = (places[None, :] / FINE - tuning - np.arange(12)[:, None] + 6.0) % 12.0 - 6.0
    weight = np.exp(-0.5 * (from_centre / 0.25) ** 2)
    return np.asarray(weight @ (fine - fine.min()) / weight.sum(axis=1))
