"""The route for what Fernbrook is busy with of its own accord."""

from __future__ import annotations

from fastapi import APIRouter

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel

router = APIRouter(prefix="/under-way", tags=["under way"])


class UnderWayOut(ApiModel):
    """What is being done in words, how much of it is done from 0 to 1, and why it was given up if it was."""

    words: str
    share: float
    error: str | None


@router.get("")
def get_under_way(services: ServicesDep) -> UnderWayOut | None:
    """What is being done; nothing where one need wait for nothing."""
    now = services.under_way.now
    return UnderWayOut(words=now.words, share=now.share, error=now.error) if now else None
