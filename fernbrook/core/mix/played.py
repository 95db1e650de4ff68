"""The beats of an entry as it is played in a mix, and the beats of its track's grid: the one map between them.

An entry with count 2 plays two beats for each of its grid, so that 87 BPM rides at 174. Everything that a person
decides about an entry (cues, transitions, rooms) is counted in beats as played; a grid knows only its own.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from fernbrook.core.mix.entry import Entry
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.track.grid import FloatArray, Grid
from fernbrook.core.track.section import Section, VoiceSpan


@dataclass(frozen=True)
class Played:
    """An entry's beats as played. ``count`` of them are one beat of the grid."""

    grid: Grid
    count: float

    @classmethod
    def of(cls, entry: Entry, track: TrackFacts) -> Played:
        """The beats of an entry of a track."""
        return cls(track.riding_grid, entry.count)

    @property
    def bar(self) -> float:
        """Beats as played in a bar: 8 where four beats of a grid count double."""
        return self.grid.beats_per_bar * self.count

    def of_grid(self, beat: float) -> float:
        """A beat of the grid, in beats as played."""
        return beat * self.count

    def time_at(self, beats: ArrayLike) -> FloatArray:
        """Seconds of the track's audio at beats as played; same shape."""
        return self.grid.time_at(np.asarray(beats, dtype=np.float64) / self.count)

    def beat_at(self, times_s: ArrayLike) -> FloatArray:
        """Beats as played at seconds of the track's audio; the inverse of ``time_at``."""
        return self.grid.beat_at(times_s) * self.count

    def bpm_at(self, beats: ArrayLike) -> FloatArray:
        """The track's own tempo, in beats as played a minute."""
        return self.grid.bpm_at(np.asarray(beats, dtype=np.float64) / self.count) * self.count

    def mean_bpm(self, start_s: float, end_s: float) -> float:
        """The steady tempo that has as many beats as played between two moments."""
        return self.grid.mean_bpm(start_s, end_s) * self.count

    def grid_lines(self, first: float, last: float, spare: int = 0) -> FloatArray:
        """Beats as played at which whole beats of the grid lie, from ``first`` to ``last`` and some more around."""
        begin = math.floor(first / self.count) - spare
        end = math.ceil(last / self.count) + spare
        return np.arange(begin, end + 1, dtype=np.float64) * self.count

    def sections(self, track: TrackFacts) -> tuple[Section, ...]:
        """What the track consists of, in beats as played."""
        if self.count == 1.0:
            return track.sections
        return tuple(
            s.model_copy(update={"start": s.start * self.count, "end": s.end * self.count}) for s in track.sections
        )

    def voice(self, track: TrackFacts) -> tuple[VoiceSpan, ...]:
        """Where somebody sings, in beats as played."""
        return tuple(VoiceSpan(start=v.start * self.count, end=v.end * self.count) for v in track.voice)
