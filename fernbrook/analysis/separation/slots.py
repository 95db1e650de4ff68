"""Quarter beats of a track as pieces of sound, and which of them lie at the same place of other bars."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.track import Grid

PER_BEAT = 4
BEFORE_S = 0.020
"""A slot begins so long before its line, for hits that come early."""
FADE_S = 0.010

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Slots:
    """The slots of a track in order: slot i begins at sample ``starts[i]``, and goes over into the next one within
    ``fade`` samples; ``place[i]`` is where it lies in its bar, ``bar[i]`` in which."""

    starts: Ints
    place: Ints
    bar: Ints
    length: int
    fade: int

    @classmethod
    def of(cls, grid: Grid, frames: int, rate: int) -> Slots:
        """The slots over a sound of so many samples."""
        first, last = (float(b) * PER_BEAT for b in grid.beat_at([0.0, frames / rate]))
        number = np.arange(int(np.floor(first)), int(np.ceil(last)) + 1)
        starts = np.rint((grid.time_at(number / PER_BEAT) - BEFORE_S) * rate).astype(np.int64)
        fade = round(FADE_S * rate)
        longest = int(np.diff(starts).max(initial=1)) + fade
        bar = grid.bar_lines.bar_of(number / PER_BEAT)
        place = number - np.rint(grid.bar_lines.beat_of(bar) * PER_BEAT)
        return cls(starts, place.astype(np.int64), bar.astype(np.int64), longest, fade)

    @property
    def count(self) -> int:
        """How many there are; the last one only ends the one before it."""
        return len(self.starts) - 1

    def window(self, i: int) -> NDArray[np.float32]:
        """The weight of the samples of slot ``i`` from its start on; those of all slots add up to 1."""
        size = int(self.starts[i + 1] - self.starts[i])
        rise = (np.arange(self.fade, dtype=np.float32) + 0.5) / self.fade
        window = np.ones(size + self.fade, np.float32)
        window[: self.fade] = rise
        window[size:] = 1.0 - rise
        return window
