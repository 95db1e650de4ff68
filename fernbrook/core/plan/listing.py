"""When each track of a mix is said to begin: where it is first heard, takes over, or is alone."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fernbrook.core.mix.transitions import handed_over_at
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.planned import PlannedEntry, PlannedTransition


class TimesAt(StrEnum):
    """Which moment of its arrival counts as the start of a track."""

    FIRST_SOUND = "first_sound"
    HAND_OVER = "hand_over"
    ALONE = "alone"


@dataclass(frozen=True)
class Listed:
    """A track in a list: its number from 1, when it begins, in seconds of the mix, and what it is."""

    number: int
    start_s: float
    entry: PlannedEntry


def listed(
    plan: Plan, at: TimesAt = TimesAt.HAND_OVER, start_s: float = 0.0, end_s: float | None = None
) -> list[Listed]:
    """The tracks of a mix in order, or of a part of it; times count from where the part begins. What sounds at its
    start begins there."""
    end = plan.duration_s if end_s is None else end_s
    times = [_start(e, plan, at) for e in plan.entries]
    stops = [*times[1:], plan.duration_s] if times else []
    within = [(t, e) for t, stop, e in zip(times, stops, plan.entries, strict=True) if stop > start_s and t < end]
    return [Listed(n, max(t - start_s, 0.0), e) for n, (t, e) in enumerate(within, 1)]


def _start(entry: PlannedEntry, plan: Plan, at: TimesAt) -> float:
    arrival = entry.arrival
    if arrival is None:
        return max(entry.start_s, 0.0)
    match at:
        case TimesAt.FIRST_SOUND:
            return entry.start_s
        case TimesAt.HAND_OVER:
            return hand_over_s(arrival, plan)
        case TimesAt.ALONE:
            return arrival.end_s


def hand_over_s(planned: PlannedTransition, plan: Plan) -> float:
    """When the incoming takes over, in seconds of the mix."""
    if planned.end_beat <= planned.start_beat:
        return planned.end_s
    return float(plan.tempo.time_at(planned.start_beat + handed_over_at(planned.transition)))
