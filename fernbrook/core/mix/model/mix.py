"""A mix: tracks in order, and what was decided about how they meet."""

from __future__ import annotations

from collections.abc import Collection
from enum import StrEnum
from typing import Annotated

from pydantic import Field

from fernbrook.core.mix.curves import Onward
from fernbrook.core.mix.entries import Bpm, Entry
from fernbrook.core.mix.layers import Layer, OfTrack
from fernbrook.core.mix.transitions import LONGEST_FADE_S, ReadyShape, SavedShape, Take, Transition
from fernbrook.core.value import Beat, Value

DEFAULT_TARGET_LUFS = -14.0
DEFAULT_LIMITING_DB = 2.0
MAX_ENTRIES = 500


class Loudness(StrEnum):
    """What makes tracks equally loud: all of each, the loudest three seconds of each, or the peak of each."""

    INTEGRATED = "integrated"
    LOUDEST = "loudest"
    PEAK = "peak"


class Crossovers(Value):
    """Where the three bands of the mix's equaliser meet, in Hz."""

    low_hz: float = Field(default=250.0, ge=120.0, le=800.0)
    high_hz: float = Field(default=2500.0, ge=1200.0, le=8000.0)


class TempoMark(Value):
    """A tempo set by hand at a beat of an entry, and how it goes on to the next mark."""

    entry_id: str = Field(max_length=32)
    beat: Beat
    bpm: Bpm
    onward: Onward = Onward.STRAIGHT


class Fading(Value):
    """Every transition that nobody has shaped is a fade of so many seconds."""

    seconds: float = Field(gt=0.0, le=LONGEST_FADE_S)


Untouched = ReadyShape | SavedShape | Fading
"""What a transition is that nobody has shaped: a ready-made shape, a saved one, or a fade."""


class Mix(Value):
    """The running order and the transitions that were shaped by hand.

    ``transitions`` keeps one for each pair of entries that was ever shaped while they were neighbours; those that
    are no neighbours now wait in case they become so again. ``target_lufs`` None leaves all as loud as they are;
    ``limiting_db`` is how much the limiter may take off the peaks of a track so that it reaches the target.
    ``takes`` are versions of transitions that were kept; ``tempo_marks`` override the tempo between the first and the
    last of them. ``layers`` are sounds that are laid over it; one waits while what it is tied to is not in the mix.
    ``meant`` are the keys of warnings that somebody has looked at and wants as they are. ``kept`` are the pairs whose
    transition nobody shaped, and which stayed where it was when the rules of placing changed (``kept_places.py``).
    """

    name: str = Field(min_length=1, max_length=200)
    entries: tuple[Entry, ...] = Field(default=(), max_length=MAX_ENTRIES)
    transitions: tuple[Transition, ...] = ()
    target_lufs: float | None = Field(default=DEFAULT_TARGET_LUFS, ge=-40.0, le=0.0)
    loudness: Loudness = Loudness.INTEGRATED
    limiting_db: float = Field(default=DEFAULT_LIMITING_DB, ge=0.0, le=12.0)
    crossovers: Crossovers = Crossovers()
    untouched: Untouched = ReadyShape.BASS
    tempo_marks: tuple[TempoMark, ...] = Field(default=(), max_length=1000)
    takes: tuple[Take, ...] = ()
    layers: tuple[Layer, ...] = ()
    meant: tuple[Annotated[str, Field(max_length=100)], ...] = Field(default=(), max_length=5000)
    next_entry: int = 1
    kept: tuple[tuple[str, str], ...] = ()

    @property
    def track_ids(self) -> frozenset[str]:
        """All tracks that it uses: of its entries and of its layers."""
        layered = (x.sound.track_id for x in self.layers if isinstance(x.sound, OfTrack))
        return frozenset((*(e.track_id for e in self.entries), *layered))

    def index_of(self, entry_id: str) -> int | None:
        """The place of an entry in the order, or None."""
        return next((i for i, e in enumerate(self.entries) if e.id == entry_id), None)

    def shaped(self) -> dict[tuple[str, str], Transition]:
        """The transitions that were shaped by hand, by the pair of entries that meet."""
        return {t.pair: t for t in self.transitions}

    def takes_of(self, pair: tuple[str, str]) -> tuple[Take, ...]:
        """The versions kept of the transition between two entries, in the order in which they were kept."""
        return tuple(t for t in self.takes if t.transition.pair == pair)

    def with_transition(self, transition: Transition) -> Mix:
        """The mix with the transition of one pair put in or replaced."""
        others = tuple(t for t in self.transitions if t.pair != transition.pair)
        kept = tuple(pair for pair in self.kept if pair != transition.pair)
        return self.model_copy(update={"transitions": (*others, transition), "kept": kept})

    def without_transitions(self, pairs: Collection[tuple[str, str]]) -> Mix:
        """The mix with those of some pairs as if nobody had shaped them."""
        others = tuple(t for t in self.transitions if t.pair not in pairs)
        return self.model_copy(update={"transitions": others, "kept": tuple(p for p in self.kept if p not in pairs)})
