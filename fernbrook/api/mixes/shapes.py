"""Routes for shapes: those that come with the program, and those that were saved."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import Field

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.core.mix.transitions import READY, SavedShape, ShapeLabel
from fernbrook.service.mixes import KeptShape

router = APIRouter(prefix="/shapes", tags=["shapes"])

Name = Annotated[str, Field(min_length=1, max_length=60)]


class SavedOut(ApiModel):
    """A shape that was saved."""

    id: str
    shape: SavedShape

    @classmethod
    def of(cls, kept: KeptShape) -> SavedOut:
        """A saved shape as an answer."""
        return cls(id=kept.id, shape=kept.shape)


class ShapesOut(ApiModel):
    """All shapes there are."""

    ready: list[ShapeLabel]
    saved: list[SavedOut]


class NewShape(ApiModel):
    """The name for the shape of a transition, by its place in a mix."""

    name: Name
    mix_id: Annotated[str, Field(max_length=32)]
    transition: Annotated[int, Field(ge=0, le=1000)]


class Renamed(ApiModel):
    """Another name."""

    name: Name


@router.get("")
def list_shapes(services: ServicesDep) -> ShapesOut:
    """All shapes."""
    return ShapesOut(ready=list(READY.values()), saved=[SavedOut.of(k) for k in services.shapes.list()])


@router.post("", status_code=201)
def save_shape(services: ServicesDep, new: NewShape) -> SavedOut:
    """Save the shape of a transition under a name; one of the same name is replaced."""
    return SavedOut.of(services.shapes.save(new.name, new.mix_id, new.transition))


@router.put("/{shape_id}")
def rename_shape(services: ServicesDep, shape_id: str, renamed: Renamed) -> SavedOut:
    """Give a saved shape another name."""
    return SavedOut.of(services.shapes.rename(shape_id, renamed.name))


@router.delete("/{shape_id}", status_code=204)
def delete_shape(services: ServicesDep, shape_id: str) -> Response:
    """Forget a saved shape; transitions that were shaped by it stay as they are."""
    services.shapes.delete(shape_id)
    return Response(status_code=204)
