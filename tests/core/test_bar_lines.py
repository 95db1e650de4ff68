"""Bars that start again, odd bars, and phrases across them: of a track, of an entry, and of the mix."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.entries import Arrangement, Entry, Played
from fernbrook.core.mix.entries.arrangement import arranged
from fernbrook.core.mix.model import Mix
from fernbrook.core.plan import WarningKind, plan
from fernbrook.core.plan.straight import straight_grid, straight_plan
from fernbrook.core.track import (
    BarLines,
    BarsFrom,
    Energy,
    Grid,
    GridEditError,
    Markup,
    Repeat,
    Section,
    SectionKind,
    Skip,
    TrackFacts,
)
from fernbrook.core.track import grid_edits as edits
from fernbrook.core.track.commands import BarsBegin, BarsGoOn, CountFrom, apply
from fernbrook.core.track.marks import Tick, grid_through
from fernbrook.core.track.markup import MarkupError

BEATS = np.arange(-60.0, 320.0)


@st.composite
def grids(draw: st.DrawFn) -> Grid:
    """Grids whose bars start again here and there."""
    begins = draw(st.lists(st.integers(-50, 300).filter(bool), max_size=6, unique=True).map(sorted))
    lengths = st.integers(2, 7)
    anew = tuple(BarsFrom(beat=b, beats=draw(lengths)) for b in begins)
    return Grid.constant(120.0, 1.0, draw(lengths)).model_copy(update={"bars_from": anew})


@given(grids())
def test_bars_and_beats_are_inverse_and_bar_0_begins_with_beat_0(grid: Grid) -> None:
    lines = grid.bar_lines
    assert np.allclose(lines.beat_of(lines.at(BEATS)), BEATS)
    assert np.all(np.diff(lines.at(BEATS)) > 0)
    assert float(lines.at(0.0)) == 0.0
    assert all(lines.is_line(float(b.beat)) for b in grid.bars_from)
    assert np.all((lines.within(BEATS) > -1e-9) & (lines.within(BEATS) < 12.0))


@given(grids())
def test_all_lines_are_beats_and_an_odd_bar_ends_where_bars_begin_anew(grid: Grid) -> None:
    bars = np.arange(grid.bar_lines.bar_of(-60.0), grid.bar_lines.bar_of(320.0))
    starts = grid.bar_lines.beat_of(bars)
    assert np.allclose(starts, np.rint(starts))
    usual = {grid.beats_per_bar, *(b.beats for b in grid.bars_from)}
    ends = {0.0, *(float(b.beat) for b in grid.bars_from)}
    odd = [end for length, end in zip(np.diff(starts), starts[1:], strict=True) if round(length) not in usual]
    assert {float(round(end)) for end in odd} <= ends


@pytest.mark.parametrize(
    ("at", "expected"),
    [(12, []), (14, [(12.0, 2.0)]), (15, [(12.0, 3.0)]), (13, [(8.0, 5.0)]), (2, [(0.0, 2.0)]), (1, [(0.0, 1.0)])],
)
def test_a_rest_is_a_bar_of_its_own_or_makes_the_one_before_it_longer(
    at: int, expected: list[tuple[float, float]]
) -> None:
    lines = edits.bars_from(Grid.constant(120.0, 0.0), at, 4).bar_lines
    assert lines.odd_bars(-16.0, 64.0, 4.0) == expected


def test_phrases_count_on_across_a_bar_that_is_short_and_begin_anew_after_one_too_many() -> None:
    short = edits.bars_from(Grid.constant(120.0, 0.0), 8 * 4 - 1, 4).bar_lines
    assert [int(short.phrase_of(n)) for n in (0, 7, 8, 16)] == [0, 7, 0, 0]
    more = edits.bars_from(Grid.constant(120.0, 0.0), 8 * 4 + 2, 4).bar_lines
    assert [int(more.phrase_of(n)) for n in (7, 8, 9, 17)] == [7, 0, 0, 0]
    assert more.phrase_down(9 * 4 + 5.0) == 8 * 4 + 2


@given(grids(), st.integers(-40, 280))
def test_counting_from_another_beat_holds_where_bars_begin_anew(grid: Grid, beat: int) -> None:
    counted = edits.count_from(grid, float(beat))
    assert counted.bar_lines.is_line(0.0)
    held = [b.beat - beat for b in grid.bars_from]
    assert all(counted.bar_lines.is_line(float(at)) for at in held)
    later = [b for b in grid.bars_from if b.beat > beat]
    if later:
        after = np.arange(later[-1].beat, 320.0)
        assert np.array_equal(counted.bar_lines.is_line(after - beat), grid.bar_lines.is_line(after))


@given(grids(), st.integers(-40, 280), st.integers(2, 7))
def test_bars_that_begin_anew_leave_those_before_and_are_taken_back(grid: Grid, beat: int, length: int) -> None:
    assume(beat != 0 and all(b.beat != beat for b in grid.bars_from))
    made = edits.bars_from(grid, beat, length)
    assume(all(b in made.bars_from for b in grid.bars_from))
    following = [b.beat for b in (*grid.bars_from, BarsFrom(beat=1, beats=2)) if b.beat > beat]
    assert made.bar_lines.is_line(float(beat))
    early = BEATS[beat - 12.0 > BEATS]
    if beat > 0:
        assert np.array_equal(made.bar_lines.is_line(early), grid.bar_lines.is_line(early))
        end = min([*following, 320])
        run = np.arange(float(beat), end - 12.0)
        assert np.array_equal(made.bar_lines.is_line(run), (run - beat) % length == 0)
    back = edits.bars_on(made, beat) if any(b.beat == beat for b in made.bars_from) else made
    assert np.array_equal(back.bar_lines.is_line(BEATS), grid.bar_lines.is_line(BEATS))


def test_the_first_of_a_bar_turns_the_bars_of_its_stretch_alone() -> None:
    grid = edits.bars_from(Grid.constant(120.0, 0.0), 34, 4)
    turned = edits.first_of_bar(grid, 37.0)
    assert [b.beat for b in turned.bars_from] == [33]
    assert turned.anchors == grid.anchors
    both = edits.first_of_bar(grid, 9.0)
    assert both.bar_lines.is_line(float(both.beat_at(grid.time_at(34.0))))
    assert both.bar_lines.is_line(float(both.beat_at(grid.time_at(9.0))))


@given(grids(), st.sampled_from([0.5, 2.0]))
def test_counted_otherwise_bars_begin_anew_at_the_same_moments(grid: Grid, factor: float) -> None:
    scaled = edits.scale(grid, factor)
    whole = [b for b in grid.bars_from if (b.beat * factor) % 1.0 == 0.0]
    assert all(scaled.bar_lines.is_line(b.beat * factor) for b in whole)
    assert scaled.bar_lines.is_line(0.0)


def test_what_cannot_be_is_refused() -> None:
    grid = Grid.constant(120.0, 0.0)
    with pytest.raises(GridEditError, match="do not start again"):
        edits.bars_on(grid, 16.0)
    with pytest.raises(MarkupError, match="No grid yet"):
        apply(Markup(), BarsBegin(beat=4.0, beats=4))
    with pytest.raises(ValueError, match="rising beats"):
        Grid(
            anchors=grid.anchors,
            bpm_before=120.0,
            bpm_after=120.0,
            bars_from=(BarsFrom(beat=8, beats=4), BarsFrom(beat=8, beats=3)),
        )


def test_bars_begin_anew_by_command_and_go_on_again() -> None:
    markup = Markup(grid=Grid.constant(120.0, 0.0))
    begun = apply(markup, BarsBegin(beat=34.0, beats=3))
    assert begun.grid is not None
    assert begun.grid.bars_from == (BarsFrom(beat=34, beats=3),)
    assert begun.by_hand
    assert apply(begun, BarsGoOn(beat=34.0)).grid == markup.grid
    moved = apply(begun, CountFrom(beat=4.0)).grid
    assert moved is not None
    assert moved.bars_from == (BarsFrom(beat=30, beats=3),)


@given(grids())
def test_beats_of_a_file_make_the_bars_that_they_name(grid: Grid) -> None:
    moments, firsts = grid.ticks(0.0, 120.0)
    assume(np.diff(np.flatnonzero(firsts)).min() > 1)  # a bar of one beat goes to the one before it
    made = grid_through([Tick(at_s=float(s), is_first=bool(first)) for s, first in zip(moments, firsts, strict=True)])
    again, firsts_again = made.ticks(0.0, 120.0)
    inner = slice(13, -13)
    assert np.allclose(again[inner], moments[inner], atol=2e-3)
    assert np.array_equal(firsts[inner], firsts_again[inner])


def test_an_entry_that_was_edited_counts_the_bars_that_are_heard() -> None:
    grid = edits.bars_from(Grid.constant(120.0, 0.0), 34, 4)
    heard = arranged(
        [Skip(id="s", start=8.0, end=10.0), Repeat(id="r", start=34.0, end=42.0, times=2)], Played(grid, 1.0)
    )
    lines = heard.bar_lines
    places = [p for g in (0.0, 4.0, 12.0, 32.0, 34.0, 38.0, 42.0) for p in heard.places_of(g)]
    assert all(lines.is_line(p) for p in places)
    doubled = Arrangement.of(Entry(id="e", track_id="t", count=2.0), _track(grid)).bar_lines
    assert np.array_equal(doubled.is_line(2.0 * BEATS), grid.bar_lines.is_line(BEATS))


def _track(grid: Grid, name: str = "t") -> TrackFacts:
    return TrackFacts(id=name, title=name, duration_s=240.0, grid=grid, energy=None)


def test_the_mix_counts_the_odd_bar_of_whoever_leads_and_says_where_first_beats_part() -> None:
    odd = edits.bars_from(Grid.constant(120.0, 0.0), 402, 4)
    tracks = {"odd": _track(odd, "odd"), "plain": _track(Grid.constant(120.0, 0.0), "plain")}
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("odd", "plain")), tracks)
    pair = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    mix = c.apply(mix, c.PlaceTransition(out_at=384.0, in_at=0.0, beats=32.0, **pair), tracks)
    resolved = plan(mix, tracks)
    moments, firsts = resolved.bars.ticks(190.0, 202.0)
    beats = np.rint(resolved.tempo.beat_at(moments[firsts]) - resolved.entries[0].offset)
    assert beats.tolist()[:6] == [380.0, 384.0, 388.0, 392.0, 396.0, 400.0]
    warning = next(w for w in resolved.warnings if w.kind is WarningKind.BARS)
    assert warning.message.startswith("Bar 101 of the outgoing has 2 beats and not 4")
    for mend in warning.mends[:1]:
        mended = plan(c.apply(mix, mend.command, tracks), tracks)
        assert not [w for w in mended.warnings if w.kind is WarningKind.BARS]
        assert mended.transitions[0].transition.beats == 16.0


def test_sections_lines_and_energy_go_by_the_bars_that_there_are() -> None:
    grid = edits.bars_from(Grid.constant(120.0, 0.0), 62, 4)
    sections = (
        Section(kind=SectionKind.BEAT, start=0.0, end=62.0),
        Section(kind=SectionKind.FULL, start=62.0, end=190.0),
    )
    track = _track(grid).model_copy(
        update={
            "sections": sections,
            "sound_end_s": 95.0,
            "energy": Energy(first_bar=0, by_bar=(0.2,) * 16 + (0.9,) * 32),
        }
    )
    table = track.bars
    assert table.bass[:17].tolist() == [0.0] * 16 + [1.0]
    assert table.line[16] == 1.0
    assert table.energy[15:17].tolist() == [0.2, 0.9]
    assert {p.cue.at for p in track.suggested_cues} >= {0.0, 62.0}


@given(st.sampled_from([0.5, 2.0]), st.integers(-8, 8))
def test_energy_stays_at_its_moments_when_bars_are_counted_otherwise(factor: float, by: int) -> None:
    found = Grid.constant(120.0, 0.0)
    energy = Energy(first_bar=0, by_bar=tuple(n / 64 for n in range(64)))
    now = edits.count_from(edits.scale(found, factor), float(by))
    moved = energy.recounted(found, now)
    for n, level in enumerate(moved.by_bar):
        middle = float(now.time_at(now.bar_lines.beat_of(moved.first_bar + n + 0.5)))
        assert level == pytest.approx(min(63, max(0, int(middle // 2.0))) / 64)
    assert energy.recounted(found, found) is energy


def test_bar_lines_by_hand_are_what_they_say() -> None:
    lines = BarLines.of([(-10.0, 4.0), (0.0, 4.0), (33.0, 3.0)], 4.0)
    assert [float(lines.beat_of(n)) for n in (-4, -3, -1, 0, 1, 8, 9)] == [-14.0, -10.0, -2.0, 0.0, 4.0, 33.0, 36.0]
    assert lines.length_at(29.0) == 5.0
    assert (lines.down(32.0), lines.up(29.0), lines.nearest(31.0)) == (28.0, 33.0, 33.0)


def test_a_file_of_chaotic_bars_still_makes_a_grid() -> None:
    firsts = np.cumsum(np.tile([3, 4, 4, 2, 4, 4], 600))
    ticks = [Tick(at_s=0.5 * n, is_first=bool(first)) for n, first in enumerate(np.isin(np.arange(12_600), firsts))]
    grid = grid_through(ticks)
    assert 900 < len(grid.bars_from) <= 1000
    assert grid.bar_lines.is_line(float(firsts[10] - firsts[0]))


def test_a_track_made_straight_keeps_its_odd_bars() -> None:
    odd = edits.bars_from(Grid.constant(119.3, 0.2), 66, 4)
    assert straight_grid(straight_plan(_track(odd), 120.0)).bars_from == odd.bars_from


def test_an_entry_that_repeats_whole_bars_until_it_has_left_counts_as_one_run() -> None:
    loop = Repeat(id="r", start=8.0, end=12.0, times=None)
    lines = arranged([loop], Played(Grid.constant(120.0, 0.0), 1.0)).bar_lines
    assert len(lines.knots) == 1
    assert np.array_equal(lines.is_line(BEATS), BEATS % 4 == 0)
