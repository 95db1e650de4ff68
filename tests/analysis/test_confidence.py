"""Each doubt in its words, on what was found in a made-up way."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fernbrook.analysis.beat.bar import Bar
from fernbrook.analysis.beat.drift import Drift
from fernbrook.analysis.beat.grid_search import Found, Kind
from fernbrook.analysis.beat.metre import Metre
from fernbrook.analysis.confidence import doubts, runner_up
from fernbrook.analysis.tone.key import KeyFound
from fernbrook.core.track import DoubtKind, Grid, Key

BEATS = 400
LENGTH_S = 201.0
GOOD = Found(
    grid=Grid.constant(120.0, 0.5),
    kind=Kind.CONSTANT,
    clarity=0.6,
    readings=(Metre(1.0, 0.0, 120.0, 0.9), Metre(0.5, 0.0, 60.0, 0.06), Metre(1.0, 0.5, 120.0, 0.04)),
    bar=Bar(4, 0, 0.95),
    drift=Drift(0, np.full(BEATS, 0.001), np.ones(BEATS)),
)


def silent(first: int, last: int) -> Drift:
    clear = np.ones(BEATS)
    clear[first:last] = 0.0
    return Drift(0, np.zeros(BEATS), clear)


def key(confidence: float) -> KeyFound:
    return KeyFound(Key(tonic=9, minor=True), Key(tonic=0, minor=False), confidence, 0.0)


def test_nothing_is_doubtful_about_a_clear_track() -> None:
    assert doubts(GOOD, 0.6, key(0.8), LENGTH_S) == ()


@pytest.mark.parametrize(("changes", "kind", "words"), [
    ({"readings": (Metre(1.0, 0.0, 140.0, 0.55), Metre(0.5, 0.0, 70.0, 0.45))}, DoubtKind.OCTAVE,
     "Two tempi fit nearly as well: 140 and 70 BPM."),
    ({"readings": (Metre(1.0, 0.0, 120.0, 0.55), Metre(1.0, 0.5, 120.0, 0.45))}, DoubtKind.PHASE,
     "The beat may fall half a beat off: what sounds there fits nearly as well."),
    ({"readings": (Metre(1.0, 0.0, 120.0, 0.55), Metre(1.0, 1 / 3, 120.0, 0.45))}, DoubtKind.PHASE,
     "The beat may fall a third of a beat off: what sounds there fits nearly as well."),
    ({"bar": Bar(4, 0, 0.9, clear=False)}, DoubtKind.BAR, "Bars may have three beats: both repeat nearly as well."),
    ({"bar": Bar(4, 0, 0.4)}, DoubtKind.BAR, "Which beat is the first of the bar is not clear."),
    ({"kind": Kind.FREE, "grid": Grid.through([0.0, 50.0, 101.0], [0.0, 100.0, 200.0])}, DoubtKind.UNSTEADY,
     "The tempo wanders between 117.6 and 120.0 BPM."),
    ({"kind": Kind.STRETCHES, "grid": Grid.through([0.0, 50.0, 101.0], [0.0, 100.0, 200.0])}, DoubtKind.UNSTEADY,
     "The tempo changes between 117.6 and 120.0 BPM."),
    ({"drift": Drift(0, np.where(np.arange(BEATS) % 2, 0.018, -0.018), np.ones(BEATS))}, DoubtKind.DRIFT,
     "Onsets lie up to 18 ms off the grid."),
    ({"drift": Drift(0, np.linspace(-0.010, 0.010, BEATS), np.ones(BEATS))}, DoubtKind.DRIFT,
     "The end lies 15 ms after the grid, set by the start."),
    ({"drift": silent(0, 80)}, DoubtKind.GAP, "Almost no beat in the first 40 s."),
    ({"drift": silent(340, BEATS)}, DoubtKind.GAP, "Almost no beat in the last 31 s."),
    ({"drift": silent(120, 200)}, DoubtKind.GAP, "Almost no beat from 1:00 to 1:40."),
])  # fmt: skip
def test_each_doubt_has_its_reason(changes: dict, kind: DoubtKind, words: str) -> None:
    (doubt,) = doubts(replace(GOOD, **changes), 0.6, key(0.8), LENGTH_S)
    assert (doubt.kind, doubt.text) == (kind, words)


def test_two_readings_a_hair_apart_are_one_and_no_doubt() -> None:
    alike = (Metre(2.0, 0.0, 120.0, 0.5), Metre(2.0, 1 / 24, 120.0, 0.4), Metre(1.0, 0.0, 60.0, 0.1))
    assert doubts(replace(GOOD, readings=alike), 0.6, key(0.8), LENGTH_S) == ()


def test_keys_that_fit_equally_are_both_named() -> None:
    (doubt,) = doubts(GOOD, 0.6, key(0.3), LENGTH_S)
    assert doubt.text == "The key may be Am or C: both fit about equally."


def test_no_grid_is_told_with_what_to_do() -> None:
    for clarity, words in ((0.01, "No beat is clear enough"), (0.09, "The beat is too faint")):
        (doubt,) = doubts(None, clarity, None, LENGTH_S)
        assert doubt.text.startswith(words)
        assert doubt.text.endswith("Tap along, or set the tempo by hand.")


def test_the_runner_up_is_another_tempo_with_all_its_places() -> None:
    readings = (Metre(1.0, 0.0, 140.0, 0.5), Metre(0.5, 0.0, 70.0, 0.2), Metre(0.5, 0.5, 70.0, 0.3))
    bpm, share = runner_up(replace(GOOD, readings=readings)) or (0.0, 0.0)
    assert (bpm, share) == (70.0, pytest.approx(0.5))
    assert runner_up(replace(GOOD, readings=readings[:1])) is None
