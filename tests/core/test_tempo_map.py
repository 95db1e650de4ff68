from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from fernbrook.core.tempo_map import TempoMap

bpms = st.floats(40.0, 240.0)


@st.composite
def maps(draw: st.DrawFn) -> TempoMap:
    """Maps with stretches, ramps and steps."""
    beat, pairs = draw(st.floats(-16.0, 16.0)), []
    for _ in range(draw(st.integers(1, 8))):
        pairs.append((beat, draw(bpms)))
        beat += draw(st.sampled_from([0.0, 0.25, 4.0, 64.0, 33.3]))
    return TempoMap.of(pairs, origin_beat=draw(st.floats(-40.0, 40.0)))


many_beats = st.lists(st.floats(-200.0, 800.0), min_size=1, max_size=30)


@given(maps(), many_beats)
def test_clock_and_its_inverse(tempo: TempoMap, beats: list[float]) -> None:
    assert np.allclose(tempo.beat_at(tempo.time_at(beats)), beats, atol=1e-6)


@given(maps(), many_beats)
def test_clock_never_goes_back(tempo: TempoMap, beats: list[float]) -> None:
    assert np.all(np.diff(tempo.time_at(np.unique(beats))) >= 0)


@given(maps())
def test_clock_is_zero_at_the_origin(tempo: TempoMap) -> None:
    assert float(tempo.time_at(tempo.origin_beat)) == pytest.approx(0.0, abs=1e-9)


@given(bpms, bpms, st.floats(0.5, 256.0))
def test_ramp_takes_the_integral_of_its_tempo(start: float, end: float, beats: float) -> None:
    tempo = TempoMap.of([(0.0, start), (beats, end)])
    expected, _ = quad(lambda b: 60.0 / (start + (end - start) * b / beats), 0.0, beats)
    assert float(tempo.time_at(beats)) == pytest.approx(expected, rel=1e-9)


def test_two_points_on_a_beat_make_a_step() -> None:
    tempo = TempoMap.of([(0.0, 120.0), (8.0, 120.0), (8.0, 60.0)])
    assert tempo.time_at([8.0, 9.0]).tolist() == [4.0, 5.0]
    assert tempo.bpm_at([7.99, 8.0]).tolist() == [120.0, 60.0]


def test_tempo_is_constant_outside_the_points() -> None:
    tempo = TempoMap.of([(4.0, 100.0), (8.0, 150.0)])
    assert tempo.bpm_at([-50.0, 4.0, 6.0, 8.0, 90.0]).tolist() == [100.0, 100.0, 125.0, 150.0, 150.0]


@pytest.mark.parametrize("pairs", [[], [(0.0, 0.0)], [(4.0, 100.0), (0.0, 100.0)]])
def test_impossible_maps_are_refused(pairs: list[tuple[float, float]]) -> None:
    with pytest.raises(ValueError, match="tempo"):
        TempoMap.of(pairs)


def test_a_step_at_the_edge_of_a_span_is_no_part_of_it() -> None:
    tempo = TempoMap.of([(0.0, 100.0), (4.0, 100.0), (4.0, 120.0), (8.0, 120.0), (8.0, 90.0)])
    assert [p.beat for p in tempo.points_between(4.0, 8.0)] == []
    assert [p.bpm for p in tempo.points_between(3.0, 8.5)] == [100.0, 120.0, 120.0, 90.0]
    assert tempo.slowest(4.0, 7.0) == 120.0


@given(maps(), st.floats(-20.0, 300.0), st.floats(0.01, 200.0))
def test_the_slowest_of_a_span_is_as_slow_as_any_moment_in_it(tempo: TempoMap, start: float, beats: float) -> None:
    inside = tempo.bpm_at(np.linspace(start, start + beats, 2001))
    corners = [p.bpm for p in tempo.points if start < p.beat < start + beats]
    assert tempo.slowest(start, start + beats) == pytest.approx(min([*inside, *corners]), rel=1e-6)


@given(st.floats(0.0, 1e-9, allow_subnormal=True), st.floats(20.0, 400.0), st.floats(20.0, 400.0))
def test_points_a_hair_apart_are_a_step(hair: float, before: float, after: float) -> None:
    tempo = TempoMap.of([(0.0, before), (hair, after), (64.0, after)])
    beats = np.array([-16.0, 0.0, 32.0, 80.0])
    assert np.allclose(tempo.time_at(beats), beats * 60.0 / np.where(beats < 0, before, after), atol=1e-6)
    assert np.allclose(tempo.beat_at(tempo.time_at(beats)), beats, atol=1e-6)
