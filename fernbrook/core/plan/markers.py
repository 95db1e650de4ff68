"""What is worth a marker in a mix: where each entry comes in, takes over and goes, and the cues of its track."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from fernbrook.core.mix.transitions import Kind
from fernbrook.core.plan.listing import hand_over_s
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.planned import PlannedEntry
from fernbrook.core.track import Cue


class MarkerKind(StrEnum):
    """What lies there."""

    COMES_IN = "comes in"
    TAKES_OVER = "takes over"
    GONE = "gone"
    CUE = "cue"


@dataclass(frozen=True)
class Marker:
    """A moment of the mix, in seconds, and what it is called."""

    at_s: float
    kind: MarkerKind
    title: str
    cue: str = ""

    @property
    def name(self) -> str:
        """All of it in words."""
        return f"{self.title}: {self.cue or self.kind}"


def markers(plan: Plan) -> list[Marker]:
    """The markers of a mix, in order of time."""
    found = [m for e in plan.entries for m in _of_entry(e, plan)]
    return sorted((m for m in found if 0.0 <= m.at_s <= plan.duration_s), key=lambda m: m.at_s)


def _of_entry(entry: PlannedEntry, plan: Plan) -> Iterator[Marker]:
    title = entry.track.title
    yield Marker(max(entry.start_s, 0.0), MarkerKind.COMES_IN, title)
    if entry.arrival is not None and entry.arrival.transition.kind in (Kind.BLEND, Kind.FADE):
        yield Marker(hand_over_s(entry.arrival, plan), MarkerKind.TAKES_OVER, title)
    if entry.departure is not None:
        yield Marker(entry.end_s, MarkerKind.GONE, title)
    for cue in entry.track.cues:
        for beat in entry.heard.places_of(cue.at):
            at_s = float(entry.tempo.time_at(beat + entry.offset))
            if entry.start_s <= at_s <= entry.end_s:
                yield Marker(at_s, MarkerKind.CUE, title, _called(cue))


def _called(cue: Cue) -> str:
    return cue.name or cue.role.value.replace("_", " ")
