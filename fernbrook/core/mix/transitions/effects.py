"""What the filter, the echo and the reverb of a transition are like; its curves say how much of each there is."""

from __future__ import annotations

import math

from pydantic import Field

from fernbrook.core.mix.curves import Processor, Share
from fernbrook.core.value import Value

SILENT_DB = 60.0
"""An echo that has fallen by so much is left out."""
LONGEST_TAIL_S = 8.0
"""No tail is longer, so that a render may begin anywhere without looking far back."""

SHORTEST_ECHO, LONGEST_ECHO = 0.125, 8.0
MOST_FEEDBACK = 0.9
SHORTEST_REVERB_S = 0.3


class Effects(Value):
    """The settings of a transition's effects, the same for both of its sides.

    ``resonance`` lifts what lies at the cut-off of the filter. An echo comes back after ``echo_beats`` beats of the
    mix, each time by ``echo_feedback`` of the last and duller by ``echo_damping``. A reverb falls by 60 dB in
    ``reverb_s`` seconds and is from dark (0) to bright (1) by ``reverb_colour``.
    """

    resonance: Share = 0.2
    echo_beats: float = Field(default=0.75, ge=SHORTEST_ECHO, le=LONGEST_ECHO)
    echo_feedback: float = Field(default=0.5, ge=0.0, le=MOST_FEEDBACK)
    echo_damping: Share = 0.4
    reverb_s: float = Field(default=2.5, ge=SHORTEST_REVERB_S, le=LONGEST_TAIL_S)
    reverb_colour: Share = 0.5

    def echoes(self, slowest_bpm: float) -> int:
        """How often an echo comes back, at a tempo: until it is inaudible, or the longest tail is over.

        >>> Effects(echo_beats=0.5, echo_feedback=0.5).echoes(120.0), Effects(echo_beats=4.0).echoes(120.0)
        (10, 4)
        """
        fits = math.floor(LONGEST_TAIL_S / (self.echo_beats * 60.0 / slowest_bpm))
        fall_db = -20.0 * math.log10(self.echo_feedback) if self.echo_feedback > 0 else math.inf
        return max(1, min(fits, math.floor(SILENT_DB / fall_db) + 1))

    def tails(self, slowest_bpm: float) -> dict[Processor, float]:
        """For how many seconds each of them rings on after what was sent to it; what is not there ends with it."""
        echo_s = self.echoes(slowest_bpm) * self.echo_beats * 60.0 / slowest_bpm
        return {Processor.ECHO: echo_s, Processor.REVERB: self.reverb_s}
