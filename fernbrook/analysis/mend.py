"""Measuring again what the user asks for, from the features that the analysis kept: no audio is read."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.drift import drift, whole_beats
from fernbrook.analysis.beat.grid_search import DEFAULT_RANGE, find_grid
from fernbrook.analysis.beat.listener import FRAMES_PER_S
from fernbrook.analysis.beat.onsets import Bands, Onsets
from fernbrook.analysis.beat.tempo import refined, rough_tempi
from fernbrook.analysis.features import Features
from fernbrook.analysis.voice.movement import Movement
from fernbrook.core.track import (
    MEANT_STEP,
    Grid,
    GridEditError,
    begin_at,
    replace_span,
    slide,
    tempo_from,
    with_span_of,
)

SNAP_S = 0.12
"""How far away an onset may be for a line to be snapped to it."""
BEGINS_S = 0.06
"""How far from the cursor an onset may be that something new begins with."""
LEAP = 0.15
"""Tempi of neighbouring stretches differ by less, as a share; two to three, which rhythms suggest, is a leap."""

Array = NDArray[np.float64]


def nearest_onset(features: Features, time_s: float, within_s: float = SNAP_S) -> float | None:
    """The moment of the clearest onset near a moment, nearer ones preferred; None where nothing begins."""
    strength = features.onsets.evened.mean(axis=0, dtype=np.float64)
    rate = features.onsets.rate
    begin, end = max(1, round((time_s - within_s) * rate)), min(len(strength) - 1, round((time_s + within_s) * rate))
    if end - begin < 3:
        return None
    at = np.arange(begin, end)
    peaks = at[(strength[at] >= strength[at - 1]) & (strength[at] > strength[at + 1])]
    peaks = peaks[strength[peaks] > 0.5 * strength.mean()]
    if not len(peaks):
        return None
    far = np.abs(peaks / rate - time_s) / within_s
    best = int(peaks[np.argmax(strength[peaks] * (1.0 - 0.7 * far))])
    left, middle, right = strength[best - 1], strength[best], strength[best + 1]
    bend = left - 2.0 * middle + right
    return float((best + (0.5 * (left - right) / bend if bend < 0.0 else 0.0)) / rate)


def snapped(features: Features, grid: Grid, beat: float, at_s: float | None = None) -> Grid:
    """The grid slid so that the line of a beat meets the onset nearest to it, or to the moment ``at_s``."""
    here = float(grid.time_at(beat))
    onset = nearest_onset(features, here if at_s is None else at_s, min(SNAP_S, 20.0 / float(grid.bpm_at(beat))))
    if onset is None:
        raise GridEditError("No sound begins near this line." if at_s is None else "No sound begins near the cursor.")
    return slide(grid, onset - here)


def measured(
    features: Features,
    tempo_range: tuple[float, float],
    span_s: tuple[float, float] | None = None,
    present: Grid | None = None,
) -> Grid:
    """The grid of a track found again within a range of tempi. Where a span of it is given, only that is measured, and
    only its lines are others than in the ``present`` grid, if there is one."""
    heard = features if span_s is None else _cut(features, *span_s)
    found, _ = find_grid(heard.onsets, heard.harmony, tempo_range, heard.heard)
    if found is None:
        where = "in this track" if span_s is None else "in this span"
        raise GridEditError(f"No beat between {tempo_range[0]:g} and {tempo_range[1]:g} BPM is clear {where}.")
    if span_s is None:
        return found.grid
    there = slide(found.grid, max(span_s[0], 0.0))
    return there if present is None else with_span_of(present, there, *span_s)


def measured_from(
    features: Features,
    grid: Grid,
    beat: float,
    at_s: float | None = None,
    tempo_range: tuple[float, float] | None = None,
) -> Grid:
    """A new tempo from a line on, measured on what follows within a range: counted as slow or fast as the one before,
    where that makes it no leap. Where a moment is given, the line is put on the onset nearest to it first."""
    if at_s is not None:
        grid = begin_at(grid, beat, nearest_onset(features, at_s, BEGINS_S) or at_s)
    start = float(grid.time_at(beat))
    rest = _cut(features, start, features.onsets.duration_s)
    if rest.onsets.duration_s < 4.0:
        raise GridEditError("Too little of the track is left to measure a tempo.")
    strength = np.sqrt(rest.onsets.evened).mean(axis=0, dtype=np.float64)
    present = float(grid.bpm_at(beat))
    found, _ = find_grid(rest.onsets, rest.harmony, tempo_range or DEFAULT_RANGE, rest.heard)
    heard = [found.grid.bpm_before] if found else rough_tempi(strength, rest.onsets.rate)
    alike = [bpm * 2.0 ** float(np.rint(np.log2(present / bpm))) for bpm in heard]
    otherwise = heard[0] if found else present
    tempo = next((bpm for bpm in alike if abs(bpm / present - 1.0) < LEAP), otherwise)
    # Where another tempo follows, what lies after it says nothing of this one.
    until = round(_first_tempo_s(found.grid, rest.onsets.duration_s) * rest.onsets.rate) if found else len(strength)
    made = tempo_from(grid, beat, refined(strength[:until], rest.onsets.rate, tempo))
    if at_s is None:
        return made
    # One onset said where it begins; all that follow say it better.
    first, late, clear = offsets(features, made)
    after = late[max(round(beat) - first, 0) :][clear[max(round(beat) - first, 0) :] > 0.0]
    better = start + (float(np.median(after)) if len(after) else 0.0)
    return tempo_from(begin_at(grid, beat, better), beat, made.bpm_after)


def _first_tempo_s(grid: Grid, duration_s: float) -> float:
    """Up to when a grid keeps the tempo that it begins with, as a musician would say."""
    first, last = grid.beat_at([0.0, duration_s])
    beats = np.arange(np.ceil(first), last)
    other = np.flatnonzero(np.abs(grid.bpm_at(beats) / grid.bpm_at(first) - 1.0) > MEANT_STEP)
    return float(grid.time_at(beats[other[0]])) if len(other) and grid.means_its_changes else duration_s


def following(features: Features, grid: Grid, span_beats: tuple[float, float] | None, every: int) -> Grid:
    """Anchors where the player is heard, every so many beats, over a span of beats or everywhere.

    Lines are moved by what ``drift`` measures; where nothing is heard they are left to their neighbours.
    """
    bands = features.onsets.evened
    for _ in range(2):
        grid = _followed_once(bands, features.onsets.rate, grid, span_beats, every)
    return grid


def _followed_once(bands: Bands, rate: float, grid: Grid, span: tuple[float, float] | None, every: int) -> Grid:
    found = drift(bands, rate, grid, around=2)
    wanted = found.heard & (found.beats % every == 0)
    if span is not None:
        wanted &= (found.beats >= span[0]) & (found.beats <= span[1])
    beats = found.beats[wanted].astype(np.float64)
    if len(beats) < 2:
        raise GridEditError("No beats are heard there that could be followed.")
    times = grid.time_at(beats) + found.late_s[wanted]
    if np.any(np.diff(times) <= 0.02):
        raise GridEditError("The beats heard there do not follow each other. Set the tempo roughly right first.")
    if span is None:
        made = Grid.through(times, beats, grid.beats_per_bar)
        return made.without_needless_anchors(0.001).model_copy(update={"bars_from": grid.bars_from})
    return replace_span(grid, times, beats)


def _cut(features: Features, start_s: float, end_s: float) -> Features:
    """The features of a span alone."""

    def part(rate: float) -> slice:
        return slice(max(0, round(start_s * rate)), max(0, round(end_s * rate)))

    onsets, harmony, movement = features.onsets, features.harmony, features.movement
    within = part(harmony.rate)
    return Features(
        Onsets(onsets.bands[:, part(onsets.rate)], onsets.rate),
        replace(harmony, chroma=harmony.chroma[within], level=harmony.level[within], bass=None),
        Movement(movement.together[part(movement.rate)], movement.rate),
        features.heard.part(part(FRAMES_PER_S)) if features.heard else None,
    )


def offsets(features: Features, grid: Grid) -> tuple[int, Array, Array]:
    """The first beat of a track, and for each from there on how late its onsets are in seconds and how clear, 0..1."""
    if whole_beats(grid, features.onsets.duration_s)[1] < 1:
        return 0, np.zeros(0), np.zeros(0)
    found = drift(features.onsets.evened, features.onsets.rate, grid)
    return found.first, found.late_s, np.where(found.heard, found.clear, 0.0)
