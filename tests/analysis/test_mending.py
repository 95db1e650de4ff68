"""Whatever way a grid can be wrong, four actions at most make it right."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.analysis import mend
from fernbrook.analysis.features import Features
from fernbrook.core.track import Grid, GridEditError, Markup, apply, with_span_of
from fernbrook.core.track import commands as m
from tests.analysis.heard import features

LENGTH_S = 90.0
BPM = 128.0
STEADY = Grid.constant(BPM, 0.6)
FASTER_LATER = Grid.through([0.6, 40.6, 90.0], [0.0, 80.0, 80.0 + 49.4 * 126.0 / 60.0])
BEATS = np.arange(190.0)
WANDERING = Grid.through((0.5 + BEATS * 0.47 + 0.2 * np.sin(BEATS / 14.0))[BEATS < 189], BEATS[BEATS < 189])

Action = Callable[[Features, Grid], Grid]


def command(given: m.MarkupCommand) -> Action:
    """What the view does by a key or a number field."""

    def act(_: Features, grid: Grid) -> Grid:
        after = apply(Markup(grid=grid), given).grid
        assert after is not None
        return after

    return act


def snap(beat: float) -> Action:
    return lambda heard, grid: mend.snapped(heard, grid, beat)


def measure_from(beat: float) -> Action:
    return lambda heard, grid: mend.measured_from(heard, grid, beat)


def follow(every: int) -> Action:
    return lambda heard, grid: mend.following(heard, grid, None, every)


def measure(low: float, high: float) -> Action:
    return lambda heard, _: mend.measured(heard, (low, high))


@dataclass(frozen=True)
class Wrong:
    """A way to be wrong, and what a user does about it."""

    name: str
    true: Grid
    grid: Grid
    actions: tuple[Action, ...]
    within_ms: float = 5.0


WRONG = (
    Wrong("half the tempo", STEADY, Grid.constant(BPM / 2, 0.6), (command(m.ScaleTempo(factor=2.0)),)),
    Wrong("twice the tempo", STEADY, Grid.constant(BPM * 2, 0.6), (command(m.ScaleTempo(factor=0.5)),)),
    Wrong(
        "half the tempo, on the snares",
        STEADY,
        Grid.constant(BPM / 2, 0.6 + 60 / BPM),
        (command(m.ScaleTempo(factor=2.0)), command(m.CountFrom(beat=-1.0))),
    ),
    Wrong(
        "another octave than the range",
        STEADY,
        Grid.constant(BPM / 2, 0.61),
        (measure(100.0, 200.0),),
    ),
    Wrong(
        "half a beat off",
        STEADY,
        Grid.constant(BPM, 0.6 + 30 / BPM),
        (command(m.Slide(by_s=-30 / BPM)),),
    ),
    Wrong("18 ms late", STEADY, Grid.constant(BPM, 0.618), (snap(32.0),)),
    Wrong(
        "the first of the bar on three", STEADY, Grid.constant(BPM, 0.6 + 120 / BPM), (command(m.CountFrom(beat=2)),)
    ),
    Wrong("bars of three", STEADY, Grid.constant(BPM, 0.6, 3), (command(m.SetBeatsPerBar(beats=4)),)),
    Wrong("a tempo not quite whole", STEADY, Grid.constant(127.93, 0.6), (command(m.RoundTempo()),)),
    Wrong(
        "a tempo far off, and late",
        STEADY,
        Grid.constant(126.1, 0.7),
        (measure(85.0, 170.0),),
    ),
    Wrong(
        "one tempo where it changes",
        FASTER_LATER,
        Grid.constant(120.0, 0.6),
        (measure_from(80.0),),
    ),
    Wrong(
        "one tempo where the player wanders",
        WANDERING,
        Grid.constant(60.0 / 0.47, 0.5),
        (measure(85.0, 170.0), follow(1)),
        15.0,
    ),
)


@pytest.mark.parametrize("wrong", WRONG, ids=lambda w: w.name.replace(" ", "-"))
def test_a_wrong_grid_is_right_after_four_actions_at_most(wrong: Wrong) -> None:
    heard = features(wrong.true, LENGTH_S)
    assert not _right(wrong.grid, wrong)
    assert len(wrong.actions) <= 4
    grid = wrong.grid
    for act in wrong.actions:
        grid = act(heard, grid)
    assert _right(grid, wrong)


def _right(grid: Grid, wrong: Wrong) -> bool:
    """Whether every beat is a beat where it should be, and every downbeat a downbeat."""
    true = wrong.true
    beats = np.arange(4.0, float(true.beat_at(LENGTH_S - 3.0)))
    ours = grid.beat_at(true.time_at(beats))
    off_ms = (ours - np.rint(ours)) * 60_000.0 / grid.bpm_at(ours)
    counted = np.rint(ours) - np.rint(ours[0]) == beats - beats[0]
    same_bars = np.rint(ours) % grid.beats_per_bar == beats % true.beats_per_bar
    return bool(np.abs(off_ms).max() < wrong.within_ms and counted.all() and same_bars.all())


@given(st.floats(2.0, 20.0), st.floats(8.0, 30.0), st.sampled_from([1.0, 2.0, 0.5]))
def test_measured_in_a_span_only_the_span_is_another(start_s: float, length_s: float, factor: float) -> None:
    grid = Grid.constant(120.0, 0.6)
    other = Grid.constant(121.3 * factor, 0.37)
    end_s = start_s + length_s
    made = with_span_of(grid, other, start_s, end_s)
    lines = other.time_at(np.arange(np.ceil(other.beat_at(start_s)), np.floor(other.beat_at(end_s)) + 1))
    beats = made.beat_at(lines)
    assert np.abs(beats - np.rint(beats)).max() < 1e-6, "its lines are those that were measured"
    for moments in (
        np.arange(0.6, lines[0] - 1.0, 0.5),
        np.arange(0.6 + 0.5 * np.ceil((end_s + 1.0) / 0.5), 60.0, 0.5),
    ):
        beats = made.beat_at(moments)
        assert np.abs(beats - np.rint(beats)).max(initial=0.0) < 1e-6, "lines outside stay"
    assert (made.bpm_before, made.bpm_after) == (120.0, 120.0)


def test_measuring_in_a_section_leaves_the_rest_of_the_track_alone() -> None:
    heard = features(FASTER_LATER, LENGTH_S)
    spoilt = Grid.constant(120.0, 0.6)
    made = mend.measured(heard, (85.0, 170.0), (LENGTH_S * 0.6, LENGTH_S * 0.9), spoilt)
    before = np.arange(0.6, LENGTH_S * 0.5, 0.5)
    assert np.abs(made.beat_at(before) - spoilt.beat_at(before)).max() < 1e-6
    within = FASTER_LATER.time_at(
        np.arange(FASTER_LATER.beat_at(LENGTH_S * 0.65), FASTER_LATER.beat_at(LENGTH_S * 0.85)) // 1
    )
    beats = made.beat_at(within)
    assert np.abs(beats - np.rint(beats)).max() < 0.05
    with pytest.raises(GridEditError, match="shorter than a beat"):
        with_span_of(spoilt, spoilt, 3.7, 3.8)
