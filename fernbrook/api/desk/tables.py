"""Routes for what is said once and followed by all: which controls, kinds of files and shapes there are."""

from __future__ import annotations

from fastapi import APIRouter

from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import FormatOut, formats_out
from fernbrook.api.schemas.orders import ShapePoint
from fernbrook.core.mix.curves import CONTROLS, ControlSpec
from fernbrook.core.mix.layers import MADE_SOUNDS, MadeSpec
from fernbrook.core.ordering import READY, EnergyShape
from fernbrook.formats.track_list import LABELS, ListFormat

router = APIRouter(tags=["tables"])


class ListFormOut(ApiModel):
    """A form of a track list, and what it is called."""

    form: ListFormat
    label: str


@router.get("/controls")
def list_controls() -> list[ControlSpec]:
    """The controls of a transition, in the order in which they are shown."""
    return list(CONTROLS.values())


@router.get("/formats")
def list_formats() -> list[FormatOut]:
    """The kinds of files that a mix can be rendered to, the default first."""
    return formats_out()


@router.get("/made-sounds")
def list_made_sounds() -> list[MadeSpec]:
    """The sounds that can be made for layers, in the order in which they are offered."""
    return list(MADE_SOUNDS.values())


@router.get("/list-forms")
def list_list_forms() -> list[ListFormOut]:
    """The forms that a track list can have."""
    return [ListFormOut(form=form, label=label) for form, label in LABELS.items()]


@router.get("/energy-shapes")
def list_energy_shapes() -> dict[EnergyShape, list[ShapePoint]]:
    """The ready-made shapes of energy."""
    return {shape: [ShapePoint(at=at, level=level) for at, level in points] for shape, points in READY.items()}
