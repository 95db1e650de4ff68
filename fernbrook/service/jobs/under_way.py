"""What Fernbrook is busy with of its own accord, for the page to show: in words, and how much of it is done."""

from __future__ import annotations

from dataclasses import dataclass

from fernbrook.service.ground import Events


@dataclass(frozen=True)
class Undertaking:
    """Something that takes a while. ``share`` is how much of it is done, 0 to 1; ``error`` says why it was given up."""

    words: str
    share: float
    error: str | None = None


class UnderWay:
    """At most one thing at a time; may be told from any thread."""

    def __init__(self, events: Events) -> None:
        self._events = events
        self.now: Undertaking | None = None

    def tell(self, words: str, share: float) -> None:
        """Say what is being done, and how far it is. Pages are told where it is by a hundredth further, or another."""
        before = self.now
        if before is None or before.words != words or share - before.share >= 0.01:
            self._is_now(Undertaking(words, share))

    def give_up(self, words: str, error: str) -> None:
        """Say why it was given up; that stays until the next start."""
        self._is_now(Undertaking(words, 1.0, error))

    def done(self) -> None:
        """There is nothing more to wait for."""
        self._is_now(None)

    def _is_now(self, now: Undertaking | None) -> None:
        self.now = now
        self._events.tell({"type": "under_way"})
