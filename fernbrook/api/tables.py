"""Routes for what is said once and followed by all: which controls there are, which kinds of files."""

from __future__ import annotations

from fastapi import APIRouter

from fernbrook.api.schemas.jobs import FormatOut, formats_out
from fernbrook.core.mix.control import CONTROLS, ControlSpec

router = APIRouter(tags=["tables"])


@router.get("/controls")
def list_controls() -> list[ControlSpec]:
    """The controls of a transition, in the order in which they are shown."""
    return list(CONTROLS.values())


@router.get("/formats")
def list_formats() -> list[FormatOut]:
    """The kinds of files that a mix can be rendered to, the default first."""
    return formats_out()
