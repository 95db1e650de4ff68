"""Requests and answers: orders that are found, and of what bridges a jump."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.api.schemas.transitions import StepOut
from fernbrook.core.mix.commands import AnyMixCommand, Seat
from fernbrook.core.ordering import (
    Aim,
    Appraisal,
    Bridge,
    Candidate,
    Cure,
    CureKind,
    Proposal,
    Wishes,
    key_walk,
    step_between,
)
from fernbrook.service.mixes import Jump, Search


class ShapePoint(ApiModel):
    """A point of a ready-made shape: a place in a mix, and how much energy is wished there, both from 0 to 1."""

    at: float
    level: float


class LibrarySearch(ApiModel):
    """The tracks of the library that may come in: those that a search means, of a list where one is named."""

    search: Annotated[str, Field(max_length=2000)] = ""
    list_id: Annotated[str | None, Field(max_length=32)] = None


class NewSearch(ApiModel):
    """What is wished of an order, and from where tracks may come in; None for those of the mix alone."""

    wishes: Wishes = Wishes()
    library: LibrarySearch | None = None


class SeatOut(ApiModel):
    """A track at its place in an order, and the step from the one before it."""

    seat: Seat
    track_id: str
    title: str
    artist: str
    bpm: float | None
    key: str | None
    walk: int | None
    energy: float | None
    is_new: bool = Field(description="Whether it comes in from the library.")
    step: StepOut | None


class ProposalOut(ApiModel):
    """An order, what it is good at, what is left out, and how it weighs."""

    aims: list[Aim]
    seats: list[SeatOut]
    left_out: list[str] = Field(description="Titles.")
    appraisal: Appraisal
    gap: float | None = Field(description="By which share it may cost more than the best possible for its aim.")

    @classmethod
    def of(cls, proposal: Proposal) -> ProposalOut:
        """The answer for a proposal."""
        walk = key_walk([c.key for c in proposal.seats])
        before: list[Candidate | None] = [None, *proposal.seats[:-1]]
        return cls(
            aims=list(proposal.aims),
            seats=[_seat(c, at, last) for c, at, last in zip(proposal.seats, walk, before, strict=True)],
            left_out=[c.title for c in proposal.left_out],
            appraisal=proposal.appraisal,
            gap=proposal.gap,
        )


def _seat(candidate: Candidate, walk: int | None, before: Candidate | None) -> SeatOut:
    is_new = candidate.entry_id is None
    return SeatOut(
        seat=Seat(
            entry_id=candidate.entry_id,
            track_id=candidate.track_id if is_new else None,
            count=candidate.count if candidate.count in (0.5, 1.0, 2.0) else None,
            key_shift=candidate.key_shift,
        ),
        track_id=candidate.track_id,
        title=candidate.title,
        artist=candidate.artist,
        bpm=candidate.bpm,
        key=candidate.key.name if candidate.key else None,
        walk=walk,
        energy=candidate.energy,
        is_new=is_new,
        step=StepOut.of(step_between(before, candidate)) if before else None,
    )


class SearchOut(ApiModel):
    """A search for orders: how far it is, or what was found."""

    job: JobOut
    wishes: Wishes
    present: ProposalOut | None
    proposals: list[ProposalOut]
    is_current: bool = Field(description="Whether the mix still has the entries that it had then.")

    @classmethod
    def of(cls, search: Search) -> SearchOut:
        """The answer for a search."""
        found = search.proposed
        return cls(
            job=JobOut.of(search.job),
            wishes=search.wishes,
            present=ProposalOut.of(found.present) if found else None,
            proposals=[ProposalOut.of(p) for p in found.proposals] if found else [],
            is_current=search.is_current,
        )


class BridgeOut(ApiModel):
    """A track for a jump, and the steps to it and from it."""

    track_id: str
    before: StepOut
    after: StepOut
    cost: float

    @classmethod
    def of(cls, bridge: Bridge) -> BridgeOut:
        """The answer for a bridge."""
        return cls(
            track_id=bridge.track_id,
            before=StepOut.of(bridge.before),
            after=StepOut.of(bridge.after),
            cost=bridge.cost,
        )


class CureOut(ApiModel):
    """What makes a jump smaller without another track: a command, and what it does in words."""

    kind: CureKind
    words: str
    command: AnyMixCommand

    @classmethod
    def of(cls, cure: Cure) -> CureOut:
        """The answer for a cure."""
        return cls(kind=cure.kind, words=cure.words, command=cure.command)


class JumpOut(ApiModel):
    """What could be done about a jump."""

    cost: float
    cures: list[CureOut]
    bridges: list[BridgeOut]

    @classmethod
    def of(cls, jump: Jump) -> JumpOut:
        """The answer for a jump."""
        return cls(
            cost=jump.cost, cures=[CureOut.of(c) for c in jump.cures], bridges=[BridgeOut.of(b) for b in jump.bridges]
        )
