"""What the page's own twins of the core are compared with: its clock, its grid, its pieces, its curves and laws. Where
the core changes: run this file as a module, commit the fixture."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

from fernbrook.core.mix.curves import MIDDLE, Curve, Law, edge_hz, gain_of, high_pass_hz, low_pass_hz
from fernbrook.core.mix.curves.curve import Onward
from fernbrook.core.mix.entries import Played
from fernbrook.core.mix.entries.arrangement import arranged
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import BarsFrom, Grid, Repeat, Skip, Swap

FIXTURE = Path(__file__).parents[2] / "web" / "src" / "time" / "clock.fixture.json"
COUNT = 2.0


CURVES = (
    Curve.of((0.0, 1.0), (0.3, 0.2), (1.0, 0.8)),
    Curve.of((0.1, 0.0, Onward.SMOOTH), (0.6, 1.0, Onward.STEP), (0.9, 0.25), (1.0, 0.5)),
    Curve.of((0.5, 0.7)),
)


def _curve(curve: Curve) -> dict[str, Any]:
    places = [-0.5, 0.0, 0.05, 0.1, 0.2, 0.35, 0.6, 0.75, 0.85, 0.9, 0.95, 1.0, 1.5]
    # Of a step the page draws the edge, the core the last five thousandth of a beat before it.
    return {
        "points": [[p.at, p.value, p.onward.value] for p in curve.points],
        "values": [{"place": p, "value": float(curve.value_at(p, step=1e-9))} for p in places],
    }


def _arrangement(played: Played) -> dict[str, Any]:
    """A track that is edited in every way, and what is heard of it where."""
    heard = arranged(
        [
            Swap(id="w", start=16.0, end=24.0, other_start=40.0, other_end=48.0),
            Skip(id="s", start=64.0, end=80.0),
            Repeat(id="r", start=88.0, end=96.0, times=3),
        ],
        played,
    )
    finite = lambda beat: beat if math.isfinite(beat) else None  # noqa: E731
    beats = [-8.0, 0.0, 31.0, 32.0, 40.5, 48.0, 80.0, 100.0, 127.9, 128.0, 150.0, 170.0, 200.0, 300.0]
    return {
        "pieces": [{"start": finite(p.start), "end": finite(p.end), "shift": p.played.shift} for p in heard.pieces],
        "beats": [
            {
                "beat": b,
                "grid_beat": heard.piece_at(b).played.to_grid(b),
                "seconds": float(heard.piece_at(b).played.time_at(b)),
            }
            for b in beats
        ],
        "places": [{"grid_beat": b, "places": heard.places_of(b)} for b in (-4.0, 16.0, 20.0, 41.0, 70.0, 90.0, 96.0)],
        "spans": [
            {"start": a, "end": b, "spans": [{"start": x, "end": y} for x, y in heard.spans_of(a, b)]}
            for a, b in ((0.0, 8.0), (12.0, 44.0), (60.0, 84.0), (66.0, 70.0), (84.0, 100.0), (88.0, 96.0))
        ],
    }


def _bars(grid: Grid) -> dict[str, Any]:
    """The bars of a grid in which they start again, and where its beats lie in them."""
    lines = grid.bar_lines
    beats = [-25.0, -9.5, -1.0, 0.0, 27.5, 28.0, 32.0, 33.0, 34.5, 44.0, 55.0, 56.0, 120.0]
    return {
        "grid": grid.model_dump(),
        "beats": [
            {
                "beat": b,
                "bars": float(lines.at(b)),
                "bar": int(lines.bar_of(b)),
                "within": float(lines.within(b)),
                "in_phrase": int(lines.phrase_of(lines.bar_of(b))),
            }
            for b in beats
        ],
    }


def fixture() -> str:
    tempo = TempoMap.of([(-3.0, 112.0), (64.0, 112.0), (96.0, 125.0), (160.0, 125.0), (160.0, 174.0)], -3.5)
    steps = Grid.through([0.4, 2.4, 6.1, 6.7], [0.0, 4.0, 12.0, 13.0])
    ramped = [a.model_copy(update={"ramp": r}) for a, r in zip(steps.anchors, (1.0, 1.3, 0.8, 1.0), strict=True)]
    grid = steps.model_copy(update={"anchors": tuple(ramped)})
    mix_beats = [-20.0, -3.5, 0.0, 64.0, 70.25, 95.9, 96.0, 159.0, 160.0, 400.0]
    entry_beats = [-10.0, 0.0, 7.5, 8.0, 24.0, 25.0, 26.0, 99.0]
    content = {
        "map": {"tempo": [[p.beat, p.bpm] for p in tempo.points], "origin_beat": tempo.origin_beat},
        "clock": [{"beat": b, "time": float(tempo.time_at(b)), "bpm": float(tempo.bpm_at(b))} for b in mix_beats],
        "grid": grid.model_dump(),
        "count": COUNT,
        "beats": [{"beat": b, "time": float(Played(grid, COUNT).time_at(b))} for b in entry_beats],
        "bars": _bars(
            grid.model_copy(
                update={"bars_from": tuple(BarsFrom(beat=b, beats=n) for b, n in ((-10, 4), (33, 3), (44, 4), (54, 4)))}
            )
        ),
        "arrangement": _arrangement(Played(grid, COUNT)),
        "curves": [_curve(c) for c in CURVES],
        "laws": [
            {
                "position": p,
                "fader": float(gain_of(p)),
                "linear": float(gain_of(p, Law.LINEAR)),
                "hz": float(low_pass_hz(p) if p < MIDDLE else high_pass_hz(p)),
                "edge": float(edge_hz(p)),
            }
            for p in (0.0, 0.1, 0.25, 0.49, 0.51, 0.75, 1.0)
        ],
    }
    return json.dumps(content, indent=1) + "\n"


def test_the_page_s_fixture_is_what_the_core_says() -> None:
    assert json.loads(FIXTURE.read_text()) == json.loads(fixture())


if __name__ == "__main__":
    FIXTURE.write_text(fixture())
