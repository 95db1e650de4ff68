"""A small number at a time, the newest first, and whoever has waited too long behind newer ones is sent away."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Condition

from fernbrook.errors import RefusedError


class OvertakenError(RefusedError):
    """Newer requests have taken the place of this one."""


class Turns:
    """Lets ``at_once`` callers in at a time.

    When there is room, the newest waiting goes in. No more than ``waiting`` wait: each one more sends the oldest away.
    """

    def __init__(self, at_once: int, waiting: int = 8) -> None:
        self._free = at_once
        self._most = waiting
        self._waiting: list[object] = []
        self._changed = Condition()

    @contextmanager
    def turn(self) -> Iterator[None]:
        """Wait for a turn and hold it for the block.

        Raises
        ------
        OvertakenError
            When too many newer callers came before it was this one's turn.
        """
        self._enter()
        try:
            yield
        finally:
            with self._changed:
                self._free += 1
                self._changed.notify_all()

    def _enter(self) -> None:
        me = object()
        with self._changed:
            self._waiting.append(me)
            if len(self._waiting) > self._most:
                self._waiting.pop(0)
            self._changed.notify_all()
            self._changed.wait_for(lambda: me not in self._waiting or (self._free > 0 and self._waiting[-1] is me))
            if me not in self._waiting:
                raise OvertakenError("So much else was to be heard at once that this was left out. Play it again.")
            self._waiting.remove(me)
            self._free -= 1
            self._changed.notify_all()
