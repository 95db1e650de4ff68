"""Bars that start again within a track: found where a beat is left out, and never where none is."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.analysis.analyse import analyse
from fernbrook.analysis.beat.odd_bars import find_odd_bars
from fernbrook.core.track import DoubtKind
from fernbrook.demo.make import make
from fernbrook.demo.song import Section, true_grid
from fernbrook.demo.songs import SONGS

SECTIONS = tuple(Section(kind, bars) for kind, bars in (("full", 16), ("break", 4), ("full", 16), ("outro", 4)))
SONG = replace(SONGS[3], sections=SECTIONS, beat="rock", file="odd.wav", loose_s=0.004)


@given(st.integers(40, 90), st.integers(1, 3), st.integers(0, 3), st.integers(0, 99))
def test_they_start_again_where_first_beats_move_to_another_place(
    before: int, rest: int, place: int, seed: int
) -> None:
    rng = np.random.default_rng(seed)
    lines = np.zeros(200)
    lines[place::4] = 1.0
    at = place + 4 * (before // 4) + rest
    lines[at - rest + 1 :] = 0.0
    lines[at::4] = 1.0
    (bar,) = find_odd_bars(lines - lines.mean() + 0.1 * rng.standard_normal(200), 4)
    assert bar.beats == rest
    assert abs(bar.at - at) <= 4


@given(st.integers(0, 3), st.integers(0, 99))
def test_none_is_found_where_they_keep_it_or_nothing_is_heard(place: int, seed: int) -> None:
    noise = np.random.default_rng(seed).standard_normal(240)
    steady = noise.copy()
    steady[place::4] += 2.0
    assert find_odd_bars(steady, 4) == []
    assert find_odd_bars(np.zeros(240), 4) == []
    assert find_odd_bars(noise[:40], 4) == []


@pytest.mark.parametrize("beats", [2, 4])
def test_a_track_that_drops_two_beats_is_counted_so_and_others_as_before(beats: int, tmp_path: Path) -> None:
    song = replace(SONG, short_bars=((19, beats),) if beats < 4 else ())
    make(song, tmp_path)
    found = analyse(tmp_path / song.file).reading
    truth = true_grid(song)
    assert found.grid is not None
    known = np.arange(song.beat_of(song.bars))
    mine = np.rint(found.grid.beat_at(truth.time_at(known)))
    same = found.grid.bar_lines.is_line(mine) == truth.bar_lines.is_line(known)
    assert len(found.grid.bars_from) == (beats < 4)
    assert same.mean() > 0.93
    odd = [d for d in found.doubts if d.kind is DoubtKind.BAR and "instead of 4" in d.text]
    assert len(odd) == (beats < 4)
    for doubt in odd:
        assert doubt.at_s == pytest.approx(float(truth.time_at(19 * 4)), abs=4.0)
