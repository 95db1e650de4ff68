"""What is said about a newer analysis."""

from __future__ import annotations

import pytest

from fernbrook.core.track import Grid, Section, SectionKind, VoiceSpan, differences
from fernbrook.core.track.markup import Markup

FULL, BREAK = SectionKind.FULL, SectionKind.BREAK
PLAIN = Markup(grid=Grid.constant(120.0, 0.5), sections=(Section(kind=FULL, start=0, end=64),))

HALVES = (Section(kind=FULL, start=0, end=32), Section(kind=BREAK, start=32, end=64))


def _with(**changes: object) -> Markup:
    return PLAIN.model_copy(update=changes)


def test_nothing_is_said_where_nothing_is_otherwise() -> None:
    near = _with(grid=Grid.constant(120.002, 0.502), voice=(VoiceSpan(start=0, end=6),))
    assert differences(PLAIN, near, "Am", "Am") is None
    assert differences(PLAIN, PLAIN, None, "Am") is None


@pytest.mark.parametrize(
    ("now", "said"),
    [
        (_with(grid=Grid.constant(60.0, 0.5), sections=()), "120.00 BPM is 60.00 now"),
        (_with(grid=Grid.constant(120.0, 1.0)), "bars begin 1 beat later"),
        (_with(grid=Grid.constant(120.0, 2.0)), "bars begin 3 beats later"),
        (_with(grid=Grid.constant(120.0, 0.520)), "beats lie +20 ms from before"),
        (_with(grid=Grid.constant(120.0, 0.5, 3)), "bars of 4 are bars of 3 now"),
        (_with(sections=HALVES), "2 of 2 sections"),
        (_with(voice=(VoiceSpan(start=0, end=20),)), "0 s of voice are 10 now"),
        (_with(grid=None), "no grid any more"),
    ],
)
def test_each_difference_is_said(now: Markup, said: str) -> None:
    text = differences(PLAIN, now, "Am", "Am")
    assert text is not None
    assert said in text


def test_a_key_and_a_grid_that_was_missing_are_said_together() -> None:
    text = differences(Markup(), PLAIN, "Am", "C")
    assert text is not None
    assert text.startswith("The new analysis differs: a grid where there was none, Am is C now.")
