from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from fernbrook.core.track import Grid, GridEditError
from fernbrook.core.track import grid_edits as edits

BEATS = np.arange(-40.0, 400.0, 0.5)


@st.composite
def grids(draw: st.DrawFn) -> Grid:
    """Steady grids, and such whose tempo moves between anchors, by ramps too."""
    start = draw(st.floats(-5.0, 30.0))
    if draw(st.booleans()):
        return Grid.constant(draw(st.floats(60.0, 190.0)), start, draw(st.sampled_from([3, 4])))
    tempi = draw(st.lists(st.floats(70.0, 160.0), min_size=1, max_size=8))
    spans = draw(st.lists(st.integers(1, 64), min_size=len(tempi), max_size=len(tempi)))
    beats = np.concatenate(([0.0], np.cumsum(spans)))
    times = start + np.concatenate(([0.0], np.cumsum([60.0 * n / b for n, b in zip(spans, tempi, strict=True)])))
    grid = Grid.through(times, beats)
    ramp = st.one_of(st.just(1.0), st.floats(0.8, 1.25))
    ramped = [a.model_copy(update={"ramp": draw(ramp)}) for a in grid.anchors[:-1]]
    return grid.model_copy(update={"anchors": (*ramped, grid.anchors[-1])})


whole_beats = st.integers(-30, 300).map(float)


def _rises(grid: Grid) -> bool:
    return bool(np.all(np.diff(grid.time_at(BEATS)) > 0.0))


@given(grids(), st.floats(-2.0, 2.0))
def test_sliding_moves_every_line_by_the_same(grid: Grid, by: float) -> None:
    slid = edits.slide(grid, by)
    assert np.allclose(slid.time_at(BEATS) - grid.time_at(BEATS), by, atol=1e-9)
    assert np.allclose(edits.slide(slid, -by).time_at(BEATS), grid.time_at(BEATS), atol=1e-9)


@given(grids(), whole_beats)
def test_counting_from_another_beat_holds_all_moments(grid: Grid, beat: float) -> None:
    counted = edits.count_from(grid, beat)
    assert np.allclose(counted.time_at(BEATS - beat), grid.time_at(BEATS), atol=1e-9)
    assert float(counted.time_at(0.0)) == pytest.approx(float(grid.time_at(beat)), abs=1e-9)


@given(grids(), whole_beats)
def test_the_first_of_a_bar_shifts_the_count_by_less_than_a_bar(grid: Grid, beat: float) -> None:
    counted = edits.first_of_bar(grid, beat)
    moved = float(counted.beat_at(grid.time_at(beat)))
    assert moved % grid.beats_per_bar == pytest.approx(0.0, abs=1e-6) or (
        moved % grid.beats_per_bar == pytest.approx(grid.beats_per_bar, abs=1e-6)
    )
    assert abs(moved - beat) <= grid.beats_per_bar / 2 + 1e-6


@given(grids(), st.floats(50.0, 200.0), whole_beats)
def test_a_set_tempo_is_everywhere_and_its_line_is_held(grid: Grid, bpm: float, beat: float) -> None:
    made = edits.set_tempo(grid, bpm, beat)
    assert made.is_constant
    assert made.bpm_after == bpm
    assert float(made.time_at(beat)) == pytest.approx(float(grid.time_at(beat)), abs=1e-9)


@given(grids())
def test_doubling_keeps_every_line_and_halving_takes_it_back(grid: Grid) -> None:
    doubled = edits.scale(grid, 2.0)
    assert np.allclose(doubled.time_at(2.0 * BEATS), grid.time_at(BEATS), atol=1e-9)
    assert np.allclose(edits.scale(doubled, 0.5).time_at(BEATS), grid.time_at(BEATS), atol=1e-9)


@given(grids(), whole_beats, st.floats(-0.1, 0.1))
def test_a_moved_line_is_where_it_was_put_and_its_neighbours_are_held(grid: Grid, beat: float, by: float) -> None:
    to = float(grid.time_at(beat)) + by
    try:
        moved = edits.move_line(grid, beat, to)
    except GridEditError:
        assume(False)
        return
    assert float(moved.time_at(beat)) == pytest.approx(to, abs=1e-9)
    assert _rises(moved)
    if len(grid.anchors) > 1:
        for anchor in grid.anchors:
            if anchor.beat != beat:
                assert float(moved.time_at(anchor.beat)) == pytest.approx(anchor.time_s, abs=1e-9)
    else:
        assert moved.is_constant


@given(grids(), whole_beats)
def test_an_anchor_added_changes_no_line_and_removed_none_either(grid: Grid, beat: float) -> None:
    assume(all(a.beat != beat for a in grid.anchors))
    held = edits.add_anchor(grid, beat)
    assert np.allclose(held.time_at(BEATS), grid.time_at(BEATS), atol=1e-9)
    assert np.allclose(edits.remove_anchor(held, beat).time_at(BEATS), grid.time_at(BEATS), atol=1e-7)


@given(grids(), whole_beats, st.floats(-0.4, 0.4), st.floats(60.0, 190.0))
def test_something_new_begins_where_it_is_put_and_holds_what_comes_before(
    grid: Grid, beat: float, off: float, bpm: float
) -> None:
    assume(float(grid.time_at(beat - 1.0)) >= 0.0)
    at = float(grid.time_at(beat)) + off * float(grid.time_at(beat) - grid.time_at(beat - 1.0))
    made = edits.tempo_from(edits.begin_at(grid, beat, at), beat, bpm)
    before = BEATS[beat - 1.0 >= BEATS]
    assert np.allclose(made.time_at(before), grid.time_at(before), atol=1e-7)
    assert float(made.time_at(beat)) == pytest.approx(at, abs=1e-9)
    assert float(made.time_at(beat + 8.0)) == pytest.approx(at + 480.0 / bpm, abs=1e-9)


@given(grids(), whole_beats, st.sampled_from([0.5, 2.0]))
def test_half_or_twice_as_many_beats_from_a_line_on_hold_all_moments(grid: Grid, beat: float, factor: float) -> None:
    assume(all(25.0 <= bpm * factor <= 390.0 for bpm in grid.extremes))
    made = edits.scale_from(grid, beat, factor)
    before, after = BEATS[beat >= BEATS], np.arange(0.0, 64.0, 2.0)
    assert np.allclose(made.time_at(before), grid.time_at(before), atol=1e-7)
    assert np.allclose(made.time_at(beat + after * factor), grid.time_at(beat + after), atol=1e-7)
    back = edits.scale_from(made, beat, 1.0 / factor)
    assert np.allclose(back.time_at(BEATS), grid.time_at(BEATS), atol=1e-7)


def test_what_begins_before_all_else_slides_the_grid() -> None:
    made = edits.begin_at(Grid.constant(120.0, 0.2), 0.0, 0.35)
    assert made.time_at([-1.0, 0.0, 4.0]).tolist() == pytest.approx([-0.15, 0.35, 2.35])


@given(grids(), whole_beats, st.floats(60.0, 190.0))
def test_a_new_tempo_from_a_line_holds_what_comes_before(grid: Grid, beat: float, bpm: float) -> None:
    made = edits.tempo_from(grid, beat, bpm)
    is_first = float(grid.time_at(beat - 1.0)) < 0.0  # there is no line of the track before it
    before = np.array([beat]) if is_first else BEATS[beat >= BEATS]
    assert np.allclose(made.time_at(before), grid.time_at(before), atol=1e-7)
    assert made.bpm_after == bpm
    assert made.bpm_before == bpm or not is_first
    assert _rises(made)


@given(grids(), st.floats(0.0, 0.02))
def test_a_span_replaced_leaves_what_lies_a_bar_beyond_it(grid: Grid, sway: float) -> None:
    beats = np.arange(32.0, 65.0)
    times = grid.time_at(beats) + sway * np.sin(beats)
    made = edits.replace_span(grid, times, beats)
    assert np.allclose(made.time_at(beats), times, atol=1e-9)
    outside = BEATS[(32.0 - grid.beats_per_bar >= BEATS) | (64.0 + grid.beats_per_bar <= BEATS)]
    assert np.allclose(made.time_at(outside), grid.time_at(outside), atol=1e-7)


def test_taps_make_the_line_of_least_squares_even_with_one_left_out() -> None:
    beats = np.array([0, 1, 2, 4, 5, 6, 7])
    unsteady = 0.004 * np.array([1, -1, 0.5, -0.5, 1, -1, 0])
    grid = edits.tapped(3.0 + beats * 0.5 + unsteady)
    assert grid.bpm_after == pytest.approx(120.0, abs=0.3)
    assert float(grid.time_at(0.0)) == pytest.approx(3.0, abs=0.004)


@pytest.mark.parametrize(
    ("edit", "reason"),
    [
        (lambda g: edits.set_tempo(g, 500.0, 0.0), "must lie between 20 and 400"),
        (lambda g: edits.scale(g, 4.0), "480 BPM"),
        (lambda g: edits.move_line(g, 8.0, float(g.time_at(0.0)) - 1.0), "must lie between"),
        (lambda g: edits.remove_anchor(g, 3.0), "no anchor on this line"),
        (lambda g: edits.remove_anchor(g, 0.0), "at least one anchor"),
        (lambda g: edits.add_anchor(g, 0.0), "an anchor on this line already"),
        (lambda g: edits.move_line(edits.add_anchor(g, 4.0), 2.0, float(g.time_at(5.0))), "would lie before"),
    ],
)
def test_what_cannot_be_says_why(edit: object, reason: str) -> None:
    with pytest.raises(GridEditError, match=reason):
        edit(Grid.constant(120.0, 1.0))  # type: ignore[operator]


def test_too_few_taps_are_refused() -> None:
    with pytest.raises(GridEditError, match="four beats"):
        edits.tapped([1.0, 2.0, 3.0])


def test_fewer_anchors_stay_within_the_tolerance() -> None:
    beats = np.arange(200.0)
    times = beats * 0.5 + 0.01 * np.sin(beats / 20.0)
    full = Grid.through(times, beats)
    thin = full.without_needless_anchors(0.002)
    assert len(thin.anchors) < 40
    assert np.abs(thin.time_at(beats) - times).max() <= 0.002 + 1e-9
    assert all(b.beat > a.beat for a, b in pairwise(thin.anchors))


@given(grids(), whole_beats, st.floats(1.0, 64.0), st.floats(60.0, 200.0))
def test_a_ramp_rises_evenly_by_the_beat_and_holds_what_was_before(
    grid: Grid, beat: float, beats: float, bpm: float
) -> None:
    start = float(grid.bpm_at(beat))
    assume(abs(start - bpm) > 0.1)
    made = edits.ramp_from(grid, beat, beats, bpm)
    before = BEATS[beat >= BEATS]
    assert np.allclose(made.time_at(before), grid.time_at(before), atol=1e-9)
    way = np.linspace(0.0, 1.0, 9)[:-1]
    assert np.allclose(made.bpm_at(beat + beats * way), start + (bpm - start) * way, rtol=1e-6)
    assert float(made.bpm_at(beat + beats)) == pytest.approx(bpm)
    assert float(made.bpm_at(beat + beats + 500.0)) == pytest.approx(bpm)


@given(grids(), whole_beats)
def test_an_anchor_on_a_ramp_changes_nothing_and_goes_again(grid: Grid, beat: float) -> None:
    assume(all(abs(a.beat - beat) > 0.5 for a in grid.anchors))
    held = edits.add_anchor(grid, beat)
    assert np.allclose(held.time_at(BEATS), grid.time_at(BEATS), atol=1e-6)
    assert np.allclose(edits.remove_anchor(held, beat).time_at(BEATS), grid.time_at(BEATS), atol=1e-6)


def test_there_is_no_ramp_to_the_tempo_that_is_there() -> None:
    with pytest.raises(GridEditError, match="128 BPM already"):
        edits.ramp_from(Grid.constant(128.0, 0.0), 16.0, 8.0, 128.0)
