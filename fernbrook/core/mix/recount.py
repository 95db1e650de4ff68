"""A mix whose tracks have come to be counted otherwise: what was decided about them stays where it sounds.

A grid that is corrected by less than half a beat takes its cues along, for a cue means a beat. A grid that is halved,
doubled, or counted from elsewhere leaves them at their moments.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fernbrook.core.mix.entry import COUNTS, Count, Entry
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.transition import Transition
from fernbrook.core.track.grid import Grid

SAME_OCTAVE = 0.04
"""Tempi are octaves of each other when their ratio is a power of two within this share."""


@dataclass(frozen=True)
class Recount:
    """The grid that an entry's track was counted by, and the one that it is counted by now."""

    before: Grid
    now: Grid

    def octave(self, at_beat: float) -> float:
        """How many beats there are now for each of before, where that is a power of two; else 1."""
        ratio = float(self.now.bpm_at(self._same_moment(at_beat)) / self.before.bpm_at(at_beat))
        octave = float(2.0 ** np.rint(np.log2(ratio)))
        return octave if abs(ratio / octave - 1.0) < SAME_OCTAVE else 1.0

    def beat(self, at: float, count: float, count_now: float) -> float:
        """An entry's beat now, the same part of a beat as before and as near to its moment as that allows."""
        alike = at / count * self.octave(at / count) * count_now
        there = self._same_moment(at / count) * count_now
        return alike + float(np.rint(there - alike))

    def _same_moment(self, beat: float) -> float:
        return float(self.now.beat_at(self.before.time_at(beat)))


def recounted_mix(mix: Mix, recounts: Mapping[str, Recount]) -> Mix:
    """The mix with the entries of some tracks, by track id, counted by their grids of now."""
    places = {
        e.id: _Place(recount, e.count, _count_now(e, recount))
        for e in mix.entries
        if (recount := recounts.get(e.track_id)) is not None
    }
    if not places:
        return mix
    entries = tuple(e.model_copy(update={"count": places[e.id].now}) if e.id in places else e for e in mix.entries)
    return mix.model_copy(
        update={"entries": entries, "transitions": tuple(_recounted(t, places) for t in mix.transitions)}
    )


@dataclass(frozen=True)
class _Place:
    """How an entry was counted and is now."""

    recount: Recount
    before: Count
    now: Count

    def beat(self, at: float) -> float:
        return self.recount.beat(at, self.before, self.now)


def _count_now(entry: Entry, recount: Recount) -> Count:
    """Another octave is made up for by the entry's count, so that it rides in the mix as before."""
    count = entry.count / recount.octave(0.0)
    return count if count in COUNTS else entry.count


def _recounted(transition: Transition, places: Mapping[str, _Place]) -> Transition:
    out, into = places.get(transition.out_id), places.get(transition.in_id)
    changed = {}
    if out is not None:
        changed["out_at"] = out.beat(transition.out_at)
    if into is not None:
        changed["in_at"] = into.beat(transition.in_at)
    return transition.model_copy(update=changed)
