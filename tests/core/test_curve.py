from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from fernbrook.core.mix.curves import Control, Curve, gain_of
from fernbrook.core.mix.transitions import HandOver, Kind, SideCurves, TempoPolicy, Transition, middle_phrase, shape_of


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
    shape = shape_of(HandOver.BASS, beats, bar)
    places = np.linspace(0, 1, 20_001)
    leaving, coming = (gain_of(_low(side).value_at(places)) for side in (shape.outgoing, shape.incoming))
    together = (leaving > 0.0) & (coming > 0.0)
    assert np.ptp(places[together]) * beats <= 0.125, "both are heard only while the bass changes hands"
    assert leaving**2 + coming**2 == pytest.approx(1.0), "and then no more and no less of it than before and after"


def test_bass_changes_hands_on_the_middle_phrase() -> None:
    assert middle_phrase(64.0, 4) == 32.0
    assert middle_phrase(128.0, 4) == 64.0
    assert middle_phrase(16.0, 4) == 8.0
    shape = shape_of(HandOver.BASS, 64.0, 4)
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
