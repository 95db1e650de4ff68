"""Shapes of transitions: kinds, shapes ready-made and saved, rides, takes, gaps."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import CONTROLS, Control, Curve, Onward, heard_db
from fernbrook.core.mix.curves.law import FLOOR_DB
from fernbrook.core.mix.model import Crossovers, Mix
from fernbrook.core.mix.transitions import (
    Gap,
    GapBefore,
    Kind,
    ReadyShape,
    SavedShape,
    Side,
    Transition,
    gap_of,
    handed_over_at,
    ridden,
    shape_of,
    transition_of,
)
from fernbrook.core.plan import plan
from tests.core.test_commands import TRACKS, mix_of, pair

LENGTHS = st.sampled_from([1.0, 4.0, 16.0, 32.0, 60.0, 64.0, 128.0])
READY = st.sampled_from(list(ReadyShape))


def made(shape: ReadyShape, beats: float) -> Transition:
    return transition_of(shape_of(shape, beats, 4.0), ("a", "b"), 0.0, 0.0, beats)


@given(READY, LENGTHS)
def test_every_ready_hand_over_fits_every_length_and_says_what_it_is(shape: ReadyShape, beats: float) -> None:
    t = made(shape, beats)
    low = {side: t.curves(side).curve(Control.LOW).value_at(np.linspace(0, 1, 2001)) for side in Side}
    both = np.minimum(low[Side.OUTGOING], low[Side.INCOMING])
    if shape in (ReadyShape.BASS, ReadyShape.DOUBLE_BLEND, ReadyShape.FILTER_SWEEP):
        assert (both > 0.05).mean() * beats <= 0.13 + beats / 1000, "both for an eighth of a beat at most"
    assert Transition.model_validate_json(t.model_dump_json()) == t


@given(READY, LENGTHS, LENGTHS)
def test_a_saved_shape_is_what_it_was_and_fits_any_length(shape: ReadyShape, beats: float, other: float) -> None:
    t = made(shape, beats)
    saved = SavedShape.of("mine", t, 4.0)
    again = transition_of(saved.fitted(beats, 4.0), t.pair, 0.0, 0.0, beats)
    place = np.linspace(0.0, 1.0, 500)
    for side in Side:
        for control in Control:
            then, now = (x.curves(side).curve(control).value_at(place) for x in (t, again))
            assert np.allclose(then, now, atol=0.02)
    elsewhere = transition_of(saved.fitted(other, 4.0), t.pair, 0.0, 0.0, other)
    if shape is ReadyShape.BASS and beats >= 16.0 and other >= 16.0:
        assert handed_over_at(elsewhere) == handed_over_at(made(ReadyShape.BASS, other))
        fall = [p.at * other for p in elsewhere.outgoing.curve(Control.LOW).points[1:3]]
        assert fall[1] - fall[0] == pytest.approx(0.125, abs=0.03)


def test_a_hand_over_can_shape_all_transitions_or_be_what_untouched_ones_are() -> None:
    mix = mix_of("a", "b", "c")
    saved = SavedShape.of("mine", made(ReadyShape.ECHO_OUT, 32.0), 4.0)
    shaped = c.apply(mix, c.ShapeTransitions(shape=saved), TRACKS)
    assert [t.transition.kind for t in plan(shaped, TRACKS).transitions] == [Kind.CUT, Kind.CUT]
    one = c.apply(mix, c.ShapeTransitions(shape=ReadyShape.CLEAN_CUT, pairs=(c.Pair(**pair(mix, 1)),)), TRACKS)
    assert [t.transition.kind for t in plan(one, TRACKS).transitions] == [Kind.BLEND, Kind.CUT]
    for shape in [saved, *ReadyShape]:
        untouched = c.apply(mix, c.SetUntouched(untouched=shape), TRACKS)
        assert all(not t.shaped for t in plan(untouched, TRACKS).transitions)


@given(st.lists(st.sampled_from(list(Kind)), min_size=1, max_size=6))
def test_kinds_can_be_changed_in_any_order(kinds: list[Kind]) -> None:
    mix = mix_of("a", "b", "e")
    for index in (0, 1):
        for kind in kinds:
            mix = c.apply(mix, c.SetKind(to=kind, **pair(mix, index)), TRACKS)
    got = [t.transition for t in plan(mix, TRACKS).transitions]
    assert [t.kind for t in got] == [kinds[-1]] * 2
    assert all(Transition.model_validate(t.model_dump()) == t for t in got)


def test_what_cannot_be_is_refused_in_plain_words() -> None:
    mix = mix_of("a", "b")
    fade = c.apply(mix, c.SetKind(to=Kind.FADE, **pair(mix, 0)), TRACKS)
    apart = c.apply(mix, c.SetKind(to=Kind.APART, **pair(mix, 0)), TRACKS)
    cut = c.apply(mix, c.SetKind(to=Kind.CUT, **pair(mix, 0)), TRACKS)
    ride = c.RecordRide(side=Side.OUTGOING, control=Control.VOLUME, moves=(c.Move(0, 1), c.Move(1, 0)), **pair(mix, 0))
    for start, command, words in (
        (fade, c.PlaceTransition(beats=8.0, **pair(mix, 0)), "seconds"),
        (mix, c.PlaceTransition(seconds=8.0, **pair(mix, 0)), "counted in beats"),
        (apart, c.PlaceTransition(beats=8.0, **pair(mix, 0)), "do not overlap"),
        (fade, c.SetGap(beats=2.0, **pair(mix, 0)), "beats that both tracks share"),
        (cut, ride, "no overlap to ride over"),
        (mix, c.UseTake(number=3, **pair(mix, 0)), "no take 3"),
        (mix, c.ShapeTransitions(shape=ReadyShape.BASS, pairs=(c.Pair(out_id="e2", in_id="e1"),)), "not neighbours"),
        (fade, c.PlaceTransition(out_at=5000.0, **pair(mix, 0)), "outlast"),
    ):
        with pytest.raises(c.CommandError, match=words):
            c.apply(start, command, TRACKS)


def test_a_cut_may_have_a_lead_and_never_reaches_back_into_the_transition_before_it() -> None:
    mix = mix_of("a", "b", "c")
    mix = c.apply(mix, c.ApplyShape(shape=ReadyShape.RISE_TO_CUT, **pair(mix, 1)), TRACKS)
    first, second = plan(mix, TRACKS).transitions
    assert second.transition.lead == 32.0
    begins = second.transition.out_at - 32.0
    assert second.outgoing.start_beat == pytest.approx(second.start_beat - 32.0)
    assert first.room.in_to == begins
    with pytest.raises(c.CommandError, match="before the outgoing track has arrived"):
        c.apply(mix, c.PlaceTransition(lead=1000.0, **pair(mix, 1)), TRACKS)


def test_a_gap_lies_before_the_hand_over_or_the_end() -> None:
    blend = made(ReadyShape.BASS, 64.0)
    before = blend.model_copy(update={"gap": Gap(beats=4.0)})
    assert gap_of(before, Side.OUTGOING) == gap_of(before, Side.INCOMING) == (28.0, 32.0)
    end = blend.model_copy(update={"gap": Gap(beats=4.0, before=GapBefore.END)})
    assert gap_of(end, Side.OUTGOING) == (60.0, 64.0)
    cut = made(ReadyShape.GAP_AND_DROP, 64.0)
    assert gap_of(cut, Side.OUTGOING) == (-4.0, 0.0)
    assert gap_of(cut, Side.INCOMING) is None


moves = st.lists(st.tuples(st.floats(0.0, 1.0), st.floats(0.0, 1.0)), min_size=2, max_size=60).map(
    lambda found: sorted(found, key=lambda m: m[0])
)


@given(moves, st.sampled_from(list(Control)), st.sampled_from(list(Side)))
def test_what_was_ridden_is_kept_within_half_a_decibel(
    ride: list[tuple[float, float]], control: Control, side: Side
) -> None:
    spec = CONTROLS[control]
    curve = ridden(Curve.flat(spec.neutral), ride, spec, side, 30.0)
    sound = Transition.model_validate(
        made(ReadyShape.EVEN_BLEND, 32.0).model_dump() | {side.value: {control: curve.model_dump()}}
    )
    assert sound.curves(side).curve(control) == curve or curve.stays_at(spec.neutral)
    kept = [m for i, m in enumerate(ride) if i == 0 or m[0] - ride[i - 1][0] > 2e-4]
    inside = [m for m in kept[1:-1] if 0.001 < m[0] < 0.999]
    for at, value in inside:
        if all(abs(at - other[0]) > 5e-4 or other == (at, value) for other in ride):
            got, was = (heard_db(np.array([v]), spec.law)[0] for v in (float(curve.value_at(at)), value))
            assert abs(got - was) < 0.5


@pytest.mark.parametrize("close", [1e-7, 5e-5])
def test_a_ride_that_leaves_the_curve_right_beside_a_point_is_kept(close: float) -> None:
    spec, back = CONTROLS[Control.LOW], 0.01 / 30.0
    for side in Side:
        ride = [(back + close, 0.2), (0.5, 0.3), (1.0 - back - close, 0.4)]
        curve = ridden(Curve.flat(spec.neutral), ride, spec, side, 30.0)
        assert float(curve.value_at(0.5)) == pytest.approx(0.3, abs=0.05)


def test_a_long_ride_is_thinned_and_what_lies_around_it_stays() -> None:
    at = np.linspace(0.3, 0.6, 1800)
    value = 0.5 + 0.5 * np.cos((at - 0.3) * 20.0)
    old = Curve.of((0.0, 1.0), (0.9, 0.2), (1.0, 0.0))
    curve = ridden(old, list(zip(at, value, strict=True)), CONTROLS[Control.VOLUME], Side.OUTGOING, 60.0)
    assert len(curve.points) < 60
    outside = np.array([0.0, 0.1, 0.29, 0.61, 0.8, 0.95, 1.0])
    assert np.allclose(curve.value_at(outside), old.value_at(outside), atol=0.01)
    assert (
        np.abs(
            heard_db(curve.value_at(at), CONTROLS[Control.VOLUME].law) - heard_db(value, CONTROLS[Control.VOLUME].law)
        )[heard_db(value, CONTROLS[Control.VOLUME].law) > FLOOR_DB].max()
        < 0.5
    )


def test_takes_are_kept_compared_and_nothing_is_lost_between_them() -> None:
    mix = mix_of("a", "b")
    here = pair(mix, 0)
    mix = c.apply(mix, c.ApplyShape(shape=ReadyShape.FILTER_SWEEP, **here), TRACKS)
    mix = c.apply(mix, c.KeepTake(name="Sweep", **here), TRACKS)
    takes = mix.takes_of((here["out_id"], here["in_id"]))
    assert [t.name for t in takes] == ["As placed automatically", "Sweep"]
    assert takes[0].transition == plan(mix_of("a", "b"), TRACKS).transitions[0].transition
    mix = c.apply(
        mix, c.SetCurve(side=Side.OUTGOING, control=Control.MID, curve=Curve.of((0, 1), (1, 0)), **here), TRACKS
    )
    working = plan(mix, TRACKS).transitions[0].transition
    mix = c.apply(mix, c.UseTake(number=1, **here), TRACKS)
    assert plan(mix, TRACKS).transitions[0].transition == takes[0].transition
    kept = mix.takes_of((here["out_id"], here["in_id"]))
    assert [t.transition for t in kept] == [takes[0].transition, takes[1].transition, working]
    mix = c.apply(mix, c.DescribeTake(number=3, name="Mids", note="less of them", **here), TRACKS)
    mix = c.apply(mix, c.DropTake(number=2, **here), TRACKS)
    assert [(t.number, t.name, t.note) for t in mix.takes] == [
        (1, "As placed automatically", ""),
        (3, "Mids", "less of them"),
    ]
    again = c.apply(mix, c.KeepTake(name="First", **here), TRACKS)
    assert [t.name for t in again.takes] == ["First", "Mids"]


def test_several_curves_are_one_step() -> None:
    mix = mix_of("a", "b")
    lanes = tuple(
        c.LaneCurve(side=side, control=Control.MID, curve=Curve.of((0.0, a), (0.5, 0.3, Onward.STEP), (1.0, b)))
        for side, a, b in ((Side.OUTGOING, 1.0, 0.0), (Side.INCOMING, 0.0, 1.0))
    )
    command = c.SetCurves(curves=lanes, **pair(mix, 0))
    t = plan(c.apply(mix, command, TRACKS), TRACKS).transitions[0].transition
    assert [t.curves(lane.side).curve(Control.MID) for lane in lanes] == [lane.curve for lane in lanes]


def test_a_mix_with_all_of_it_is_stored_and_read_as_it_is() -> None:
    mix = mix_of("a", "b", "c")
    saved = SavedShape.of("Mine", made(ReadyShape.FILTER_SWEEP, 32.0), 4.0)
    for command in (
        c.SetUntouched(untouched=saved),
        c.ApplyShape(shape=ReadyShape.GAP_AND_DROP, **pair(mix, 0)),
        c.KeepTake(name="x", **pair(mix, 0)),
        c.SetCrossovers(crossovers=Crossovers(low_hz=180.0)),
    ):
        mix = c.apply(mix, command, TRACKS)
    assert Mix.model_validate_json(mix.model_dump_json()) == mix
