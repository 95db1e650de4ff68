"""Routes for what is said once and followed by all: which controls, kinds of files and shapes there are."""

from __future__ import annotations

from fastapi import APIRouter

from fernbrook.api.schemas.jobs import FormatOut, formats_out
from fernbrook.api.schemas.orders import ShapePoint
from fernbrook.core.mix.control import CONTROLS, ControlSpec
from fernbrook.core.ordering.wishes import READY, Shape

router = APIRouter(tags=["tables"])


@router.get("/controls")
def list_controls() -> list[ControlSpec]:
    """The controls of a transition, in the order in which they are shown."""
    return list(CONTROLS.values())


@router.get("/formats")
def list_formats() -> list[FormatOut]:
    """The kinds of files that a mix can be rendered to, the default first."""
    return formats_out()


@router.get("/shapes")
def list_shapes() -> dict[Shape, list[ShapePoint]]:
    """The ready-made shapes of energy."""
    return {shape: [ShapePoint(at=at, level=level) for at, level in points] for shape, points in READY.items()}
