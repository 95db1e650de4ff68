"""Requests and answers: what is known of a track and changed by hand."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from fernbrook.api.schemas.api_model import ApiModel, Gesture
from fernbrook.core.mix.entries import Bpm
from fernbrook.core.track import AnyMarkupCommand, Facet, MarkFacet, Markup, SuggestedCue, SuggestedLoop
from fernbrook.core.value import Beat, Seconds
from fernbrook.service.importing import FacetRead
from fernbrook.service.tracks import Offsets, OpenTrack


class OnMarkup(ApiModel):
    """The version of the markup that a request was made on."""

    version: Annotated[int, Field(ge=0, le=2**53)]


class MarkupChange(OnMarkup):
    """A command on a track."""

    command: AnyMarkupCommand
    gesture: Gesture = None


class AtBeat(OnMarkup):
    """A beat of the track's grid, and the moment that is meant where its line does not lie there."""

    beat: Beat
    at_s: Seconds | None = None


class TempoRange(ApiModel):
    """The slowest and the fastest tempo that a beat may have."""

    low: Bpm
    high: Bpm

    @property
    def in_order(self) -> tuple[float, float]:
        """The slower first."""
        return min(self.low, self.high), max(self.low, self.high)


class MeasureFrom(AtBeat):
    """Where a new tempo begins, and within which range it is measured."""

    range: TempoRange | None = None


class Measure(OnMarkup):
    """Where and within which tempi to measure again; the whole track without a span."""

    range: TempoRange
    start_s: Seconds | None = None
    end_s: Seconds | None = None


class Follow(OnMarkup):
    """Over which beats to follow the player, and every how many beats to put an anchor; everywhere without a span."""

    every: int = Field(default=1, ge=1, le=64)
    from_beat: Beat | None = None
    to_beat: Beat | None = None


class Analysed(OnMarkup):
    """What to take from the analysis."""

    facet: Facet = Facet.GRID


class Taps(OnMarkup):
    """Moments of the audio that were tapped."""

    times_s: list[Seconds] = Field(min_length=4, max_length=2000)


class OpenTrackOut(ApiModel):
    """A track's markup as it stands. ``undo`` and ``redo`` say what they would do, or are None."""

    id: str
    version: int
    markup: Markup
    undo: str | None
    redo: str | None
    mean_bpm: float | None
    has_analysed: bool = Field(description="Whether there is an analysed grid to go back to.")
    second_key: str | None
    second_key_wheel: str | None
    key_confidence: float | None
    tuning_cents: float | None
    runner_up_bpm: float | None
    swing: float | None = Field(description="The first half of a beat against its second: 2 in a shuffle.")
    short_term_max_lufs: float | None
    suggested_gain_db: float | None
    first_bar: int
    energy: list[float]
    suggested_cues: list[SuggestedCue] = Field(description="Cues that are proposed beside those that there are.")
    suggested_loops: list[SuggestedLoop]

    @classmethod
    def of(cls, opened: OpenTrack) -> OpenTrackOut:
        """The answer for a track's markup."""
        found = opened.findings
        second = found.second_key
        return cls(
            id=opened.id,
            version=opened.version,
            markup=opened.markup,
            undo=opened.steps.undo,
            redo=opened.steps.redo,
            mean_bpm=opened.mean_bpm,
            has_analysed=found.has_grid,
            second_key=second.name if second else None,
            second_key_wheel=second.wheel if second else None,
            key_confidence=found.key_confidence,
            tuning_cents=found.tuning_cents,
            runner_up_bpm=found.runner_up_bpm,
            swing=found.swing,
            short_term_max_lufs=found.short_term_max_lufs,
            suggested_gain_db=found.suggested_gain_db,
            first_bar=found.first_bar,
            energy=list(found.energy),
            suggested_cues=list(opened.suggested_cues),
            suggested_loops=list(opened.suggested_loops),
        )


class OffsetsOut(ApiModel):
    """For each beat from ``first`` on: how many ms late its onsets are, and how clear they are, 0 where not heard."""

    first: int
    late_ms: list[float]
    clear: list[float]

    @classmethod
    def of(cls, offsets: Offsets) -> OffsetsOut:
        """The shape of what was measured, in milliseconds."""
        return cls(
            first=offsets.first,
            late_ms=[round(float(x) * 1000.0, 2) for x in offsets.late_s],
            clear=[round(float(x), 3) for x in offsets.clear],
        )


class FacetReadOut(ApiModel):
    """A part of what a file says: what the track has of it, what it would have, line by line."""

    facet: MarkFacet
    here: list[str]
    there: list[str]
    differs: bool

    @classmethod
    def of(cls, read: FacetRead) -> FacetReadOut:
        """The answer for a part."""
        return cls(facet=read.facet, here=list(read.here), there=list(read.there), differs=read.differs)
