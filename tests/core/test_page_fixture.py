"""What the page's own clock is compared with. Where the core changes: run this file as a module, commit the fixture."""

from __future__ import annotations

import json
from pathlib import Path

from fernbrook.core.mix.entries import Played
from fernbrook.core.plan import TempoMap
from fernbrook.core.track import Grid

FIXTURE = Path(__file__).parents[2] / "web" / "src" / "time" / "clock.fixture.json"
COUNT = 2.0


def fixture() -> str:
    tempo = TempoMap.of([(-3.0, 112.0), (64.0, 112.0), (96.0, 125.0), (160.0, 125.0), (160.0, 174.0)], -3.5)
    grid = Grid.through([0.4, 2.4, 6.1, 6.7], [0.0, 4.0, 12.0, 13.0])
    mix_beats = [-20.0, -3.5, 0.0, 64.0, 70.25, 95.9, 96.0, 159.0, 160.0, 400.0]
    entry_beats = [-10.0, 0.0, 7.5, 8.0, 24.0, 25.0, 26.0, 99.0]
    content = {
        "map": {"tempo": [[p.beat, p.bpm] for p in tempo.points], "origin_beat": tempo.origin_beat},
        "clock": [{"beat": b, "time": float(tempo.time_at(b)), "bpm": float(tempo.bpm_at(b))} for b in mix_beats],
        "grid": grid.model_dump(),
        "count": COUNT,
        "beats": [{"beat": b, "time": float(Played(grid, COUNT).time_at(b))} for b in entry_beats],
    }
    return json.dumps(content, indent=1) + "\n"


def test_the_page_s_fixture_is_what_the_core_says() -> None:
    assert json.loads(FIXTURE.read_text()) == json.loads(fixture())


if __name__ == "__main__":
    FIXTURE.write_text(fixture())
