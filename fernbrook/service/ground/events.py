"""News for open pages: what changed, so that they look again."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from threading import Lock
from typing import Any

Event = dict[str, Any]
WAITING_MOST = 1000


class Events:
    """Hands each event to everyone who listens; may be told from any thread."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._listeners: dict[asyncio.Queue[Event | None], asyncio.AbstractEventLoop] = {}

    def tell(self, event: Event) -> None:
        """Pass on an event, from any thread."""
        self._send(event)

    def close(self) -> None:
        """End all listening, so that a server can stop."""
        self._send(None)

    async def listen(self) -> AsyncIterator[Event]:
        """All events from now on."""
        queue: asyncio.Queue[Event | None] = asyncio.Queue(WAITING_MOST)
        with self._lock:
            self._listeners[queue] = asyncio.get_running_loop()
        try:
            while (event := await queue.get()) is not None:
                yield event
        finally:
            with self._lock:
                self._listeners.pop(queue, None)

    def _send(self, event: Event | None) -> None:
        with self._lock:
            for queue, loop in self._listeners.items():
                loop.call_soon_threadsafe(_put, queue, event)


def _put(queue: asyncio.Queue[Event | None], event: Event | None) -> None:
    """Add an event; a page that has not read a thousand of them loses the oldest and will catch up by asking."""
    if queue.full():
        queue.get_nowait()
    queue.put_nowait(event)
