"""A gap: the last beats before a hand-over, left out."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from fernbrook.core.value import Value

SHORTEST_GAP, LONGEST_GAP = 0.5, 8.0


class GapBefore(StrEnum):
    """What a gap is taken before: the hand-over within the overlap, or the end of the overlap."""

    HAND_OVER = "hand_over"
    END = "end"


class GapSide(StrEnum):
    """Which side leaves out its beats."""

    OUTGOING = "outgoing"
    INCOMING = "incoming"
    BOTH = "both"


class Gap(Value):
    """So many beats of one or both sides are left out. ``rings`` lets their echo and reverb go on through it."""

    beats: float = Field(default=2.0, ge=SHORTEST_GAP, le=LONGEST_GAP)
    before: GapBefore = GapBefore.HAND_OVER
    side: GapSide = GapSide.BOTH
    rings: bool = True
