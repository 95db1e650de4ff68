"""What the running order shows beside a plan: steps between neighbours, the walk of keys, energy over the mix."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from fernbrook.core.ordering.candidate import candidate_of
from fernbrook.core.ordering.problem import Pairings
from fernbrook.core.ordering.step import Step, step_between
from fernbrook.core.ordering.walk import key_walk
from fernbrook.core.plan import Plan, PlannedEntry
from fernbrook.core.remembered import remembered
from fernbrook.core.track import FloatArray, Key

LOOKS = 16
"""How often the energy of an entry is looked at over its time in the mix."""


@dataclass(frozen=True)
class RunningEntry:
    """An entry as the profiles show it: its key as it sounds, where that lies on the walk, and its energy over its time
    in the mix at ``LOOKS`` places, None where that is not known. Where its tempo changes on the way, its ``course`` is
    that at as many places."""

    key: Key | None
    walk: int | None
    energy: tuple[float | None, ...]
    course: tuple[float, ...]


@dataclass(frozen=True)
class Running:
    """All entries, and the steps between them."""

    entries: tuple[RunningEntry, ...]
    steps: tuple[Step, ...]


def running(plan: Plan, pairings: Pairings) -> Running:
    """What is shown beside a plan."""
    faces = [candidate_of(e.entry, e.track) for e in plan.entries]
    keys = [f.key for f in faces]
    entries = tuple(
        _shown(planned, key, at) for planned, key, at in zip(plan.entries, keys, key_walk(keys), strict=True)
    )
    steps = tuple(step_between(a, b, pairings.get((a.track_id, b.track_id))) for a, b in pairwise(faces))
    return Running(entries, steps)


@remembered
def _shown(planned: PlannedEntry, key: Key | None, walk: int | None) -> RunningEntry:
    return RunningEntry(key, walk, _energy(planned), _course(planned))


def _energy(planned: PlannedEntry) -> tuple[float | None, ...]:
    """The energy of an entry over its time in the mix."""
    known = planned.track.energy
    if known is None or not known.by_bar:
        return ()
    times = _looks(planned)
    grid = planned.track.riding_grid
    bars = grid.bar_lines.bar_of(grid.beat_at(planned.source_at(times)))
    places = bars.astype(np.int64) - known.first_bar
    return tuple(known.by_bar[p] if 0 <= p < len(known.by_bar) else None for p in places)


def _course(planned: PlannedEntry) -> tuple[float, ...]:
    """Its tempo over its time in the mix; nothing where it has one."""
    if planned.span.course.is_one_tempo:
        return ()
    beats = planned.tempo.beat_at(_looks(planned)) - planned.offset
    return tuple(float(bpm) for bpm in planned.span.course.bpm_at(beats))


def _looks(planned: PlannedEntry) -> FloatArray:
    """Moments of the mix, in seconds, in the middle of ``LOOKS`` parts of an entry's time in it."""
    return planned.start_s + (np.arange(LOOKS) + 0.5) / LOOKS * (planned.end_s - planned.start_s)
