"""The whole analysis of a file, in one pass over its sound."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.downbeat import BEATS_PER_BAR, beat_features, beat_times, first_of_bar
from fernbrook.analysis.harmony import HarmonyMeter
from fernbrook.analysis.onsets import OnsetMeter, Onsets
from fernbrook.analysis.peaks import PeaksMeter
from fernbrook.analysis.tempo import Pulse, find_pulse
from fernbrook.audio.loudness import Loudness, LoudnessMeter
from fernbrook.audio.source import Source
from fernbrook.core.grid import Grid

RATE = 44_100
CHUNK = RATE * 10
SILENCE = 10.0 ** (-60.0 / 20.0)
UNCLEAR = 0.12
"""Below this clarity there is no beat that a grid could follow."""
VERSION = 1
"""Raised whenever results may differ, so that older ones can be told apart."""


@dataclass(frozen=True)
class Analysis:
    """What was found. ``grid`` is None where no steady beat is clear enough; ``clarity`` is from 0 to 1."""

    grid: Grid | None
    clarity: float
    loudness: Loudness
    sound_start_s: float
    sound_end_s: float
    duration_s: float
    peaks: dict[int, NDArray[np.uint8]]


def analyse(path: Path, progress: Callable[[float], None] = lambda _: None, name: str | None = None) -> Analysis:
    """Analyse a file.

    Parameters
    ----------
    path : a file that ``audio.file.probe`` accepts
    progress : told the share done, 0..1
    name : what messages call the file, its own name otherwise

    Raises
    ------
    AudioFileError
        When the file cannot be read to its end.
    """
    onsets, harmony = OnsetMeter(RATE), HarmonyMeter(RATE)
    loudness, peaks = LoudnessMeter(RATE), PeaksMeter(RATE)
    first_sound: int | None = None
    last_sound = 0
    with Source(path, RATE, name) as source:
        frames = source.frames
        for start in range(0, frames, CHUNK):
            block = source.read(start, min(CHUNK, frames - start))
            mono = block.mean(axis=1)
            loud = np.flatnonzero(np.abs(block).max(axis=1) > SILENCE)
            if len(loud):
                first_sound = start + int(loud[0]) if first_sound is None else first_sound
                last_sound = start + int(loud[-1]) + 1
            for meter in (onsets, harmony, peaks):
                meter.add(mono)
            loudness.add(block)
            progress(0.95 * (start + len(block)) / frames)
    found = onsets.result()
    pulse = find_pulse(found)
    grid = None
    if pulse is not None and pulse.clarity >= UNCLEAR:
        grid = _grid(pulse, found, harmony, frames / RATE)
    progress(1.0)
    return Analysis(
        grid=grid,
        clarity=pulse.clarity if pulse else 0.0,
        loudness=loudness.result(),
        sound_start_s=(first_sound or 0) / RATE,
        sound_end_s=(last_sound or frames) / RATE,
        duration_s=frames / RATE,
        peaks=peaks.result(),
    )


def _grid(pulse: Pulse, onsets: Onsets, harmony: HarmonyMeter, duration_s: float) -> Grid:
    """A grid of the pulse, whose beat 0 is the first downbeat with a beat to it."""
    beats = beat_times(pulse, duration_s)
    chroma, level = harmony.result()
    features = beat_features(chroma, level, harmony.rate, beats)
    strength = _on_beats(onsets, beats[:-1])
    first, _ = first_of_bar(features, strength)
    start = _first_beat_heard(strength)
    downbeat = first + BEATS_PER_BAR * int(np.ceil((start - first) / BEATS_PER_BAR))
    downbeat = min(max(downbeat, first), len(beats) - 1)
    return Grid.constant(pulse.bpm, float(beats[downbeat]), BEATS_PER_BAR)


def _on_beats(onsets: Onsets, beats: NDArray[np.float64]) -> NDArray[np.float64]:
    """Low-band onset strength within 30 ms of each beat."""
    reach = round(0.03 * onsets.rate)
    at = np.rint(beats * onsets.rate).astype(int)
    around = np.clip(at[:, None] + np.arange(-reach, reach + 1)[None, :], 0, onsets.bands.shape[1] - 1)
    return np.asarray(onsets.bands[0][around].max(axis=1), dtype=np.float64)


def _first_beat_heard(strength: NDArray[np.float64]) -> int:
    """The first beat from which most of eight in a row carry a low onset; 0 where none do."""
    hit = strength > 0.3 * np.percentile(strength, 90)
    steady = np.convolve(hit, np.ones(8), mode="valid")[: len(hit)]
    begins = np.flatnonzero((steady >= 5) & hit[: len(steady)])
    return int(begins[0]) if len(begins) else 0
