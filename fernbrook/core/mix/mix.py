"""A mix: tracks in order, and what was decided about how they meet."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from fernbrook.core.mix.entry import Entry
from fernbrook.core.mix.transition import Transition
from fernbrook.core.value import Value

DEFAULT_TARGET_LUFS = -14.0
DEFAULT_LIMITING_DB = 2.0
MAX_ENTRIES = 500


class Loudness(StrEnum):
    """What makes tracks equally loud: all of each, the loudest three seconds of each, or the peak of each."""

    INTEGRATED = "integrated"
    LOUDEST = "loudest"
    PEAK = "peak"


class Mix(Value):
    """The running order and the transitions that were shaped by hand.

    ``transitions`` keeps one for each pair of entries that was ever shaped while they were neighbours; those that
    are no neighbours now wait in case they become so again. ``target_lufs`` None leaves all as loud as they are;
    ``limiting_db`` is how much the limiter may take off the peaks of a track so that it reaches the target.
    """

    name: str = Field(min_length=1, max_length=200)
    entries: tuple[Entry, ...] = Field(default=(), max_length=MAX_ENTRIES)
    transitions: tuple[Transition, ...] = ()
    target_lufs: float | None = Field(default=DEFAULT_TARGET_LUFS, ge=-40.0, le=0.0)
    loudness: Loudness = Loudness.INTEGRATED
    limiting_db: float = Field(default=DEFAULT_LIMITING_DB, ge=0.0, le=12.0)
    next_entry: int = 1

    def index_of(self, entry_id: str) -> int | None:
        """The place of an entry in the order, or None."""
        return next((i for i, e in enumerate(self.entries) if e.id == entry_id), None)

    def shaped(self) -> dict[tuple[str, str], Transition]:
        """The transitions that were shaped by hand, by the pair of entries that meet."""
        return {t.pair: t for t in self.transitions}

    def with_transition(self, transition: Transition) -> Mix:
        """The mix with the transition of one pair put in or replaced."""
        others = tuple(t for t in self.transitions if t.pair != transition.pair)
        return self.model_copy(update={"transitions": (*others, transition)})
