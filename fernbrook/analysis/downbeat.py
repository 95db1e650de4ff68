"""Which beat of the bar is the first.

What changes in music changes on the one: chords and basses (J. Hockman, M. Davies and I. Fujinaga, "One in the jungle:
downbeat detection in hardcore, jungle and drum and bass", ISMIR 2012, use the same evidence), and sections begin there.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.tempo import Pulse

BEATS_PER_BAR = 4


def beat_features(
    chroma: NDArray[np.float32], level: NDArray[np.float32], rate: float, beats: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Mean of per-frame features over each beat; shape (beats - 1, features).

    ``chroma`` has shape (frames, 12), ``level`` (frames, bands) in dB-like units, both at ``rate`` frames per second.
    """
    frames = np.concatenate((chroma, level), axis=1)
    sums = np.concatenate((np.zeros((1, frames.shape[1])), np.cumsum(frames, axis=0, dtype=np.float64)))
    edges = np.clip(np.rint(beats * rate).astype(int), 0, len(frames))
    spans = np.maximum(np.diff(edges), 1)[:, None]
    return np.asarray((sums[edges[1:]] - sums[edges[:-1]]) / spans)


def novelty(features: NDArray[np.float64], beats: int) -> NDArray[np.float64]:
    """How different the ``beats`` beats from each beat on are from the same number before it; shape (n,)."""
    n = len(features)
    sums = np.concatenate((np.zeros((1, features.shape[1])), np.cumsum(features, axis=0)))
    out = np.zeros(n)
    at = np.arange(beats, n - beats + 1)
    after = sums[at + beats] - sums[at]
    before = sums[at] - sums[at - beats]
    out[at[at < n]] = (np.abs(after - before).sum(axis=1) / beats)[at < n]
    return out


def first_of_bar(features: NDArray[np.float64], onset_low: NDArray[np.float64]) -> tuple[int, float]:
    """The class (0..3) of beats that are the first of their bar, and how clear that is (0 not at all).

    Parameters
    ----------
    features : per-beat features, shape (n, k)
    onset_low : low-band onset strength on each beat, shape (n,)
    """
    spread = features.std(axis=0)
    scaled = features / np.maximum(spread, 1e-6)
    chord = _by_class(novelty(scaled, 2))
    phrase = _peaks_by_class(novelty(scaled, 16))
    kick = _by_class(onset_low)
    score = chord + 1.5 * phrase + 0.3 * kick
    order = np.sort(score)
    return int(np.argmax(score)), float(order[-1] - order[-2])


def _by_class(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Standardised mean of a per-beat value for each place in the bar."""
    means = np.array([values[c::BEATS_PER_BAR].mean() for c in range(BEATS_PER_BAR)])
    return np.asarray((means - means.mean()) / max(float(means.std()), 1e-9))


def _peaks_by_class(change: NDArray[np.float64]) -> NDArray[np.float64]:
    """How the strongest changes of the track are spread over the places in the bar."""
    strength = np.zeros(BEATS_PER_BAR)
    left = change.copy()
    for _ in range(8):
        best = int(np.argmax(left))
        if left[best] <= 0:
            break
        strength[best % BEATS_PER_BAR] += left[best]
        left[max(0, best - 12) : best + 13] = 0.0
    return np.asarray((strength - strength.mean()) / max(float(strength.std()), 1e-9))


def beat_times(pulse: Pulse, duration_s: float) -> NDArray[np.float64]:
    """All beats of a steady pulse within a track."""
    period = 60.0 / pulse.bpm
    first = pulse.phase_s % period
    return np.arange(first, duration_s, period)
