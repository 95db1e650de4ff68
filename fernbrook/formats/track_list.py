"""A track list with start times, as plain text."""

from __future__ import annotations

from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.planned import PlannedEntry


def track_list(plan: Plan) -> str:
    """One line for each entry: when it is first heard, artist and title. Starts with the name and length of the mix."""
    lines = [f"{plan.mix.name} ({clock(plan.duration_s)})", ""]
    lines += [f"{clock(e.start_s)}  {_name(e)}" for e in plan.entries]
    return "\n".join(lines) + "\n"


def _name(entry: PlannedEntry) -> str:
    track = entry.track
    return f"{track.artist} – {track.title}" if track.artist else track.title


def clock(seconds: float) -> str:
    """Hours, minutes and whole seconds, rounded down: 1:02:03 or 02:03."""
    whole = int(max(seconds, 0.0))
    hours, minutes, rest = whole // 3600, whole // 60 % 60, whole % 60
    return f"{hours}:{minutes:02}:{rest:02}" if hours else f"{minutes:02}:{rest:02}"
