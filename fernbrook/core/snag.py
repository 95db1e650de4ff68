"""Snags: things to look at before rendering, each said in plain words."""

from __future__ import annotations

from enum import StrEnum

from fernbrook.core.track import TrackFacts
from fernbrook.core.transition import Kind, Transition
from fernbrook.core.value import Value

NOTICEABLE_STRETCH = 0.06


class SnagKind(StrEnum):
    """What sort of thing it is."""

    NO_GRID = "no_grid"
    TEMPO_LEAP = "tempo_leap"
    DOES_NOT_FIT = "does_not_fit"


class Snag(Value):
    """One thing to look at; ``transition`` or ``entry`` is the index that it belongs to."""

    kind: SnagKind
    message: str
    entry: int | None = None
    transition: int | None = None


def snags_of_entry(index: int, track: TrackFacts) -> list[Snag]:
    """What is doubtful about one entry."""
    if track.grid is not None:
        return []
    return [
        Snag(
            kind=SnagKind.NO_GRID,
            message=f"‘{track.title}’ has no beat grid yet: it is laid out at 120 BPM until the analysis has one.",
            entry=index,
        )
    ]


def snags_of_transition(
    index: int, asked: Transition, got: Transition, out_speed: float, in_speed: float
) -> list[Snag]:
    """What is doubtful about one transition: how far the tracks are bent, and whether it fits as it was shaped."""
    found: list[Snag] = []
    if got.kind is Kind.BLEND:
        for which, speed in (("outgoing", out_speed), ("incoming", in_speed)):
            if abs(speed - 1.0) > NOTICEABLE_STRETCH:
                way = "faster" if speed > 1 else "slower"
                found.append(
                    Snag(
                        kind=SnagKind.TEMPO_LEAP,
                        message=f"The {which} track plays up to {abs(speed - 1):.1%} {way} than its own tempo.",
                        transition=index,
                    )
                )
    if asked != got:
        found.append(
            Snag(
                kind=SnagKind.DOES_NOT_FIT,
                message="This transition no longer fits between its neighbours as it was set: it was made to fit.",
                transition=index,
            )
        )
    return found
