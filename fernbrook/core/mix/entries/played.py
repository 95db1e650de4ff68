"""The beats of an entry as it is played in a mix, and the beats of its track's grid: the one line between them.

An entry with count 2 plays two beats for each of its grid, so that 87 BPM rides at 174. Everything that a person
decides about an entry (cues, transitions, rooms) is counted in beats as played; a grid knows only its own. An entry
that was edited has several such lines, one for each of its pieces (``arrangement.py``), each with its own ``shift``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from fernbrook.core.mix.entries.entry import Entry
from fernbrook.core.remembered import remembered
from fernbrook.core.track import FloatArray, Grid, TrackFacts


@dataclass(frozen=True)
class Played:
    """An entry's beats as played. ``count`` of them are one beat of the grid, whose beat 0 lies on beat ``shift``."""

    grid: Grid
    count: float
    shift: float = 0.0

    @classmethod
    def of(cls, entry: Entry, track: TrackFacts) -> Played:
        """The beats of an entry of a track, as recorded."""
        return _whole(track.riding_grid, entry.count)

    @property
    def bar(self) -> float:
        """Beats as played in a bar: 8 where four beats of a grid count double. Where bars differ, in that of beat 0."""
        return self.grid.beats_per_bar * self.count

    def shifted(self, shift: float) -> Played:
        """The same beats with the grid lying elsewhere among them."""
        return self if shift == self.shift else replace(self, shift=shift)

    def of_grid(self, beat: float) -> float:
        """A beat of the grid, in beats as played."""
        return beat * self.count + self.shift

    def to_grid(self, beat: float) -> float:
        """A beat as played, in beats of the grid."""
        return (beat - self.shift) / self.count

    def time_at(self, beats: ArrayLike) -> FloatArray:
        """Seconds of the track's audio at beats as played; same shape."""
        return self.grid.time_at((np.asarray(beats, dtype=np.float64) - self.shift) / self.count)

    def beat_at(self, times_s: ArrayLike) -> FloatArray:
        """Beats as played at seconds of the track's audio; the inverse of ``time_at``."""
        return self.grid.beat_at(times_s) * self.count + self.shift

    def bpm_at(self, beats: ArrayLike) -> FloatArray:
        """The track's own tempo, in beats as played a minute."""
        return self.grid.bpm_at((np.asarray(beats, dtype=np.float64) - self.shift) / self.count) * self.count

    def grid_lines(self, first: float, last: float, spare: int = 0) -> FloatArray:
        """Beats as played at which whole beats of the grid lie, from ``first`` to ``last`` and some more around."""
        begin = math.floor((first - self.shift) / self.count) - spare
        end = math.ceil((last - self.shift) / self.count) + spare
        return np.arange(begin, end + 1, dtype=np.float64) * self.count + self.shift


@remembered
def _whole(grid: Grid, count: float) -> Played:
    return Played(grid, count)
