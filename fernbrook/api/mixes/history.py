"""Routes for the history of a mix: what was done, to be looked at, heard, named and gone back to."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Path, Response
from pydantic import Field

from fernbrook.api.frame import ServicesDep
from fernbrook.api.mixes.answers import Changed, changed
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.mixes import OnVersion, TrialOut
from fernbrook.service.mixes import HistoryStep

router = APIRouter(prefix="/mixes/{mix_id}/history", tags=["history"])

StepId = Annotated[int, Path(ge=1, le=2**53)]


class HistoryStepOut(ApiModel):
    """A state in the history of a mix. One that is not ``in_line`` lies on a way that was left."""

    id: int
    label: str
    name: str
    at: datetime
    is_here: bool
    in_line: bool

    @classmethod
    def of(cls, step: HistoryStep) -> HistoryStepOut:
        """The answer for a state in the history."""
        return cls(**{name: getattr(step, name) for name in cls.model_fields})


class StepName(ApiModel):
    """The name of a point in the history; empty for none."""

    name: Annotated[str, Field(max_length=80)]


@router.get("")
def list_history(services: ServicesDep, mix_id: str) -> list[HistoryStepOut]:
    """The states of a mix that were made last, and all that have a name; the newest first."""
    return [HistoryStepOut.of(step) for step in services.mixes.history(mix_id)]


@router.post("/{step}/go", response_model=Changed)
def go_to_step(services: ServicesDep, mix_id: str, step: StepId, on: OnVersion) -> Response:
    """Make a state of the history the one that counts; all others stay."""
    return changed(services.mixes.go_to(mix_id, on.version, step), on.have)


@router.put("/{step}/name", status_code=204)
def name_step(services: ServicesDep, mix_id: str, step: StepId, given: StepName) -> Response:
    """Give a state of the history a name."""
    services.mixes.name_step(mix_id, step, given.name)
    return Response(status_code=204)


@router.post("/{step}/trial", status_code=201)
def try_step(services: ServicesDep, mix_id: str, step: StepId) -> TrialOut:
    """Have a state of the history ready to be heard, without going there."""
    return TrialOut.of(services.mixes.try_step(mix_id, step))
