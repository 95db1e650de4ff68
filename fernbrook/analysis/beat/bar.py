"""Which beat is the first of the bar, and how many beats a bar has.

What changes in music changes on the one: chords and basses (J. Hockman, M. Davies and I. Fujinaga, "One in the jungle:
downbeat detection in hardcore, jungle and drum and bass", ISMIR 2012, use the same evidence), and sections begin there.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.listener import Heard
from fernbrook.analysis.beat.metre import drum_patterns
from fernbrook.analysis.beat.network import probabilities
from fernbrook.analysis.beat.odd_bars import OddBar, find_odd_bars
from fernbrook.analysis.beat.onsets import LOW_BANDS, Onsets
from fernbrook.analysis.tone.harmony import Harmony, novelty
from fernbrook.core.track import Grid

WEIGHTS = {
    "chord, beat by beat": 0.58,
    "chord, two beats": 0.18,
    "chord, bar by bar": -0.45,
    "chord, four beats": 0.82,
    "level, four beats": 0.94,
    "level, eight beats": 1.04,
    "phrase": -0.56,
    "low": 0.05,
    "low, plain": 0.14,
    "middle": -0.21,
    "middle, plain": -0.07,
    "high": -0.15,
    "all": 0.02,
    "loudest": 0.02,
    "drum pattern": 0.53,
    "heard": 0.77,
    "heard, usually": 0.21,
}
"""How much each piece of evidence counts: fitted by ``bench/fitting.py``, so that the shares are probabilities."""
FAINT = 0.03
"""A probability of the trained listener that says as little as none."""
NEAR_S = 0.012
THREE_OVER_FOUR = 0.08
"""By how much bars of three must repeat better than bars of four,"""
CLEARLY = 0.1
"""and how much more or less than that leaves no doubt."""

AGREES = 0.3
"""What follows an odd bar must have the same beat for the first with this probability, or the bar was none."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Bar:
    """``first`` is a beat of the grid that begins a bar; ``share`` how probable that is, 0..1.

    ``clear`` tells whether there is no doubt about how many beats a bar has. ``starts_again`` are beats of the grid on
    which bars start again later on.
    """

    beats: int
    first: int
    share: float
    clear: bool = True
    starts_again: tuple[int, ...] = ()


def find_bar(onsets: Onsets, harmony: Harmony, grid: Grid, first: int, count: int, heard: Heard | None = None) -> Bar:
    """Find the bars of a grid whose beats are right.

    Parameters
    ----------
    first, count : the beats of the grid that lie within the track
    """
    hits = _hits(onsets, grid, first, count)
    lead = _lead_of_three(hits)
    per_bar = 3 if lead > THREE_OVER_FOUR else 4
    beats = _Beats(
        beat_features(harmony, grid.time_at(first + np.arange(count + 1))), hits, _ones(heard, grid, first, count)
    )
    odd = _odd_bars(beats) if per_bar == 4 else []
    share = beats.without(odd).share_of_places(per_bar)
    best = int(np.argmax(share))
    # The odd bars are heard by what changes; which beat is the first is known better from all of it.
    later = (best - _first_place(odd, per_bar) + 1) % per_bar - 1 if odd else 0
    again = tuple(first + bar.at + later for bar in odd)
    return Bar(per_bar, first + best, float(share[best]), abs(lead - THREE_OVER_FOUR) >= CLEARLY, again)


@dataclass(frozen=True)
class _Beats:
    """What is known of each beat: features, shape (beats, 17), hits, shape (13, beats, 4), and how probable a trained
    listener has it to be a first one, shape (beats,) or None."""

    features: Array
    hits: Array
    ones: Array | None

    def without(self, odd: list[OddBar]) -> _Beats:
        """The same without the beats of odd bars, so that all others lie at one place."""
        kept = np.ones(self.hits.shape[1], dtype=bool)
        for bar in odd:
            kept[bar.at - bar.beats : bar.at] = False
        ones = None if self.ones is None else self.ones[kept]
        return _Beats(self.features[: len(kept)][kept], self.hits[:, kept], ones)

    def between(self, begin: int, end: int) -> _Beats:
        """A part of them."""
        ones = None if self.ones is None else self.ones[begin:end]
        return _Beats(self.features[begin:end], self.hits[:, begin:end], ones)

    def share_of_places(self, per_bar: int) -> Array:
        """How probable each place in the bar is to be the first; shape (per_bar,)."""
        evidence = _evidence(self.features, self.hits, per_bar) | _listened(self.ones, per_bar)
        return probabilities(_by_name(evidence, per_bar) @ np.array(list(WEIGHTS.values())))


def _odd_bars(beats: _Beats) -> list[OddBar]:
    """Where bars start again, if what follows each of them still agrees with the whole on which beat is the first."""
    odd = find_odd_bars(_changes(beats), 4)
    if not odd:
        return []
    even = beats.without(odd)
    best = int(np.argmax(even.share_of_places(4)))
    gone = np.cumsum([bar.beats for bar in odd])
    edges = [0, *(bar.at - int(n) for bar, n in zip(odd, gone, strict=True)), even.hits.shape[1]]
    for begin, end in pairwise(edges):
        if even.between(begin, end).share_of_places(4)[(best - begin) % 4] < AGREES:
            return []
    return odd


def _first_place(odd: list[OddBar], per_bar: int) -> int:
    """The place in the bar that is the first by the odd bars alone."""
    return (odd[0].at - odd[0].beats) % per_bar


def _changes(beats: _Beats) -> Array:
    """How much changes on each beat, and how probable it is to be a first one, as much as each counts; (beats,)."""
    chroma, level = beats.features[:, :12], beats.features[:, 12:]
    found = (
        WEIGHTS["chord, beat by beat"] * _standard(novelty(chroma, 1))
        + WEIGHTS["chord, two beats"] * _standard(novelty(chroma, 2))
        + WEIGHTS["chord, four beats"] * _standard(novelty(chroma, 4))
        + WEIGHTS["level, four beats"] * _standard(novelty(level, 4))
        + WEIGHTS["level, eight beats"] * _standard(novelty(level, 8))
    ) / 4.0
    found = found[: beats.hits.shape[1]]
    return found if beats.ones is None else found + WEIGHTS["heard"] * _standard(np.log(beats.ones + FAINT))


def evidence_by_place(
    onsets: Onsets, harmony: Harmony, grid: Grid, first: int, count: int, per_bar: int, heard: Heard | None = None
) -> Array:
    """What speaks for each place in the bar being the first; shape (per_bar, len(WEIGHTS))."""
    features = beat_features(harmony, grid.time_at(first + np.arange(count + 1)))
    evidence = _evidence(features, _hits(onsets, grid, first, count), per_bar)
    return _by_name(evidence | _listened(_ones(heard, grid, first, count), per_bar), per_bar)


def _by_name(evidence: dict[str, Array], per_bar: int) -> Array:
    """Evidence in the order of its weights; shape (per_bar, len(WEIGHTS)). Bars of three have no drum pattern."""
    return np.stack([evidence.get(name, np.zeros(per_bar)) for name in WEIGHTS], axis=1)


def beat_features(harmony: Harmony, beats_s: Array) -> Array:
    """Mean chroma and levels over each beat, each standardised over the track; shape (beats - 1, 17)."""
    frames = np.concatenate((harmony.chroma, harmony.level), axis=1)
    sums = np.concatenate((np.zeros((1, frames.shape[1])), np.cumsum(frames, axis=0, dtype=np.float64)))
    edges = np.clip(np.rint(beats_s * harmony.rate).astype(int), 0, len(frames))
    means = (sums[edges[1:]] - sums[edges[:-1]]) / np.maximum(np.diff(edges), 1)[:, None]
    return np.asarray(means / np.maximum(means.std(axis=0), 1e-6))


def _hits(onsets: Onsets, grid: Grid, first: int, count: int) -> Array:
    """Strengths at the sixteenths of each beat: evened, a row for the harmony, plain; shape (13, count, 4)."""
    even = onsets.evened
    at = np.rint(grid.time_at(first + np.arange(count * 4) / 4) * onsets.rate).astype(int)
    reach = int(NEAR_S * onsets.rate)
    around = np.clip(at[:, None] + np.arange(-reach, reach + 1), 0, even.shape[1] - 1)
    rows = [band[around].max(axis=1) / max(float(band.mean()), 1e-9) for band in even]
    plain = [band[around].max(axis=1) / max(float(band.mean()), 1e-9) for band in onsets.bands]
    return np.asarray([*rows, np.zeros(len(at)), *plain]).reshape(13, count, 4)


def _lead_of_three(hits: Array) -> float:
    """By how much bars of three repeat better than bars of two and four; nothing does in a short track."""
    rows = hits[:6].transpose(1, 0, 2).reshape(hits.shape[1], -1)
    if len(rows) < 24:
        return -1.0
    rows = (rows - rows.mean(axis=0)) / np.maximum(rows.std(axis=0), 1e-9)

    def repeats(lag: int) -> float:
        return float((rows[lag:] * rows[:-lag]).mean())

    three = repeats(3) + repeats(6)
    return three - max(repeats(4) + repeats(8), repeats(2) + repeats(4))


def _evidence(features: Array, hits: Array, per_bar: int) -> dict[str, Array]:
    """What speaks for each place in the bar; each of shape (per_bar,), standardised."""
    chroma, level = features[:, :12], features[:, 12:]
    kicks, every = hits[LOW_BANDS, :, 0].mean(axis=0), hits[:6, :, 0].mean(axis=0)
    evidence = {
        "chord, beat by beat": _by_place(novelty(chroma, 1), per_bar),
        "chord, two beats": _by_place(novelty(chroma, 2), per_bar),
        "chord, four beats": _peaks_by_place(novelty(chroma, 4), per_bar, 16),
        "level, eight beats": _peaks_by_place(novelty(level, 8), per_bar, 12),
        "phrase": _peaks_by_place(novelty(features, 16), per_bar, 8),
        "low": _by_place(kicks, per_bar),
        "low, plain": _by_place(hits[7:9, :, 0].mean(axis=0), per_bar),
        "middle": _by_place(hits[2:4, :, 0].mean(axis=0), per_bar),
        "middle, plain": _by_place(hits[9:11, :, 0].mean(axis=0), per_bar),
        "high": _by_place(hits[4:6, :, 0].mean(axis=0), per_bar),
        "all": _by_place(every, per_bar),
        "loudest": _peaks_by_place(hits[7:, :, 0].mean(axis=0), per_bar, 12),
        "chord, bar by bar": _by_place(novelty(chroma, per_bar), per_bar),
        "level, four beats": _by_place(novelty(level, per_bar), per_bar),
    }
    if per_bar == 4:
        whole = hits.shape[1] // 4 * 4
        bar = hits[:, :whole].reshape(13, -1, 16).mean(axis=1)
        evidence["drum pattern"] = _standard(drum_patterns(bar))
    return evidence


def _ones(heard: Heard | None, grid: Grid, first: int, count: int) -> Array | None:
    """How probable a trained listener has each beat to be a first one; None where nobody listened."""
    if heard is None or not len(heard.first):
        return None
    return heard.near(grid.time_at(first + np.arange(count)))[1].astype(np.float64)


def _listened(ones: Array | None, per_bar: int) -> dict[str, Array]:
    """What a trained listener says for each place in the bar: logarithms of how probable a first beat is there, the
    mean over the track and the median, as sure as they are."""
    if ones is None:
        return {}
    means = np.array([float(ones[c::per_bar].mean()) for c in range(per_bar)])
    usual = np.array([float(np.median(ones[c::per_bar])) for c in range(per_bar)])
    return {
        "heard": np.log(means + FAINT) - np.log(means + FAINT).mean(),
        "heard, usually": np.log(usual + FAINT) - np.log(usual + FAINT).mean(),
    }


def _standard(values: Array) -> Array:
    return np.asarray((values - values.mean()) / max(float(values.std()), 1e-9))


def _by_place(values: Array, per_bar: int) -> Array:
    """Mean of a value of each beat for each place in the bar."""
    return _standard(np.array([values[c::per_bar].mean() for c in range(per_bar)]))


def _peaks_by_place(change: Array, per_bar: int, peaks: int) -> Array:
    """How the strongest changes of the track are spread over the places in the bar."""
    strength = np.zeros(per_bar)
    left = change.copy()
    for _ in range(peaks):
        best = int(np.argmax(left))
        if left[best] <= 0.0:
            break
        strength[best % per_bar] += left[best]
        left[max(0, best - 12) : best + 13] = 0.0
    return _standard(strength)
