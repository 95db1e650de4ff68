"""Answers: what a change made of a mix, told against the answer that the page has."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Generic, TypeVar

from pydantic import Field

from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.layers import LayerOut
from fernbrook.api.schemas.mixes import ClockOut, EntryOut, MixHead, MixOut, PlanOut
from fernbrook.api.schemas.transitions import TransitionOut
from fernbrook.core.mix.transitions import Manner, SideCurves
from fernbrook.core.plan import MixWarning

T = TypeVar("T")


class ListChange(ApiModel, Generic[T]):
    """A list by what is otherwise in it: how long it is, and what stands at which places. The others are as before."""

    length: int
    at: list[int]
    items: list[T]

    @classmethod
    def of(cls, before: Sequence[T], after: Sequence[T]) -> ListChange[T]:
        """The change from one list to another."""
        at = [i for i, item in enumerate(after) if i >= len(before) or not _is_same(before[i], item)]
        return cls.model_construct(length=len(after), at=at, items=[after[i] for i in at])


class PlanChange(ApiModel):
    """A plan by what is otherwise in its lists."""

    rate: int
    frames: int
    duration_s: float
    clocks: ListChange[ClockOut]
    entries: ListChange[EntryOut]
    transitions: ListChange[TransitionOut]
    sides: ListChange[SideCurves]
    manners: ListChange[Manner]
    layers: ListChange[LayerOut]
    warnings: ListChange[MixWarning]

    @classmethod
    def of(cls, before: PlanOut, after: PlanOut) -> PlanChange:
        """The change from one plan to another."""
        told = {}
        for name, field in cls.model_fields.items():
            was, is_now = getattr(before, name), getattr(after, name)
            listed = isinstance(field.annotation, type) and issubclass(field.annotation, ListChange)
            told[name] = field.annotation.of(was, is_now) if listed and field.annotation else is_now
        return cls.model_construct(**told)


class MixChange(MixHead):
    """A mix after a change, told against the answer whose tag is ``since``."""

    since: str = Field(description="The tag of the answer that this is told against.")
    plan: PlanChange

    @classmethod
    def of(cls, before: MixOut, after: MixOut) -> MixChange:
        """The change from one answer to another."""
        head = {name: getattr(after, name) for name in MixHead.model_fields}
        return cls.model_construct(**head, since=before.tag, plan=PlanChange.of(before.plan, after.plan))


def _is_same(before: object, after: object) -> bool:
    return before is after or before == after
