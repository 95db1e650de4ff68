from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from fernbrook.core.mix.curves import Control, Curve, gain_of
from fernbrook.core.mix.curves.curve import Onward
from fernbrook.core.mix.transitions import (
    Kind,
    ReadyShape,
    SideCurves,
    TempoPolicy,
    Transition,
    handed,
    middle_phrase,
    shape_of,
)


def _low(side: SideCurves) -> Curve:
    return side.curve(Control.LOW)


def test_neutral_is_exactly_one_and_off_exactly_zero() -> None:
    assert gain_of([0.0, 1.0]).tolist() == [0.0, 1.0]


@given(st.floats(0.0, 1.0))
def test_crossing_lines_are_an_equal_power_crossfade(place: float) -> None:
    fade_out, fade_in = Curve.of((0, 1), (1, 0)), Curve.of((0, 0), (1, 1))
    power = gain_of(fade_out.value_at(place)) ** 2 + gain_of(fade_in.value_at(place)) ** 2
    assert float(power) == pytest.approx(1.0)


def test_curve_is_held_beyond_its_points() -> None:
    curve = Curve.of((0.25, 0.2), (0.75, 0.8))
    assert curve.value_at([-1, 0.25, 0.5, 0.75, 2]).tolist() == pytest.approx([0.2, 0.2, 0.5, 0.8, 0.8])


@given(st.sampled_from([1.0, 2.0, 4.0, 8.0, 16.0, 64.0, 128.0, 37.5]), st.sampled_from([3, 4]))
def test_bass_hand_over_never_has_two_basses(beats: float, bar: int) -> None:
    shape = shape_of(ReadyShape.BASS, beats, bar)
    places = np.linspace(0, 1, 20_001)
    leaving, coming = (gain_of(_low(side).value_at(places)) for side in (shape.outgoing, shape.incoming))
    together = (leaving > 0.0) & (coming > 0.0)
    assert np.ptp(places[together]) * beats <= 0.125, "both are heard only while the bass changes hands"
    assert leaving**2 + coming**2 == pytest.approx(1.0), "and then no more and no less of it than before and after"


def test_bass_changes_hands_on_the_middle_phrase() -> None:
    assert middle_phrase(64.0, 4) == 32.0
    assert middle_phrase(128.0, 4) == 64.0
    assert middle_phrase(16.0, 4) == 8.0
    shape = shape_of(ReadyShape.BASS, 64.0, 4)
    assert _low(shape.incoming).value_at(0.5) == 1.0
    assert _low(shape.incoming).value_at(0.49) == 0.0


def _transition(**changes: object) -> Transition:
    fields = {
        "out_id": "a",
        "in_id": "b",
        "kind": Kind.BLEND,
        "out_at": 0.0,
        "in_at": 0.0,
        "beats": 16.0,
        "tempo": TempoPolicy.RAMP,
        "outgoing": SideCurves({}),
        "incoming": SideCurves({}),
    }
    return Transition.model_validate(fields | changes)


def test_transitions_that_would_jump_are_refused() -> None:
    with pytest.raises(ValidationError, match="start neutral"):
        _transition(outgoing=SideCurves.of(mid=Curve.flat(0.5)))
    with pytest.raises(ValidationError, match="end neutral"):
        _transition(incoming=SideCurves.of(volume=Curve.of((0, 1), (1, 0))))
    with pytest.raises(ValidationError, match="no length"):
        _transition(kind=Kind.CUT)


@pytest.mark.parametrize("beats", [16.0, 32.0, 64.0])
def test_the_leader_is_at_full_level_until_the_bass_changes_hands_and_the_other_from_then_on(beats: float) -> None:
    shape = shape_of(ReadyShape.BASS, beats, 4.0)
    swap = middle_phrase(beats, 4.0) / beats
    out, into = (side.curve(Control.VOLUME) for side in (shape.outgoing, shape.incoming))
    assert out.value_at([0.0, 0.59, swap]).tolist() == [1.0, 1.0, 1.0]
    assert into.value_at([swap, 0.41, 1.0]).tolist() == [1.0, 1.0, 1.0]
    assert into.value_at(min(0.4, swap) / 2) == pytest.approx(0.5)


def test_a_bass_changes_hands_within_an_eighth_of_a_beat_up_to_the_line() -> None:
    out, into = handed(0.5, 32.0)
    for curve, values in ((out, [1, 1, 0, 0]), (into, [0, 0, 1, 1])):
        assert [p.at * 32.0 for p in curve.points] == pytest.approx([0.0, 15.875, 16.0, 32.0])
        assert [p.value for p in curve.points] == values


def test_a_step_comes_at_the_very_end_of_its_stretch_and_takes_no_longer_than_it_is_told() -> None:
    curve = Curve.of((0.0, 1.0, Onward.STEP), (0.5, 0.0), (1.0, 0.0))
    assert curve.value_at([0.0, 0.39, 0.45, 0.5, 0.7], step=0.1).tolist() == pytest.approx([1.0, 1.0, 0.5, 0.0, 0.0])
    assert curve.value_at([0.25, 0.5], step=9.0).tolist() == pytest.approx([0.5, 0.0])


def test_a_level_is_one_between_two_places_only_if_nothing_moves_there() -> None:
    curve = Curve.of((0.0, 0.0), (0.25, 1.0), (0.5, 1.0), (0.75, 0.0), (1.0, 0.0))
    spans = [(0.25, 0.5), (0.3, 0.4), (0.25, 0.51), (0.2, 0.5), (0.75, 1.0), (0.0, 1.0), (0.8, 5.0)]
    assert [curve.level_between(*s) for s in spans] == [1.0, 1.0, None, None, 0.0, None, 0.0]
