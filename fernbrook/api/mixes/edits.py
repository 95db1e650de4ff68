"""Routes for proposals of edits."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.edits import FoldOut, LengthOut

router = APIRouter(prefix="/mixes/{mix_id}", tags=["edits"])

MOST_BARS = 256


@router.get("/entries/{entry_id}/folds")
def list_folds(
    services: ServicesDep,
    mix_id: str,
    entry_id: str,
    bars: Annotated[int, Query(ge=1, le=MOST_BARS)] = 8,
    longer: bool = False,
) -> list[FoldOut]:
    """Where an entry is made shorter, or longer, by so many bars so that it is least noticed; the best first."""
    return [FoldOut.of(p) for p in services.editing.folds(mix_id, entry_id, bars, longer)]


@router.get("/to-length")
def bring_to_length(
    services: ServicesDep, mix_id: str, seconds: Annotated[float, Query(gt=0.0, le=100_000.0)]
) -> LengthOut:
    """Cuts of whole phrases that bring a mix near a length, as one command that is not done yet."""
    return LengthOut.of(services.editing.to_length(mix_id, seconds))
