"""News for open pages, as server-sent events."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator

from fastapi import APIRouter
from sse_starlette import EventSourceResponse, ServerSentEvent

from fernbrook.api.frame import ServicesDep

router = APIRouter(tags=["news"])


@router.get("/news", response_class=EventSourceResponse)
async def news(services: ServicesDep) -> EventSourceResponse:
    """What changes, as it changes: a JSON object with a type for each event."""

    async def events() -> AsyncIterator[ServerSentEvent]:
        yield ServerSentEvent(json.dumps({"type": "hello"}))
        async for event in services.events.listen():
            yield ServerSentEvent(json.dumps(event))

    return EventSourceResponse(events(), ping=15)
