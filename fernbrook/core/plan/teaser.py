"""The best of a mix in short: half a minute of each transition, in order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fernbrook.core.plan.listing import hand_over_s
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.planned import PlannedTransition

LONGEST_S = 30.0
NEAR_S = 4.0
"""A bar line is looked for within so much of where a piece would begin."""


@dataclass(frozen=True)
class Piece:
    """A piece of the mix, in its seconds, and the titles of what meets in it."""

    start_s: float
    end_s: float
    titles: tuple[str, ...]

    @property
    def name(self) -> str:
        """What meets in it, in words."""
        return " → ".join(self.titles)


def teaser(plan: Plan) -> tuple[Piece, ...]:
    """Half a minute of each transition; pieces that touch become one.

    Where the overlap is shorter than that, it lies in the middle, so that one hears the one before and the other after
    it. Of a longer one that half minute is taken in the middle of which the incoming takes over. Pieces begin on a bar.
    """
    pieces: list[Piece] = []
    for t in plan.transitions:
        start_s = _on_bar(plan, _begin(t, plan))
        end_s = min(start_s + LONGEST_S, plan.duration_s)
        out, into = (plan.entries[i].track.title for i in (t.index, t.index + 1))
        if pieces and start_s < pieces[-1].end_s:
            last = pieces.pop()
            titles = (*last.titles, into) if last.titles[-1] == out else (*last.titles, out, into)
            pieces.append(Piece(last.start_s, max(end_s, last.end_s), titles))
        else:
            pieces.append(Piece(start_s, end_s, (out, into)))
    return tuple(pieces)


def _begin(t: PlannedTransition, plan: Plan) -> float:
    length = t.end_s - t.start_s
    middle = (t.start_s + t.end_s) / 2.0
    begin = middle - LONGEST_S / 2.0
    if length > LONGEST_S:
        begin = min(max(hand_over_s(t, plan) - LONGEST_S / 2.0, t.start_s), t.end_s - LONGEST_S)
    return max(0.0, min(begin, plan.duration_s - LONGEST_S))


def _on_bar(plan: Plan, at_s: float) -> float:
    """The bar line nearest to a moment."""
    moments, firsts = plan.bars.ticks(max(at_s - NEAR_S, 0.0), at_s + NEAR_S)
    lines: Sequence[float] = [float(m) for m, first in zip(moments, firsts, strict=True) if first]
    return max(0.0, min(lines, key=lambda line: abs(line - at_s), default=at_s))
