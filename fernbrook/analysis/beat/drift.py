"""How far the heard onsets lie from a grid: for the fit, for the eye, and for finding doubtful places.

The strengths are laid out on the grid, one row a beat. What the beats of a bar usually look like is the pattern; each
beat, with its neighbours, is then moved until it fits the pattern best.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.onsets import LOW_BANDS, Bands
from fernbrook.core.track import Grid

BINS = 96
"""Places within a beat."""
REACH = 20
"""How many places a beat is moved either way: a fifth of it."""
CLEAR, LEAST_CLEAR = 0.25, 0.05
"""The correlation with the pattern from which a beat is heard: less will do where the whole track has less."""

LEAN_BEATS, LEAN_REACH = 8, 6
ALIKE = 0.4
"""Neighbouring stretches that are less alike than this tell nothing of a lean."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Drift:
    """For each beat of a grid from ``first`` on: how late the sound is in seconds, and how clear that is, 0..1."""

    first: int
    late_s: Array
    clear: Array

    @property
    def heard(self) -> NDArray[np.bool_]:
        """The beats at which there is something to be heard."""
        usual = float(np.median(self.clear)) if len(self.clear) else 0.0
        return self.clear >= np.clip(0.6 * usual, LEAST_CLEAR, CLEAR)

    @property
    def beats(self) -> NDArray[np.int64]:
        """The beats of the rows; shape (n,)."""
        return self.first + np.arange(len(self.late_s))


def laid_out(bands: Bands, rate: float, grid: Grid, first: int, count: int) -> Array:
    """Strengths on the grid; shape (bands, count, BINS). A row holds a beat, from half a beat before it on.

    Parameters
    ----------
    bands : evened strengths, shape (bands, frames)
    """
    places = first + (np.arange(count * BINS) - BINS // 2) / BINS
    at = grid.time_at(places) * rate
    frames = np.arange(bands.shape[1])
    rows = [np.interp(at, frames, band, left=0.0, right=0.0) for band in bands]
    return np.asarray(rows).reshape(len(bands), count, BINS)


def whole_beats(grid: Grid, duration_s: float) -> tuple[int, int]:
    """The first beat within a track, and how many there are."""
    begin, end = grid.beat_at([0.0, duration_s])
    first = int(np.ceil(begin - 1e-6))
    return first, max(0, int(np.floor(end + 1e-6)) - first + 1)


def drift(bands: Bands, rate: float, grid: Grid, around: int = 4) -> Drift:
    """Measure how far the onsets lie from a grid.

    Parameters
    ----------
    bands : evened strengths, shape (bands, frames)
    around : how many beats on either side are heard together with each
    """
    first, count = whole_beats(grid, bands.shape[1] / rate)
    if count < grid.beats_per_bar:
        return Drift(first, np.zeros(count), np.zeros(count))
    period = np.diff(grid.time_at(first + np.arange(count + 1)))
    lean = _lean(laid_out(bands, rate, grid, first, count)) / BINS * period
    rows = laid_out(bands, rate, _moved(grid, first, lean), first, count)
    strength = rows.mean(axis=(0, 2))
    classes = np.rint(grid.bar_lines.within(first + np.arange(count))).astype(np.int64) % grid.beats_per_bar
    pattern = np.stack([rows[:, classes == c].mean(axis=1) for c in range(grid.beats_per_bar)], axis=1)
    centre = _centre(pattern)
    match = _matches(rows, pattern, classes)
    bell = np.hanning(2 * around + 3)[1:-1]
    smooth = np.stack([np.convolve(column, bell, mode="same") for column in match.T], axis=1)
    best = np.argmax(smooth[:, 1:-1], axis=1) + 1
    each = np.arange(count)
    left, middle, right = smooth[each, best - 1], smooth[each, best], smooth[each, best + 1]
    bend = left - 2.0 * middle + right
    shift = np.where(bend < -1e-12, 0.5 * (left - right) / np.minimum(bend, -1e-12), 0.0)
    late = lean + (best + np.clip(shift, -0.5, 0.5) - REACH + centre) / BINS * period
    power = np.convolve(np.sqrt((rows**2).sum(axis=(0, 2))), bell, mode="same")
    usual = np.sqrt((pattern**2).sum(axis=(0, 2)))[classes]
    clear = middle / np.maximum(power * np.convolve(usual, bell, mode="same") / bell.sum(), 1e-9)
    quiet = np.convolve(strength, bell / bell.sum(), mode="same") < 0.1 * strength.mean()
    return Drift(first, late, np.where(quiet, 0.0, np.clip(clear, 0.0, 1.0)))


def _lean(rows: Array) -> Array:
    """How a slowly growing offset runs through a track, in places for each beat.

    Each stretch is aligned with what those before it, aligned themselves, usually look like, from the clearest one on.

    A grid that is a little fast or slow smears the pattern of the whole track; with this taken out it is sharp.
    """
    count = rows.shape[1]
    groups = count // LEAN_BEATS
    if groups < 2:
        return np.zeros(count)
    profile = rows[:, : groups * LEAN_BEATS].reshape(len(rows), groups, LEAN_BEATS, BINS).mean(axis=2)
    spectra = np.fft.rfft(profile - profile.mean(axis=2, keepdims=True), axis=2).transpose(1, 0, 2)
    turns = -2j * np.pi * np.arange(spectra.shape[2]) / BINS
    size = np.sqrt((np.abs(spectra) ** 2).sum(axis=(1, 2)))
    start = int(np.argmax(size))
    run = np.zeros(groups)
    for order in (range(start + 1, groups), range(start - 1, -1, -1)):
        usual, at = spectra[start], 0.0
        for group in order:
            match = np.fft.irfft((spectra[group] * usual.conj()).sum(axis=0), BINS)
            reach = np.rint(at) + np.arange(-LEAN_REACH, LEAN_REACH + 1)
            best = int(reach[np.argmax(match[reach.astype(int) % BINS])])
            left, middle, right = (match[(best + i) % BINS] for i in (-1, 0, 1))
            likeness = middle * BINS / 2 / max(size[group] * np.sqrt((np.abs(usual) ** 2).sum()), 1e-9)
            if likeness > ALIKE and left < middle >= right:
                at = best + 0.5 * (left - right) / (left - 2.0 * middle + right)
                aligned = spectra[group] * np.exp(-turns * at)
                usual = 0.8 * usual + 0.2 * aligned
            run[group] = at
    centres = (np.arange(groups) + 0.5) * LEAN_BEATS - 0.5
    return np.asarray(np.interp(np.arange(count), centres, run - np.median(run)))


def _moved(grid: Grid, first: int, by_s: Array) -> Grid:
    """The grid with each line moved, as long as their order stands."""
    beats = first + np.arange(len(by_s), dtype=np.float64)
    times = grid.time_at(beats) + by_s
    if not np.any(by_s) or np.any(np.diff(times) <= 0.02):
        return grid
    return Grid.through(times, beats, grid.beats_per_bar)


def _matches(rows: Array, pattern: Array, classes: NDArray[np.int64]) -> Array:
    """Correlation of each beat with the pattern at each displacement; shape (count, 2 REACH + 1)."""
    bands, count, _ = rows.shape
    plain = pattern - pattern.mean(axis=2, keepdims=True)
    out = np.zeros((count, 2 * REACH + 1))
    for band in range(bands):
        line = np.pad(rows[band].ravel(), REACH)
        windows = np.lib.stride_tricks.sliding_window_view(line, BINS)
        for move in range(2 * REACH + 1):
            out[:, move] += np.einsum("ij,ij->i", windows[move::BINS][:count], plain[band][classes])
    return out


def _centre(pattern: Array) -> float:
    """How many places after its line the pattern's own attack lies: the peak nearest to the line, over all bands."""
    profile = pattern.sum(axis=(0, 1)) + pattern[LOW_BANDS.stop - 1].sum(axis=0)
    profile = np.convolve(np.concatenate((profile[-2:], profile, profile[:2])), [0.25, 0.5, 0.25], mode="same")[2:-2]
    reach = BINS // 6
    near = profile[BINS // 2 - reach : BINS // 2 + reach + 1]
    best = int(np.clip(np.argmax(near), 1, 2 * reach - 1))
    left, middle, right = near[best - 1], near[best], near[best + 1]
    bend = left - 2.0 * middle + right
    shift = 0.5 * (left - right) / bend if bend < 0 else 0.0
    return float(best + np.clip(shift, -0.5, 0.5) - reach)
