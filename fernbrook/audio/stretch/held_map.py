"""The time map of a stretch, held still around what must not be smeared.

Around an attack the source runs at its own speed, so that all frames that hear it place it on the same sample. What
that takes from the map is given back within a few milliseconds; everywhere else the map is the one that was asked for.
Where the stretch meets a part that is played in another way, its frames lie where that part has them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

RETURN_S = 0.040
"""The map is the true one again this long after a hold."""
_SHARE = 0.2
"""Of the way to the next hold, at most so much is a hold itself; less where a track is slowed by more than half."""
_SLOPE = 3.0
"""Seconds given back take at least so many."""
_LEFT = 0.25
"""And however much a track is slowed, at least so much of its speed is left where they are: the map always rises."""
_CLEAR_S = 0.030
"""No hold begins or ends nearer to that of a join."""


class Warp(Protocol):
    """A time map both ways, in seconds."""

    def source_at(self, mix_times: Array) -> Array:
        """Seconds of the source at seconds of the mix; same shape."""
        ...

    def mix_at(self, source_times: Array) -> Array:
        """Seconds of the mix at seconds of the source; same shape."""
        ...


@dataclass(frozen=True)
class Join:
    """A moment of the mix at which a stretch meets its neighbour; its own speed is kept from ``before_s`` before it
    until ``after_s`` after it, either of which may be infinite."""

    at_s: float
    before_s: float
    after_s: float


class HeldMap:
    """A map with holds of ``hold_s`` on both sides of each attack, and at joins, which win.

    ``attacks`` are moments of the source in seconds, rising. Where two lie close, their holds are the shorter.
    """

    def __init__(self, warp: Warp, attacks: Array, joins: Sequence[Join], hold_s: float) -> None:
        self._warp = warp
        at = warp.mix_at(attacks)
        free = np.ones(len(at), dtype=bool)
        for join in joins:
            first, last = join.at_s - join.before_s, join.at_s + join.after_s
            free &= (at < first - self._room_at(join, first)) | (at > last + self._room_at(join, last))
        met = np.array([j.at_s for j in joins])
        every = np.concatenate((at[free], met))
        order = np.argsort(every, kind="stable")
        self._at = every[order]
        self._source = np.concatenate((attacks[free], warp.source_at(met)))[order]
        hold = np.full(int(free.sum()), hold_s)
        given = np.concatenate((np.zeros(len(hold), dtype=bool), np.ones(len(met), dtype=bool)))[order]
        before = np.concatenate((hold, [j.before_s for j in joins]))[order]
        after = np.concatenate((hold, [j.after_s for j in joins]))[order]
        apart = np.diff(self._at)
        room = apart - np.where(given[:-1], after[:-1], 0.0) - np.where(given[1:], before[1:], 0.0)
        speed = np.clip(np.diff(self._source) / np.maximum(apart, 1e-9), 1e-3, 1.0)
        back = (1.0 - _LEFT) * speed
        # A hold of h gives back h (1 - speed) on the way to the middle, 1/2 - h off, where `back` of the speed may go.
        share = np.minimum(_SHARE, 0.5 * back / (1.0 - speed + back))
        most = share * np.maximum(room, 0.0)
        after[:-1] = np.where(given[:-1], after[:-1], np.minimum(after[:-1], most))
        before[1:] = np.where(given[1:], before[1:], np.minimum(before[1:], most))
        self._before, self._after = before, after
        ends = warp.source_at(np.concatenate((self._at - RETURN_S, self._at + RETURN_S)))
        self._slope = _slope_for((ends[len(self._at) :] - ends[: len(self._at)]) / (2 * RETURN_S))
        self._borders = (self._at[:-1] + after[:-1] + self._at[1:] - before[1:]) / 2

    def _room_at(self, join: Join, edge_s: float) -> float:
        """Seconds beside the hold of a join in which the map comes back."""
        if not np.isfinite(edge_s):
            return 0.0
        source, edge_source = self._warp.source_at(np.array([join.at_s, edge_s]))
        passed = float(source - edge_source)
        apart_s = join.at_s - edge_s
        slope = float(_slope_for(np.array(passed / apart_s if apart_s else 1.0)))
        return 2 * slope * abs(passed - apart_s) + _CLEAR_S

    def source_at(self, mix_times: Array) -> Array:
        """Seconds of the source at seconds of the mix; same shape, rising like it."""
        true = self._warp.source_at(mix_times)
        if not len(self._at):
            return true
        i = np.searchsorted(self._borders, mix_times, side="right")
        off = mix_times - self._at[i]
        held = self._source[i] + np.clip(off, -self._before[i], self._after[i])
        edge = self._at[i] + np.clip(off, -self._before[i], self._after[i])
        past = np.abs(mix_times - edge)
        borders = np.concatenate(([-np.inf], self._borders, [np.inf]))
        moved = held - self._warp.source_at(edge)
        wanted = np.maximum(RETURN_S, self._slope[i] * np.abs(moved))
        room = np.minimum(wanted, np.where(off > 0, borders[i + 1] - edge, edge - borders[i]))
        left = np.clip(1.0 - past / np.maximum(room, 1e-9), 0.0, 1.0)
        return np.asarray(np.where(past == 0.0, held, true + moved * left))


def _slope_for(speed: Array) -> Array:
    """How many seconds it takes to give back one where the source runs at a speed; same shape."""
    return np.maximum(_SLOPE, 1.0 / ((1.0 - _LEFT) * np.clip(speed, 1e-3, None)))
