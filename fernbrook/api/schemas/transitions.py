"""Requests and answers: transitions in their places."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Generic, TypeVar

from pydantic import BaseModel, Field

from fernbrook.api.schemas.api_model import ApiModel, rounded
from fernbrook.core.mix.placing import Proposal
from fernbrook.core.mix.transitions import Manner, Side, SideCurves, Take, Transition, handed_over_at, manner_of
from fernbrook.core.ordering import Step
from fernbrook.core.plan import PlannedSide, PlannedTransition
from fernbrook.core.remembered import remembered
from fernbrook.core.track import Relation

T = TypeVar("T", bound=BaseModel)


class RoomOut(ApiModel):
    """The spans, in beats of the two entries, within which the overlap must stay."""

    out_from: float
    out_to: float
    in_from: float
    in_to: float


class Places(Generic[T]):
    """Values, each once, and the places that they have."""

    def __init__(self) -> None:
        self.values: list[T] = []
        self._places: dict[str, int] = {}

    def place_of(self, value: T) -> int:
        """Where a value is, or one that is the same."""
        alike = _alike(value)
        if alike not in self._places:
            self._places[alike] = len(self.values)
            self.values.append(value)
        return self._places[alike]


@remembered
def _alike(value: BaseModel) -> str:
    return value.model_dump_json()


class ShapedOut(ApiModel):
    """A transition as it fits. ``outgoing`` and ``incoming`` are places in the plan's ``sides``, ``manner`` is one in
    its ``manners``."""

    out_id: str
    in_id: str
    out_at: float
    in_at: float
    beats: float
    nudge_ms: float
    manner: int
    outgoing: int
    incoming: int

    @classmethod
    def of(cls, transition: Transition, sides: Places[SideCurves], manners: Places[Manner]) -> ShapedOut:
        """The answer for a transition."""
        outgoing, incoming, manner = _faces_of(transition)
        return _shaped_out(transition, sides.place_of(outgoing), sides.place_of(incoming), manners.place_of(manner))


@remembered
def _shaped_out(transition: Transition, outgoing: int, incoming: int, manner: int) -> ShapedOut:
    decided = {n: getattr(transition, n) for n in ("out_id", "in_id", "out_at", "in_at", "beats", "nudge_ms")}
    return ShapedOut(**decided, outgoing=outgoing, incoming=incoming, manner=manner)


@remembered
def _faces_of(transition: Transition) -> tuple[SideCurves, SideCurves, Manner]:
    """The curves of both sides of a transition, and its manner; the same objects again for the same transition."""
    return transition.curves(Side.OUTGOING), transition.curves(Side.INCOMING), manner_of(transition)


class StepOut(ApiModel):
    """What lies between two neighbours, in numbers and words."""

    bend: float | None = Field(description="By which share the incoming must play faster to ride at the same tempo.")
    relation: Relation | None
    shift: int = Field(description="The semitones after which the incoming's key would fit.")
    pairing: str | None = Field(description="The note of a saved pairing of the two; empty where it has none.")
    is_leap: bool = Field(description="Whether the tempo is out of reach, however it is counted.")
    tempo_words: str
    key_words: str
    energy_words: str

    @classmethod
    def of(cls, step: Step) -> StepOut:
        """The answer for a step."""
        shown = {name: getattr(step, name) for name in cls.model_fields}
        return cls(**shown | {"bend": None if step.bend is None else round(step.bend, 5)})


class SpanOut(ApiModel):
    """Where the curves of one side of a transition run, by the clock of its entry; what it leaves out lies from
    ``gap_start_s`` to ``gap_end_s``."""

    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    gap_start_s: float | None
    gap_end_s: float | None

    @classmethod
    def of(cls, side: PlannedSide, planned: PlannedTransition) -> SpanOut | None:
        """The answer for a side; None where it runs over just the transition and leaves nothing out."""
        left_out = side.silence
        if left_out is None and (side.start_beat, side.end_beat) == (planned.start_beat, planned.end_beat):
            return None
        return cls(
            start_beat=rounded(side.start_beat),
            end_beat=rounded(side.end_beat),
            start_s=rounded(side.start_s),
            end_s=rounded(side.end_s),
            gap_start_s=None if left_out is None else rounded(left_out.start_s),
            gap_end_s=None if left_out is None else rounded(left_out.end_s),
        )


class TakeOut(ApiModel):
    """A version of a transition that was kept. ``is_this`` tells whether the transition is as it was then."""

    number: int
    name: str
    note: str
    is_this: bool


class TransitionOut(ApiModel):
    """A transition in its place."""

    index: int
    step: StepOut
    transition: ShapedOut
    room: RoomOut
    shaped: bool
    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    hand_over_beat: float = Field(description="The beat of the mix on which the incoming takes over.")
    out_span: SpanOut | None = Field(description="None where it is the span of the transition.")
    in_span: SpanOut | None = Field(description="None where it is the span of the transition.")
    takes: list[TakeOut]

    @classmethod
    def of(
        cls,
        planned: PlannedTransition,
        step: Step,
        takes: Sequence[Take],
        sides: Places[SideCurves],
        manners: Places[Manner],
    ) -> TransitionOut:
        """The answer for a transition in its place."""
        return _transition_out(planned, step, tuple(takes), ShapedOut.of(planned.transition, sides, manners))


@remembered
def _transition_out(
    planned: PlannedTransition, step: Step, takes: tuple[Take, ...], shaped: ShapedOut
) -> TransitionOut:
    room = planned.room
    return TransitionOut(
        index=planned.index,
        step=StepOut.of(step),
        transition=shaped,
        room=RoomOut(
            out_from=rounded(room.out_from),
            out_to=rounded(room.out_to),
            in_from=rounded(room.in_from),
            in_to=rounded(room.in_to),
        ),
        shaped=planned.shaped,
        start_beat=rounded(planned.start_beat),
        end_beat=rounded(planned.end_beat),
        start_s=rounded(planned.start_s),
        end_s=rounded(planned.end_s),
        hand_over_beat=rounded(planned.start_beat + handed_over_at(planned.transition)),
        out_span=SpanOut.of(planned.outgoing, planned),
        in_span=SpanOut.of(planned.incoming, planned),
        takes=[
            TakeOut(number=t.number, name=t.name, note=t.note, is_this=t.transition == planned.transition)
            for t in takes
        ],
    )


class PlacingOut(ApiModel):
    """A place where a transition could lie, in beats of both entries, and why."""

    out_at: float
    in_at: float
    beats: float
    reasons: list[str]
    is_this: bool = Field(description="Whether the transition lies there.")

    @classmethod
    def of(cls, proposal: Proposal, planned: PlannedTransition) -> PlacingOut:
        """The answer for a proposal for a transition."""
        t = planned.transition
        return cls(
            out_at=proposal.out_at,
            in_at=proposal.in_at,
            beats=proposal.beats,
            reasons=list(proposal.reasons),
            is_this=(t.out_at, t.in_at, t.beats) == (proposal.out_at, proposal.in_at, proposal.beats),
        )
