"""A teaser has half a minute of each transition: the middle of a short one, the hand-over of a long one."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.transitions import ReadyShape
from fernbrook.core.plan import Plan, plan, teaser
from fernbrook.core.plan.listing import hand_over_s
from fernbrook.core.plan.teaser import LONGEST_S
from tests.core.test_commands import TRACKS, mix_of, pair

BAR_S = 4 * 60.0 / 120.0


def planned(*ids: str, beats: float = 32.0, **place: float) -> Plan:
    mix = mix_of(*ids)
    for n in range(len(ids) - 1):
        mix = c.apply(mix, c.ApplyShape(shape=ReadyShape.EVEN_BLEND, **pair(mix, n)), TRACKS)
        mix = c.apply(mix, c.PlaceTransition(beats=beats, **place, **pair(mix, n)), TRACKS)
    return plan(mix, TRACKS)


@pytest.mark.parametrize("beats", [96.0, 128.0])
def test_of_a_long_overlap_it_has_where_the_incoming_takes_over(beats: float) -> None:
    made = planned("a", "b", beats=beats, out_at=200.0, in_at=16.0)
    (piece,) = teaser(made)
    t = made.transitions[0]
    turn = hand_over_s(t, made)
    assert t.end_s - t.start_s > LONGEST_S
    assert t.start_s - BAR_S < piece.start_s < turn < piece.end_s < t.end_s + BAR_S
    centred = min(max(turn - LONGEST_S / 2, t.start_s), t.end_s - LONGEST_S)
    assert piece.start_s == pytest.approx(centred, abs=BAR_S)


def test_pieces_are_in_order_begin_on_bars_and_lie_within_the_mix() -> None:
    made = planned("a", "b", "c")
    pieces = teaser(made)
    moments, firsts = made.bars.ticks(0.0, made.duration_s)
    assert [p.titles for p in pieces] == [("A", "B"), ("B", "C")]
    for piece in pieces:
        assert np.abs(moments[firsts] - piece.start_s).min() < 1e-6
        assert 0.0 <= piece.start_s < piece.end_s <= made.duration_s + 1e-9
    assert pieces[0].end_s <= pieces[1].start_s


def test_pieces_that_touch_become_one() -> None:
    made = planned("a", "e", "b", beats=4.0)
    (piece,) = teaser(made)
    assert piece.name == "A → E → B"
    first, last = made.transitions
    assert piece.start_s < first.start_s < last.end_s < piece.end_s


def test_a_mix_without_transitions_has_none() -> None:
    assert teaser(planned("a")) == ()
