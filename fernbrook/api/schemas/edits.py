"""Requests and answers: edits and of proposals for them."""

from __future__ import annotations

import math

from pydantic import Field

from fernbrook.api.schemas.api_model import ApiModel, rounded
from fernbrook.core.mix.commands import EditEntries
from fernbrook.core.mix.entries import Arrangement
from fernbrook.core.plan import PlannedEntry
from fernbrook.core.track import Edit, Stem
from fernbrook.service.mixes import FoldProposal, LengthProposal


class PieceOut(ApiModel):
    """A span of an entry, in its beats as played, from where it is None from its start or to its end; beat 0 of the
    track's grid would lie on beat ``shift``."""

    start: float | None
    end: float | None
    shift: float

    @classmethod
    def all_of(cls, heard: Arrangement) -> list[PieceOut]:
        """The pieces of an entry; none where it is heard as recorded."""
        if heard.is_whole:
            return []
        return [cls(start=_finite(p.start), end=_finite(p.end), shift=rounded(p.played.shift)) for p in heard.pieces]


class SilentOut(ApiModel):
    """A span of an entry in which some stems are silent, or all of it where none is named."""

    start: float
    end: float
    stems: list[Stem]

    @classmethod
    def all_of(cls, heard: Arrangement) -> list[SilentOut]:
        """What is dropped of an entry."""
        return [cls(start=rounded(g.start), end=rounded(g.end), stems=list(g.stems)) for g in heard.dropped]


class EditedOut(ApiModel):
    """The edits of an entry, and what is heard of its track by them."""

    edits: list[Edit]
    as_recorded: bool = Field(description="Whether all of them wait.")
    pieces: list[PieceOut] = Field(description="What is heard of the track; none where that is all, as recorded.")
    dropped: list[SilentOut]
    natural_end: float | None = Field(description="Where it would end without a repeat to the end of the overlap.")

    @classmethod
    def of(cls, planned: PlannedEntry) -> EditedOut | None:
        """The answer for an entry's edits; None where there are none."""
        heard = planned.heard
        if not planned.entry.edits:
            return None
        return cls(
            edits=list(planned.entry.edits),
            as_recorded=planned.entry.as_recorded,
            pieces=PieceOut.all_of(heard),
            dropped=SilentOut.all_of(heard),
            natural_end=_finite(heard.natural_end),
        )


class FoldOut(ApiModel):
    """A place where an entry can be made shorter or longer; bars are those of the track, the first is 0."""

    start_bar: int
    end_bar: int
    likeness: float = Field(description="How alike both sides are, from 0 to 1.")
    seconds: float = Field(description="How much longer the mix becomes; shorter below 0.")
    words: str
    command: EditEntries

    @classmethod
    def of(cls, proposal: FoldProposal) -> FoldOut:
        """The answer for a proposal."""
        return cls(
            start_bar=proposal.fold.start,
            end_bar=proposal.fold.end,
            likeness=round(proposal.fold.likeness, 3),
            seconds=rounded(proposal.seconds),
            words=proposal.words,
            command=proposal.command,
        )


class LengthOut(ApiModel):
    """What would bring a mix to a length: how long it would be, and how alike the sides of the worst cut are."""

    duration_s: float
    cuts: int
    likeness: float
    command: EditEntries | None

    @classmethod
    def of(cls, proposal: LengthProposal) -> LengthOut:
        """The answer for a proposal."""
        return cls(
            duration_s=rounded(proposal.duration_s),
            cuts=proposal.cuts,
            likeness=round(proposal.likeness, 3),
            command=proposal.command,
        )


def _finite(beat: float) -> float | None:
    return None if math.isinf(beat) else rounded(beat)
