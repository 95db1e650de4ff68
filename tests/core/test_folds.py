"""Where a track can be folded: on made bars whose likeness is known."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix.entries import folds
from fernbrook.core.track import BarLines, BarTable, Section, SectionKind, VoiceSpan

BARS = 64
FOURS = BarLines.of([(0.0, 4.0)], 4.0)


def table(voice: tuple[VoiceSpan, ...] = ()) -> BarTable:
    return BarTable.of(0, BARS, FOURS, [Section(kind=SectionKind.FULL, start=0.0, end=BARS * 4.0)], voice, None)


def song(pattern: list[int], seed: int = 0) -> np.ndarray:
    """Bars of a few kinds, each a vector; those of one kind are the same but for a little noise."""
    rng = np.random.default_rng(seed)
    kinds = rng.standard_normal((max(pattern) + 1, 40)) / np.sqrt(40.0)
    noise = 0.01 * rng.standard_normal((len(pattern), 40))
    return (kinds[pattern] + noise).astype(np.float32)


def test_what_comes_again_is_folded_where_it_does() -> None:
    pattern = [*range(24), *range(8, 24), *range(24, 48)]
    best = folds(song(pattern), 0, table(), 16, (0, BARS))[0]
    assert 6 <= best.start <= 24
    assert best.end == best.start + 16
    assert best.likeness > 0.75


def test_what_has_nothing_in_common_is_no_proposal() -> None:
    assert folds(song(list(range(BARS))), 0, table(), 8, (0, BARS)) == []


def test_nobody_is_cut_off_while_singing() -> None:
    sung = (VoiceSpan(start=14 * 4.0, end=18 * 4.0),)
    ways = [f for f in folds(song([0] * BARS), 0, table(sung), 8, (0, BARS)) if f.likeness > 0.7]
    assert ways
    assert all(not 14 < border < 18 for f in ways for border in (f.start, f.end))


@given(st.integers(2, 20), st.integers(0, 20), st.integers(40, BARS), st.integers(0, 99))
def test_folds_lie_within_apart_from_each_other_and_the_best_comes_first(
    bars: int, low: int, high: int, seed: int
) -> None:
    found = folds(song([i % 7 for i in range(BARS)], seed), 0, table(), bars, (low, high))
    assert [f.likeness for f in found] == sorted((f.likeness for f in found), reverse=True)
    spans = sorted((f.start, f.end) for f in found)
    assert all(low <= a and b <= high and b - a == bars for a, b in spans)
    assert all(one[1] <= other[0] for one, other in pairwise(spans))


def test_the_first_bar_may_have_any_number() -> None:
    pattern = [*range(24), *range(8, 24), *range(24, 48)]
    shifted = BarTable.of(-3, BARS - 3, FOURS, [], (), None)
    best = folds(song(pattern), -3, shifted, 16, (-3, BARS - 3))[0]
    assert 6 <= best.start + 3 <= 24
