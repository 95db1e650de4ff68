"""The musical key: which of 24 is likeliest by all that speaks for each, and how the track is tuned."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.tone.harmony import FINE, Harmony
from fernbrook.analysis.tone.key_evidence import WEIGHTS, evidence_by_key
from fernbrook.core.track import Grid, Key

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
    """The key of a track, or None where it has no pitch. Without a grid, nothing is known of its phrases."""
    tuning = tuning_of(harmony)
    if tuning is None:
        return None
    scores = evidence_by_key(pitch_classes(harmony.fine, tuning), harmony, grid) @ np.array(list(WEIGHTS.values()))
    share = np.exp(scores - scores.max())
    share /= share.sum()
    first, second = (int(i) for i in np.argsort(-share)[:2])
    return KeyFound(_key(first), _key(second), float(share[first]), tuning * 100.0)


def tuning_of(harmony: Harmony) -> float | None:
    """How far a track is tuned from A = 440 Hz, in semitones from -1/2 to 1/2; None where it has no pitch."""
    fine = harmony.fine
    if not len(harmony.chroma) or float(fine.max(initial=0.0)) <= 0.0:
        return None
    turn = np.exp(-2j * np.pi * np.arange(len(fine)) / FINE)
    semitones = complex(fine @ turn) / float(fine.sum())
    return None if abs(semitones) < LEAST_TONAL else float(-np.angle(semitones) / (2.0 * np.pi))


def pitch_classes(fine: Array, tuning: float) -> Array:
    """Strength of each pitch class with the tuning taken out; shape (12,)."""
    octave = len(fine)
    places = np.arange(octave)
    from_centre = (places[None, :] / FINE - tuning - np.arange(12)[:, None] + 6.0) % 12.0 - 6.0
    weight = np.exp(-0.5 * (from_centre / 0.25) ** 2)
    return np.asarray(weight @ (fine - fine.min()) / weight.sum(axis=1))


def _key(index: int) -> Key:
    return Key(tonic=index % 12, minor=index >= 12)
