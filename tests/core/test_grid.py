from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import Grid
from fernbrook.core.track.grid import Anchor

bpms = st.floats(30.0, 300.0)


@st.composite
def grids(draw: st.DrawFn) -> Grid:
    """Grids of one to eight anchors with tempi between 30 and 300 BPM, some of them ramps."""
    times, beats = [draw(st.floats(-20.0, 60.0))], [float(draw(st.integers(-32, 64)))]
    for _ in range(draw(st.integers(0, 7))):
        step = draw(st.integers(1, 64))
        beats.append(beats[-1] + step)
        times.append(times[-1] + step * 60.0 / draw(bpms))
    ramp = st.one_of(st.just(1.0), st.floats(0.4, 2.5))
    ramps = [*(draw(ramp) for _ in beats[1:]), 1.0]
    anchors = tuple(Anchor(time_s=t, beat=b, ramp=r) for t, b, r in zip(times, beats, ramps, strict=True))
    return Grid(anchors=anchors, bpm_before=draw(bpms), bpm_after=draw(bpms))


many_beats = st.lists(st.floats(-500.0, 2000.0), min_size=1, max_size=30)


@given(grids(), many_beats)
def test_time_and_beat_are_inverse(grid: Grid, beats: list[float]) -> None:
    assert np.allclose(grid.beat_at(grid.time_at(beats)), beats, atol=1e-6)


@given(grids(), many_beats)
def test_time_rises_with_beats(grid: Grid, beats: list[float]) -> None:
    ordered = np.unique(beats)
    assert np.all(np.diff(grid.time_at(ordered)) >= 0)


@given(grids())
def test_anchors_lie_where_they_are_set(grid: Grid) -> None:
    for anchor in grid.anchors:
        assert grid.time_at(anchor.beat) == pytest.approx(anchor.time_s, abs=1e-9)


@given(grids(), st.floats(-100.0, 1000.0))
def test_tempo_is_the_slope(grid: Grid, beat: float) -> None:
    h = 1e-3
    if any(abs(beat - a.beat) < 2 * h for a in grid.anchors):
        return
    slope = 60.0 * 2 * h / float(grid.time_at(beat + h) - grid.time_at(beat - h))
    assert slope == pytest.approx(float(grid.bpm_at(beat)), rel=1e-5)


@given(grids())
def test_a_course_is_the_tempo(grid: Grid) -> None:
    course = grid.course
    tempo = TempoMap.of(course, origin_beat=grid.anchors[0].beat)
    beats = np.linspace(grid.anchors[0].beat - 10.0, grid.anchors[-1].beat + 10.0, 200)
    assert np.allclose(tempo.bpm_at(beats), grid.bpm_at(beats), rtol=1e-6)
    assert np.allclose(tempo.time_at(beats) + grid.anchors[0].time_s, grid.time_at(beats), atol=1e-6)


def test_a_tempo_that_changes_on_purpose_is_told_from_one_that_wanders() -> None:
    rng = np.random.default_rng(4)
    wandering = np.cumsum(60.0 / (100.0 + np.cumsum(rng.normal(0.0, 0.6, 400)).clip(-6.0, 6.0)))
    assert not Grid.through(wandering, np.arange(400.0)).means_its_changes
    assert not Grid.constant(128.0, 0.2).means_its_changes
    step = Grid.constant(136.0, 0.0).model_copy(update={"bpm_after": 174.0})
    assert step.means_its_changes
    ramp = Grid(
        anchors=(Anchor(time_s=0.0, beat=0.0, ramp=1.25), Anchor(time_s=14.0, beat=32.0)),
        bpm_before=120.0,
        bpm_after=150.0,
    )
    assert ramp.means_its_changes


def test_constant_grid_counts_beats_at_its_tempo() -> None:
    grid = Grid.constant(120.0, 0.5)
    assert grid.time_at([0, 1, 4]).tolist() == [0.5, 1.0, 2.5]
    assert grid.is_constant


def test_grid_through_points_keeps_them_and_its_mean() -> None:
    grid = Grid.through([1.0, 3.0, 5.0], [0.0, 4.0, 10.0])
    assert grid.time_at([0.0, 4.0, 10.0]).tolist() == [1.0, 3.0, 5.0]
    assert grid.mean_bpm(1.0, 5.0) == pytest.approx(150.0)


def test_anchors_that_go_back_are_refused_with_their_places() -> None:
    with pytest.raises(ValidationError, match="must rise"):
        Grid(anchors=(Anchor(time_s=2, beat=0), Anchor(time_s=1, beat=4)), bpm_before=120, bpm_after=120)


def test_json_keeps_a_grid_exactly() -> None:
    grid = Grid.through([0.1, 0.7, 1.1], [0.0, 1.0, 2.0])
    assert Grid.model_validate_json(grid.model_dump_json()) == grid


def test_grids_are_equal_by_content_whatever_they_have_computed() -> None:
    one, same, other = (Grid.through([0.0, 5.0, 9.0], [0.0, 8.0, beats]) for beats in (16.0, 16.0, 17.0))
    for grid in (one, same, other):
        grid.time_at([1.0, 12.0])
    assert one == same
    assert hash(one) == hash(same)
    assert one != other
