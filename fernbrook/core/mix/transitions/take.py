"""A take: one of several versions of a transition."""

from __future__ import annotations

from pydantic import Field

from fernbrook.core.mix.transitions.transition import Transition
from fernbrook.core.value import Value

MOST_TAKES = 20
"""Of one transition."""


class Take(Value):
    """A transition as it was when it was kept. ``number`` tells it from the other takes of the same two entries."""

    number: int = Field(ge=1)
    name: str = Field(default="", max_length=60)
    note: str = Field(default="", max_length=500)
    transition: Transition
