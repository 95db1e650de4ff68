"""The whole analysis of a file, in one pass over its sound."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.grid_search import DEFAULT_RANGE, find_grid
from fernbrook.analysis.beat.listener import ListenerMeter
from fernbrook.analysis.beat.onsets import OnsetMeter
from fernbrook.analysis.confidence import doubts, runner_up
from fernbrook.analysis.features import Features
from fernbrook.analysis.file_meter import FileMeter
from fernbrook.analysis.peaks import PeaksMeter
from fernbrook.analysis.structure.energy import bar_energy
from fernbrook.analysis.structure.sections import bar_features, find_sections
from fernbrook.analysis.tone.harmony import HarmonyMeter
from fernbrook.analysis.tone.key import KeyFound, find_key
from fernbrook.analysis.voice.movement import MovementMeter, moving_spans
from fernbrook.analysis.voice.presence import PresenceMeter
from fernbrook.analysis.voice.weights import are_installed
from fernbrook.audio.measures import Loudness, LoudnessMeter
from fernbrook.audio.sources import Source
from fernbrook.core.library import FileMeasures
from fernbrook.core.track import Doubt, Grid, Section, VoiceSpan

RATE = 44_100
CHUNK = RATE * 10
SILENCE = 10.0 ** (-60.0 / 20.0)
VERSION = 11
"""Raised whenever results may differ, so that older ones can be told apart."""


@dataclass(frozen=True)
class Reading:
    """What the features of a track were found to mean. ``grid`` is None where no beat is clear enough.

    ``clarity`` is from 0 to 1, ``swing`` the first half of a beat against its second, ``runner_up`` the next likely
    tempo and its probability against the first, ``energy`` a value of 0..1 for each bar from ``first_bar`` on.
    """

    grid: Grid | None
    clarity: float
    runner_up: tuple[float, float] | None
    bar_share: float | None
    swing: float | None
    key: KeyFound | None
    sections: tuple[Section, ...]
    voice: tuple[VoiceSpan, ...]
    first_bar: int
    energy: tuple[float, ...]
    doubts: tuple[Doubt, ...]


@dataclass(frozen=True)
class Analysis:
    """All that was found in a file. ``true_peaks`` has the largest of each 100 ms."""

    reading: Reading
    features: Features
    energies: NDArray[np.float64]
    loudness: Loudness
    true_peaks: NDArray[np.float32]
    sound_start_s: float
    sound_end_s: float
    duration_s: float
    peaks: dict[int, NDArray[np.uint8]]
    file: FileMeasures

    @property
    def grid(self) -> Grid | None:
        """The grid that was found, None where there is no beat."""
        return self.reading.grid

    @property
    def clarity(self) -> float:
        """How clearly the beats are heard where the grid has them, 0 to 1."""
        return self.reading.clarity


def analyse(
    path: Path,
    progress: Callable[[float], None] = lambda _: None,
    name: str | None = None,
    tempo_range: tuple[float, float] = DEFAULT_RANGE,
) -> Analysis:
    """Analyse a file.

    Parameters
    ----------
    path : a file that ``audio.file.probe`` accepts
    progress : told the share done, 0..1
    name : what messages call the file, its own name otherwise
    tempo_range : the slowest and the fastest tempo that its beat may have

    Raises
    ------
    AudioFileError
        When the file cannot be read to its end.
    """
    onsets, harmony, movement, listener = OnsetMeter(RATE), HarmonyMeter(RATE), MovementMeter(RATE), ListenerMeter()
    voice = PresenceMeter() if are_installed() else None
    loudness, peaks, quality = LoudnessMeter(RATE), PeaksMeter(RATE), FileMeter()
    first_sound: int | None = None
    last_sound = 0
    with Source(path, RATE, name) as source:
        frames = source.frames
        for start in range(0, frames, CHUNK):
            block = source.read(start, min(CHUNK, frames - start))
            left, right = block.T
            mono = (left + right) * np.float32(0.5)
            loud = np.flatnonzero((np.abs(left) > SILENCE) | (np.abs(right) > SILENCE))
            if len(loud):
                first_sound = start + int(loud[0]) if first_sound is None else first_sound
                last_sound = start + int(loud[-1]) + 1
            for meter in (onsets, harmony, peaks, listener):
                meter.add(mono)
            if voice is None:
                movement.add(mono)
            else:
                voice.add(block)
            loudness.add(block)
            quality.add(block)
            progress(0.85 * (start + len(block)) / frames)
    features = Features(
        onsets.result(), harmony.result(), movement.result(), listener.result(), voice.result() if voice else None
    )
    energies = loudness.energies()
    reading = read(features, energies, tempo_range)
    progress(1.0)
    return Analysis(
        reading=reading,
        features=features,
        energies=energies,
        loudness=loudness.result(),
        true_peaks=loudness.peaks(),
        sound_start_s=(first_sound or 0) / RATE,
        sound_end_s=(last_sound or frames) / RATE,
        duration_s=frames / RATE,
        peaks=peaks.result(),
        file=quality.result(harmony.spectrum, RATE / 2.0),
    )


def read(
    features: Features, energies: NDArray[np.float64], tempo_range: tuple[float, float] = DEFAULT_RANGE
) -> Reading:
    """Find out what features mean: grid, key, sections, energy, and what is doubtful about them."""
    found, clarity = find_grid(features.onsets, features.harmony, tempo_range, features.heard)
    grid = found.grid if found else None
    key = find_key(features.harmony, grid)
    sections: tuple[Section, ...] = ()
    voice: tuple[VoiceSpan, ...] = ()
    energy: NDArray[np.float64] = np.zeros(0)
    first_bar = 0
    if grid is not None:
        bars = bar_features(features.onsets, features.harmony, grid)
        sections, energy, first_bar = find_sections(bars, grid), bar_energy(energies, bars, grid), bars.first
        spans_s = moving_spans(features.movement) if features.presence is None else features.presence.spans_s()
        spans = grid.beat_at(np.reshape(spans_s, (-1, 2)))
        voice = tuple(VoiceSpan(start=round(float(a), 2), end=round(float(b), 2)) for a, b in spans)
    return Reading(
        grid=grid,
        clarity=clarity,
        runner_up=runner_up(found) if found else None,
        bar_share=found.bar.share if found else None,
        swing=round(found.swing, 2) if found and found.swing else None,
        key=key,
        sections=sections,
        voice=voice,
        first_bar=first_bar,
        energy=tuple(round(float(e), 3) for e in energy),
        doubts=doubts(found, clarity, key, features.onsets.duration_s),
    )
