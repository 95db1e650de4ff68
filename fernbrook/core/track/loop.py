"""Loops: spans of a track that can be repeated."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum

from pydantic import Field, field_validator

from fernbrook.core.value import Beat, Value

MOST_LOOPS = 200
SHORTEST = 0.25
MOST_BARS = 64
LONGEST = MOST_BARS * 12.0
"""64 bars of as many beats as a bar can have."""


class LoopKind(StrEnum):
    """What a loop repeats."""

    BEAT = "beat"
    BUILD = "build"
    OUTRO = "outro"
    PLAIN = "plain"


class Loop(Value):
    """A span of whole beats, or of a half or a quarter of one."""

    id: str = Field(min_length=1, max_length=32)
    start: Beat
    beats: float = Field(ge=SHORTEST, le=LONGEST)
    kind: LoopKind = LoopKind.PLAIN
    name: str = Field(default="", max_length=60)

    @field_validator("beats")
    @classmethod
    def _whole(cls, beats: float) -> float:
        if beats not in (0.25, 0.5) and beats != round(beats):
            raise ValueError(f"a loop lasts a quarter, a half, or whole beats, not {beats:g}")
        return beats

    @property
    def end(self) -> float:
        """The beat at which it begins again."""
        return self.start + self.beats


def with_loops(loops: Sequence[Loop], put: Iterable[Loop]) -> tuple[Loop, ...]:
    """Loops with some put in or replaced by id, in order of time."""
    kept = {loop.id: loop for loop in loops} | {loop.id: loop for loop in put}
    return tuple(sorted(kept.values(), key=lambda loop: (loop.start, loop.beats, loop.id)))


def without_loops(loops: Sequence[Loop], ids: Iterable[str]) -> tuple[Loop, ...]:
    """Loops without some of them."""
    gone = set(ids)
    return tuple(loop for loop in loops if loop.id not in gone)


def nearest_length(beats: float) -> float:
    """The length that a loop can have which is nearest to so many beats.

    >>> nearest_length(0.1), nearest_length(0.6), nearest_length(7.9)
    (0.25, 0.5, 8.0)
    """
    if beats < 0.75:
        return 0.25 if beats < 0.375 else 0.5
    return float(min(max(1, round(beats)), LONGEST))
