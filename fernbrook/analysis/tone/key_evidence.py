"""What speaks for each of the 24 keys, and how much it counts: twelve major ones from C on, then twelve minor.

Profiles of major and minor keys by J. Albrecht and D. Shanahan ("The use of large corpora to train a new type of
key-finding algorithm", Music Perception 31, 2013). A major key and its relative minor share their notes: what tells
them apart is the chord on which phrases begin, and what the bass plays.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.tone.harmony import Harmony
from fernbrook.core.track import Grid

MAJOR = np.array([0.238, 0.006, 0.111, 0.006, 0.137, 0.094, 0.016, 0.214, 0.009, 0.080, 0.008, 0.081])
MINOR = np.array([0.220, 0.006, 0.104, 0.123, 0.019, 0.103, 0.012, 0.214, 0.062, 0.022, 0.061, 0.052])
MAJOR_CHORD = np.array([1.0, 0.0, 0.0, 0.0, 0.6, 0.0, 0.0, 0.8, 0.0, 0.0, 0.0, 0.0])
MINOR_CHORD = np.array([1.0, 0.0, 0.0, 0.6, 0.0, 0.0, 0.0, 0.8, 0.0, 0.0, 0.0, 0.0])
WEIGHTS = {
    "profile": 2.97,
    "chord": 3.62,
    "third": 0.35,
    "leading note": 0.9,
    "second": 0.49,
    "flat second": -0.39,
    "phrases": 1.68,
    "bass on the tonic": 1.01,
    "bass on the fifth": 0.15,
    "bass on the sixth": -0.43,
    "bass, phrases": 0.54,
    "minor": 1.02,
}
"""How much each piece of evidence counts: fitted by ``bench/key_fitting.py``, so that the shares are probabilities."""
PHRASES = (4, 8, 16)
"""Bars after which phrases begin."""
SOUNDS = 0.3
"""A bass weaker than this share of its strong moments is none."""

Array = NDArray[np.float64]


def evidence_by_key(classes: Array, harmony: Harmony, grid: Grid | None) -> Array:
    """What speaks for each key; shape (24, len(WEIGHTS)). Without a grid, what phrases say counts nothing.

    ``classes`` is the strength of each pitch class in the whole track, with its tuning taken out; shape (12,).
    """
    found = {
        "profile": _against(classes, MAJOR, MINOR),
        "chord": _against(classes, MAJOR_CHORD, MINOR_CHORD),
        "third": _on(classes, 4, 3) - _on(classes, 3, 4),
        "leading note": _on(classes, 11, 10),
        "second": _on(classes, 2, 2),
        "flat second": _on(classes, 1, 1),
        "minor": np.repeat([0.0, 1.0], 12),
    }
    bass = _sounding(harmony.bass)
    if bass is not None:
        mean = bass.mean(axis=0)
        found["bass on the tonic"] = _on(mean, 0, 0)
        found["bass on the fifth"] = _on(mean, 7, 7)
        found["bass on the sixth"] = _on(mean, 9, 8)
    if grid is not None:
        starts = [_phrase_starts(harmony.chroma, harmony.rate, grid, bars) for bars in PHRASES]
        found["phrases"] = np.mean([_against(s, MAJOR_CHORD, MINOR_CHORD) for s in starts], axis=0)
        if bass is not None:
            starts = [_phrase_starts(bass, harmony.rate, grid, bars) for bars in PHRASES]
            found["bass, phrases"] = np.mean([_on(s, 0, 0) for s in starts], axis=0)
    return np.stack([found.get(name, np.zeros(24)) for name in WEIGHTS], axis=1)


def _against(classes: Array, major: Array, minor: Array) -> Array:
    """Correlation of pitch classes with both profiles on all tonics; shape (24,)."""
    heard = _standard(classes)
    return np.array([float(heard @ np.roll(_standard(p), tonic)) / 12.0 for p in (major, minor) for tonic in range(12)])


def _on(classes: Array, in_major: int, in_minor: int) -> Array:
    """How strong a step is that lies so many semitones above the tonic; shape (24,)."""
    heard = _standard(classes)
    return np.concatenate([np.roll(heard, -step) for step in (in_major, in_minor)])


def _sounding(bass: NDArray[np.float32] | None) -> Array | None:
    """Pitch classes of the bass where there is one, each frame as strong as the others; shape (frames, 12)."""
    if bass is None or not len(bass):
        return None
    loud = bass.sum(axis=1, dtype=np.float64)
    sounds = loud > SOUNDS * float(np.percentile(loud, 90))
    return np.asarray(bass / np.maximum(loud, 1e-12)[:, None] * sounds[:, None])


def _phrase_starts(rows: NDArray[np.floating], rate: float, grid: Grid, bars: int) -> Array:
    """What pitch classes the first bars of phrases have more than others; shape (12,)."""
    bar = grid.bar_lines.bar_of(grid.beat_at(np.arange(len(rows)) / rate))
    starts = (bar % bars == 0) & (bar >= 0)
    if not starts.any():
        return np.zeros(12)
    return np.asarray(rows[starts].mean(axis=0, dtype=np.float64) - rows.mean(axis=0, dtype=np.float64))


def _standard(profile: Array) -> Array:
    return np.asarray((profile - profile.mean()) / max(float(profile.std()), 1e-9))
