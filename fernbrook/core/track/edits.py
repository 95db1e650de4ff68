"""Edits of an entry: what is left out, repeated, put elsewhere or kept silent of a track in this use of it.

They are counted in beats of the track's grid, whatever the entry counts, so that they can be copied to other uses of
the track. The track itself stays as it is.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fernbrook.core.track.recount import Recount
from fernbrook.core.track.stems import Stem
from fernbrook.core.value import Beat, Value

MOST_EDITS = 100
MOST_TIMES = 64
BORDERS = ("start", "end", "other_start", "other_end")
SHORTEST = 0.25
"""The shortest span that can be left out or repeated, in beats."""


class SpanEdit(Value):
    """An edit of a span of the track. One that is not ``on`` waits."""

    id: str = Field(min_length=1, max_length=32)
    start: Beat
    end: Beat
    on: bool = True

    @model_validator(mode="after")
    def _forwards(self) -> SpanEdit:
        if self.end - self.start < SHORTEST:
            raise ValueError(
                f"an edit must span at least {SHORTEST:g} of a beat, not from beat {self.start:g} to {self.end:g}"
            )
        return self


class Skip(SpanEdit):
    """The span is left out; what follows closes up."""

    kind: Literal["skip"] = "skip"


class Repeat(SpanEdit):
    """The span is heard so many times in all; with no number until the entry has left."""

    kind: Literal["repeat"] = "repeat"
    times: int | None = Field(default=2, ge=2, le=MOST_TIMES)


class Swap(SpanEdit):
    """The span and another, after it, change places."""

    kind: Literal["swap"] = "swap"
    other_start: Beat
    other_end: Beat

    @model_validator(mode="after")
    def _apart(self) -> Swap:
        if self.other_end - self.other_start < SHORTEST:
            raise ValueError("both spans that change places must be at least a quarter of a beat long")
        if self.other_start < self.end:
            raise ValueError("the second of two spans that change places must begin after the first has ended")
        return self


class DropOut(SpanEdit):
    """The span is silent, or some stems of it are; what follows stays where it is."""

    kind: Literal["drop_out"] = "drop_out"
    stems: tuple[Stem, ...] = Field(default=(), max_length=len(Stem))


Edit = Annotated[Skip | Repeat | Swap | DropOut, Field(discriminator="kind")]


def recounted_edit(edit: Edit, recount: Recount) -> Edit:
    """An edit where it sounds, counted by another grid."""
    borders = [name for name in type(edit).model_fields if name in BORDERS]
    return edit.model_copy(update={name: recount.beat(getattr(edit, name)) for name in borders})
