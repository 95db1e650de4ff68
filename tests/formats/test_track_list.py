from __future__ import annotations

import pytest

from fernbrook.core.plan.plan import plan
from fernbrook.formats.track_list import clock, track_list
from tests.core.test_commands import TRACKS, mix_of


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(0, "00:00"), (59.99, "00:59"), (61, "01:01"), (3600, "1:00:00"), (7384.2, "2:03:04"), (-1, "00:00")],
)
def test_clock(seconds: float, text: str) -> None:
    assert clock(seconds) == text


def test_each_entry_stands_with_the_time_it_is_first_heard() -> None:
    resolved = plan(mix_of("a", "b"), TRACKS)
    lines = track_list(resolved).splitlines()
    assert lines[2] == "00:00  A"
    assert lines[3] == f"{clock(resolved.transitions[0].start_s)}  B"
