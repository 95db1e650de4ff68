"""How beats of one grid are counted by another, so that what was set on a beat stays on a beat.

A grid that is corrected by less than half a beat takes its cues along, for a cue means a beat. A grid that is halved,
doubled, or counted from elsewhere leaves them at their moments.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fernbrook.core.track.grid import Grid

SAME_OCTAVE = 0.04
"""Tempi are octaves of each other when their ratio is a power of two within this share."""


@dataclass(frozen=True)
class Recount:
    """The grid that a track was counted by, and the one that it is counted by now. What is not to be ``on_lines`` stays
    at its moment."""

    before: Grid
    now: Grid
    on_lines: bool = True

    def octave(self, at_beat: float) -> float:
        """How many beats there are now for each of before, where that is a power of two; else 1."""
        ratio = float(self.now.bpm_at(self.same_moment(at_beat)) / self.before.bpm_at(at_beat))
        octave = float(2.0 ** np.rint(np.log2(ratio)))
        return octave if abs(ratio / octave - 1.0) < SAME_OCTAVE else 1.0

    def beat(self, at: float, count: float = 1.0, count_now: float = 1.0) -> float:
        """A beat now, the same part of a beat as before and as near to its moment as that allows.

        ``count`` and ``count_now`` are how many beats an entry plays for each of the grid.
        """
        alike = at / count * self.octave(at / count) * count_now
        there = self.same_moment(at / count) * count_now
        if not self.on_lines:
            return there
        return alike + float(np.rint(there - alike))

    def same_moment(self, beat: float) -> float:
        """What the moment of a beat is counted now."""
        return float(self.now.beat_at(self.before.time_at(beat)))
