"""Routes for hand-overs: those that come with the program, and those that were saved."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import Field

from fernbrook.api.access import ServicesDep
from fernbrook.api.schemas.shape import Shape
from fernbrook.core.mix.transitions import READY, ReadyHandOver, SavedHandOver
from fernbrook.service.hand_overs import KeptHandOver

router = APIRouter(prefix="/hand-overs", tags=["hand-overs"])

Name = Annotated[str, Field(min_length=1, max_length=60)]


class SavedOut(Shape):
    """A hand-over that was saved."""

    id: str
    hand_over: SavedHandOver

    @classmethod
    def of(cls, kept: KeptHandOver) -> SavedOut:
        """The shape of a saved hand-over."""
        return cls(id=kept.id, hand_over=kept.hand_over)


class HandOversOut(Shape):
    """All hand-overs there are."""

    ready: list[ReadyHandOver]
    saved: list[SavedOut]


class NewHandOver(Shape):
    """The name for the shape of a transition, by its place in a mix."""

    name: Name
    mix_id: Annotated[str, Field(max_length=32)]
    transition: Annotated[int, Field(ge=0, le=1000)]


class Renamed(Shape):
    """Another name."""

    name: Name


@router.get("")
def list_hand_overs(services: ServicesDep) -> HandOversOut:
    """All hand-overs."""
    return HandOversOut(ready=list(READY.values()), saved=[SavedOut.of(k) for k in services.hand_overs.list()])


@router.post("", status_code=201)
def save_hand_over(services: ServicesDep, new: NewHandOver) -> SavedOut:
    """Save the shape of a transition under a name; one of the same name is replaced."""
    return SavedOut.of(services.hand_overs.save(new.name, new.mix_id, new.transition))


@router.put("/{hand_over_id}")
def rename_hand_over(services: ServicesDep, hand_over_id: str, renamed: Renamed) -> SavedOut:
    """Give a saved hand-over another name."""
    return SavedOut.of(services.hand_overs.rename(hand_over_id, renamed.name))


@router.delete("/{hand_over_id}", status_code=204)
def delete_hand_over(services: ServicesDep, hand_over_id: str) -> Response:
    """Forget a saved hand-over; transitions that were shaped by it stay as they are."""
    services.hand_overs.delete(hand_over_id)
    return Response(status_code=204)
