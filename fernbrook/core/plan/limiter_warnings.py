"""Warnings about the limiter: where it has to take more than is unheard."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.warning import MixWarning, WarningKind

BUSY_DB = 2.0


def limiter_warnings(plan: Plan, db: NDArray[np.float64], step_s: float) -> list[MixWarning]:
    """Where more than two dB go for more than a beat: one warning for each entry or transition that it begins in.

    ``db`` is what the limiter will take, shape (n,), one for each ``step_s`` of the mix.
    """
    busy = np.flatnonzero(db > BUSY_DB)
    if not len(busy):
        return []
    found: dict[tuple[int | None, int | None], tuple[float, float]] = {}
    for run in np.split(busy, np.flatnonzero(np.diff(busy) > 1) + 1):
        start_s, length_s = float(run[0]) * step_s, len(run) * step_s
        beats = float(plan.tempo.beat_at(start_s + length_s) - plan.tempo.beat_at(start_s))
        if beats <= 1.0:
            continue
        place = _place(plan, start_s + length_s / 2.0)
        worst, total = found.get(place, (0.0, 0.0))
        found[place] = (max(worst, float(db[run].max())), total + beats)
    return [
        _warning(plan, entry, transition, f"The limiter takes up to {worst:.1f} dB for {beats:.0f} beats.")
        for (entry, transition), (worst, beats) in found.items()
    ]


def _warning(plan: Plan, entry: int | None, transition: int | None, what: str) -> MixWarning:
    key = f"limiter {_name(plan, entry, transition)}"
    return MixWarning(
        kind=WarningKind.LIMITER,
        message=f"{what} Lower a gain, or a curve.",
        entry=entry,
        transition=transition,
        key=key,
        is_meant=key in plan.mix.meant,
    )


def _name(plan: Plan, entry: int | None, transition: int | None) -> str:
    """The ids of the entries that a place is of."""
    if transition is not None:
        return " ".join(plan.transitions[transition].transition.pair)
    return plan.entries[entry or 0].entry.id


def _place(plan: Plan, at_s: float) -> tuple[int | None, int | None]:
    """The transition that a moment lies in, else the entry."""
    for t in plan.transitions:
        if t.start_s <= at_s <= t.end_s:
            return None, t.index
    return next((e.index for e in reversed(plan.entries) if e.start_s <= at_s), 0), None
