"""A breath: the last beats before a hand-over, left out."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from fernbrook.core.value import Value

SHORTEST_BREATH, LONGEST_BREATH = 0.5, 8.0


class BreathBefore(StrEnum):
    """What a breath is taken before: the hand-over within the overlap, or the end of the overlap."""

    HAND_OVER = "hand_over"
    END = "end"


class Breather(StrEnum):
    """Which side leaves out its beats."""

    OUTGOING = "outgoing"
    INCOMING = "incoming"
    BOTH = "both"


class Breath(Value):
    """So many beats of one or both sides are left out. ``rings`` lets their echo and reverb go on through it."""

    beats: float = Field(default=2.0, ge=SHORTEST_BREATH, le=LONGEST_BREATH)
    before: BreathBefore = BreathBefore.HAND_OVER
    side: Breather = Breather.BOTH
    rings: bool = True
