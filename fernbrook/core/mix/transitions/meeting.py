"""Where in an overlap the one gives way to the other, and which beats a gap leaves out before that."""

from __future__ import annotations

import numpy as np

from fernbrook.core.mix.curves import Control
from fernbrook.core.mix.transitions.gap import GapBefore, GapSide
from fernbrook.core.mix.transitions.transition import Kind, Side, Transition
from fernbrook.core.remembered import remembered

FINE = 4096
NEAR_A_BEAT = 0.25
"""A hand-over so near to a beat is meant to be on it."""


@remembered
def handed_over_at(transition: Transition) -> float:
    """The beat, from the start of the overlap, on which the incoming takes over.

    That is where its bass comes to be the stronger one, or its volume where no bass is turned; 0 for a cut.

    >>> from fernbrook.core.mix.transitions import ReadyShape, shape_of, transition_of
    >>> handed_over_at(transition_of(shape_of(ReadyShape.BASS, 64.0, 4.0), ("a", "b"), 0.0, 0.0, 64.0))
    32.0
    """
    if transition.kind is not Kind.BLEND:
        return 0.0
    place = np.linspace(0.0, 1.0, FINE + 1)
    for control in (Control.LOW, Control.VOLUME):
        out, into = (transition.curves(side).curve(control) for side in (Side.OUTGOING, Side.INCOMING))
        if not out.stays_at(1.0) or not into.stays_at(1.0):
            stronger = into.value_at(place) >= np.maximum(out.value_at(place), 0.5)
            beat = float(place[np.argmax(stronger)]) * transition.beats
            return float(np.rint(beat)) if abs(beat - np.rint(beat)) <= NEAR_A_BEAT else beat
    return transition.beats / 2.0


def gap_of(transition: Transition, side: Side) -> tuple[float, float] | None:
    """The beats that a side leaves out, from the start of the overlap (before it where it is a cut); None for none."""
    gap = transition.gap
    if gap is None or not transition.is_locked or gap.side not in (GapSide.BOTH, GapSide(side.value)):
        return None
    if transition.kind is Kind.CUT and side is Side.INCOMING:
        return None
    end = transition.beats if gap.before is GapBefore.END else handed_over_at(transition)
    return end - gap.beats, end
