"""What was changed elsewhere comes in and what was changed here stays; what is read lies where it was marked."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.track import (
    Cue,
    CueRole,
    Grid,
    Loop,
    MarkFacet,
    Markup,
    Section,
    SectionKind,
    Tick,
    VoiceSpan,
    with_changes,
)
from fernbrook.core.track.marks import grid_through, kind_of

GRID = Grid.constant(120.0, 0.5)
ALL = tuple(MarkFacet)
places = st.dictionaries(st.sampled_from("abcdefgh"), st.integers(0, 200), max_size=6)


def marked(cues: dict[str, int], grid: Grid = GRID, **more: object) -> Markup:
    made = tuple(Cue(id=i, at=float(at), name=i) for i, at in sorted(cues.items(), key=lambda x: (x[1], x[0])))
    return Markup.model_validate({"grid": grid, "cues": made, **more})


def by_id(markup: Markup) -> dict[str, float]:
    return {c.id: c.at for c in markup.cues}


@given(places, places, places)
def test_cues_that_were_changed_there_are_as_there_and_the_others_as_here(
    base: dict[str, int], mine: dict[str, int], theirs: dict[str, int]
) -> None:
    made = by_id(with_changes(marked(mine), marked(base), marked(theirs), ALL))
    for cue in {*base, *mine, *theirs}:
        changed_there = base.get(cue) != theirs.get(cue)
        assert made.get(cue) == (theirs.get(cue) if changed_there else mine.get(cue)), cue


@given(places, places)
def test_taking_it_twice_changes_nothing_more(mine: dict[str, int], theirs: dict[str, int]) -> None:
    base = marked({"a": 4, "b": 8})
    once = with_changes(marked(mine), base, marked(theirs), ALL)
    assert with_changes(once, base, marked(theirs), ALL) == once
    assert with_changes(marked(mine), base, base, ALL) == marked(mine)


def test_what_is_not_wanted_stays() -> None:
    base = marked({"a": 4}, loops=(Loop(id="l", start=0.0, beats=8.0),))
    theirs = marked({"a": 12, "n": 20}, loops=(Loop(id="l", start=8.0, beats=8.0),), voice=(VoiceSpan(start=1, end=2),))
    mine = marked({"a": 4, "m": 6})
    cues = with_changes(mine, base, theirs, [MarkFacet.CUES])
    assert by_id(cues) == {"a": 12.0, "n": 20.0, "m": 6.0}
    assert cues.voice == ()
    loops = with_changes(base, base, theirs, [MarkFacet.LOOPS, MarkFacet.VOICE])
    assert (loops.loops, loops.voice, by_id(loops)) == (theirs.loops, theirs.voice, {"a": 4.0})


def test_it_is_counted_by_the_grid_of_here_and_a_grid_that_was_changed_comes_first() -> None:
    half = Grid.constant(60.0, 0.5)
    made = with_changes(marked({"a": 2}, half), marked({"a": 4}), marked({"a": 8}), ALL)
    assert made.grid == half
    assert by_id(made) == {"a": 4.0}
    later = Grid.constant(120.0, 0.75)
    sections = (Section(kind=SectionKind.FULL, start=0.0, end=16.0),)
    moved = with_changes(marked({"a": 4}, sections=sections), marked({}), marked({}, later), ALL)
    assert moved.grid == later
    assert by_id(moved) == {"a": 4.0}
    assert moved.by_hand
    assert moved.sections[0].end - moved.sections[0].start == 16.0


def test_a_role_that_a_track_has_once_goes_over() -> None:
    start = Cue(id="s", at=4.0, role=CueRole.START)
    base, mine = Markup(grid=GRID), Markup(grid=GRID, cues=(start,))
    theirs = Markup(grid=GRID, cues=(Cue(id="t", at=8.0, role=CueRole.START),))
    assert [(c.id, c.at) for c in with_changes(mine, base, theirs, ALL).cues] == [("t", 8.0)]


@given(st.floats(60.0, 180.0), st.integers(0, 6), st.integers(2, 7), st.integers(12, 60))
def test_a_grid_through_steady_beats_has_one_anchor_and_their_bars(
    bpm: float, pick_up: int, bar: int, count: int
) -> None:
    ticks = [Tick(at_s=0.3 + n * 60.0 / bpm, is_first=(n - pick_up) % bar == 0) for n in range(count)]
    grid = grid_through(ticks)
    assert len(grid.anchors) == 1
    first = pick_up % bar
    if count >= first + 2 * bar:
        assert grid.beats_per_bar == bar
        assert abs(float(grid.time_at(0.0)) - ticks[first].at_s) < 1e-6
    assert abs(float(grid.bpm_after) - bpm) < 1e-3


def test_words_for_sections_are_known() -> None:
    assert [kind_of(w) for w in ("Intro", "outro 2", "CHORUS", "Break down", "build-up", "silence", "A", "")] == [
        SectionKind.BEAT,
        SectionKind.BEAT,
        SectionKind.FULL,
        SectionKind.BREAK,
        SectionKind.RISE,
        SectionKind.BEATLESS,
        SectionKind.FULL,
        SectionKind.FULL,
    ]
