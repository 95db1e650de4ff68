"""Whatever way a grid can be wrong, four actions at most make it right."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import pytest

from fernbrook.analysis import mend
from fernbrook.analysis.features import Features
from fernbrook.core.track import commands as m
from fernbrook.core.track.commands import apply
from fernbrook.core.track.grid import Grid
from fernbrook.core.track.markup import Markup
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
