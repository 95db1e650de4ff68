"""Edits of an entry: what is heard of a track, where, and that all that was placed stays with what sounds."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.commands.edits import moved
from fernbrook.core.mix.entries import Arrangement, Played
from fernbrook.core.mix.entries.arrangement import arranged
from fernbrook.core.mix.model import Mix, recounted_mix
from fernbrook.core.mix.placing import Span
from fernbrook.core.plan import WarningKind, plan
from fernbrook.core.track import (
    CueRole,
    DropOut,
    Edit,
    Grid,
    Recount,
    Repeat,
    SectionKind,
    Skip,
    Stem,
    Swap,
    TrackFacts,
)
from tests.core.test_proposals import BAR, cue, sung, track

GRID = Grid.constant(120.0, 0.0)
B, F, K = SectionKind.BEAT, SectionKind.FULL, SectionKind.BREAK
SONG = [(B, 16), (F, 32), (K, 24), (F, 32), (B, 4)]
SKIP = Skip(id="s", start=64.0, end=96.0)
TWICE = Repeat(id="r", start=100.0, end=116.0, times=3)
PAIR = {"out_id": "e1", "in_id": "e2"}


def heard(*edits: Edit, count: float = 1.0) -> Arrangement:
    return arranged(edits, Played(GRID, count))


def spans(a: Arrangement) -> list[tuple[float, float]]:
    """What is heard, in beats of the track."""
    return [p.grid_span for p in a.pieces]


def test_each_edit_does_what_it_says() -> None:
    assert spans(heard(SKIP)) == [(-math.inf, 64.0), (96.0, math.inf)]
    assert spans(heard(TWICE)) == [(-math.inf, 116.0), (100.0, 116.0), (100.0, math.inf)]
    swap = Swap(id="w", start=0.0, end=16.0, other_start=32.0, other_end=40.0)
    assert spans(heard(swap)) == [(-math.inf, 0.0), (32.0, 40.0), (16.0, 32.0), (0.0, 16.0), (40.0, math.inf)]
    gone = heard(SKIP, Repeat(id="r", start=56.0, end=104.0, times=2))
    assert spans(gone) == [(-math.inf, 64.0), (96.0, 104.0), (56.0, 64.0), (96.0, math.inf)]
    assert heard(SKIP).place_of(70.0) is None
    assert heard(SKIP).place_of(100.0) == 68.0
    assert heard(TWICE, count=2.0).places_of(104.0) == [208.0, 240.0, 272.0]
    assert heard().is_whole


def test_what_is_dropped_is_silent_wherever_it_is_heard() -> None:
    a = heard(TWICE, DropOut(id="d", start=112.0, end=116.0, stems=(Stem.VOICE,)))
    assert [(g.start, g.end) for g in a.dropped] == [(112.0, 116.0), (128.0, 132.0), (144.0, 148.0)]
    assert [(v.start, v.end) for v in a.voice(sung((27, 29)))] == [(108.0, 112.0), (124.0, 128.0), (140.0, 144.0)]


@st.composite
def some_edits(draw: st.DrawFn) -> list[Edit]:
    made: list[Edit] = []
    for number in range(draw(st.integers(1, 5))):
        start = draw(st.integers(0, 300))
        end = start + draw(st.integers(1, 64))
        kind = draw(st.sampled_from(["skip", "repeat", "swap"]))
        if kind == "skip":
            made.append(Skip(id=f"{number}", start=start, end=end))
        elif kind == "repeat":
            made.append(Repeat(id=f"{number}", start=start, end=end, times=draw(st.integers(2, 4))))
        else:
            other = end + draw(st.integers(0, 60))
            length = draw(st.integers(1, 40))
            made.append(Swap(id=f"{number}", start=start, end=end, other_start=other, other_end=other + length))
    return made


@given(some_edits(), st.sampled_from([0.5, 1.0, 2.0]), st.floats(-20.0, 400.0))
def test_pieces_follow_each_other_and_the_map_can_be_inverted_on_what_sounds(
    edits: list[Edit], count: float, beat: float
) -> None:
    a = heard(*edits, count=count)
    for one, following in pairwise(a.pieces):
        assert one.end == pytest.approx(following.start)
        assert one.start < one.end
    assert a.pieces[0].start == -math.inf
    assert a.pieces[-1].end == math.inf
    at = a.piece_at(beat).played.to_grid(beat)
    assert any(abs(place - beat) < 1e-5 for place in a.places_of(at))


@given(some_edits(), st.integers(0, 380))
def test_what_was_placed_lies_on_the_same_sound_after_an_edit(edits: list[Edit], beat: int) -> None:
    before, after = heard(), heard(*edits)
    there = moved(float(beat), before, after)
    places = after.places_of(float(beat))
    if places:
        assert there == places[0]
        assert moved(there, after, before) == pytest.approx(float(beat))
    else:
        later = {p.start: p.grid_span[0] for p in after.pieces if p.grid_span[0] >= beat}
        assert later[there] == min(later.values())


def two(song: TrackFacts, *commands: c.AnyMixCommand) -> tuple[Mix, dict[str, TrackFacts]]:
    tracks = {"a": song, "b": track("b", SONG)}
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("a", "b")), tracks)
    for command in commands:
        mix = c.apply(mix, command, tracks)
    return mix, tracks


def put(*edits: Edit) -> c.AnyMixCommand:
    return c.PutEdits(entry_id="e1", edits=edits)


def test_a_break_is_shortened_and_everything_after_closes_up() -> None:
    song = track("a", SONG, voice=sung((80, 90)), cues=cue(96, CueRole.MIX_OUT))
    mix, tracks = two(song)
    shorter = put(Skip(id="x", start=52 * BAR, end=68 * BAR))
    placed = c.apply(mix, c.PlaceTransition(out_at=96 * BAR, beats=8 * BAR, **PAIR), tracks)
    edited = c.apply(placed, shorter, tracks)
    before, after = plan(placed, tracks), plan(edited, tracks)
    assert before.duration_s - after.duration_s == pytest.approx(32.0)
    assert after.transitions[0].transition.out_at == 80 * BAR
    assert after.transitions[0].transition.out_cue is not None
    assert [(v.start, v.end) for v in after.entries[0].voice] == [(64 * BAR, 74 * BAR)]
    assert [s.start / BAR for s in after.entries[0].sections if s.kind is F] == [16.0, 56.0]
    assert [s for s in after.warnings if s.kind.value in ("cue", "does_not_fit")] == []
    assert plan(c.apply(mix, shorter, tracks), tracks).transitions[0].transition.out_at == 80 * BAR
    recorded = c.apply(edited, c.PlayAsRecorded(entry_id="e1", as_recorded=True), tracks)
    assert plan(recorded, tracks).transitions[0].transition.out_at == 96 * BAR
    assert plan(recorded, tracks).duration_s == before.duration_s
    again = c.apply(recorded, c.PlayAsRecorded(entry_id="e1", as_recorded=False), tracks)
    assert again.transitions == edited.transitions


def test_a_short_outro_carries_a_long_blend_by_repeating_until_it_has_left() -> None:
    song = track("a", SONG)
    mix, tracks = two(song, put(Repeat(id="x", start=104 * BAR, end=108 * BAR, times=None)))
    span = Span.of(mix.entries[0], song)
    assert (span.end, span.reach >= span.end + 128) == (108 * BAR, True)
    long = c.apply(mix, c.PlaceTransition(out_at=104 * BAR, in_at=0.0, beats=32 * BAR, **PAIR), tracks)
    resolved = plan(long, tracks)
    assert resolved.transitions[0].transition.beats == 32 * BAR
    assert len(resolved.entries[0].segments) == 8
    alone = c.apply(long, c.RemoveEntries(entry_ids=("e2",)), tracks)
    assert plan(alone, tracks).duration_s == pytest.approx(108 * BAR / 2)


def test_edits_are_copied_to_other_uses_of_the_track_and_to_no_other() -> None:
    mix, tracks = two(track("a", SONG), put(SKIP))
    twice = c.apply(mix, c.DuplicateEntries(entry_ids=("e1",)), tracks)
    bare = c.apply(twice, c.RemoveEdits(entry_id="e3"), tracks)
    assert bare.entries[1].edits == ()
    copied = c.apply(bare, c.CopyEdits(entry_id="e1", to_ids=("e3",)), tracks)
    assert copied.entries[1].edits == (SKIP,)
    with pytest.raises(c.CommandError, match="same track"):
        c.apply(mix, c.CopyEdits(entry_id="e1", to_ids=("e2",)), tracks)


@pytest.mark.parametrize(
    ("edits", "words"),
    [
        ([Skip(id="x", start=-4.0, end=108 * BAR)], "less than a bar"),
        ([SKIP, SKIP], "same id"),
        ([Repeat(id=f"{i}", start=8.0 * i, end=8.0 * i + 12, times=64) for i in range(20)], "1000 pieces"),
    ],
)
def test_edits_that_leave_nothing_or_too_much_are_refused(edits: list[Edit], words: str) -> None:
    with pytest.raises(c.CommandError, match=words):
        two(track("a", SONG), put(*edits))


def test_a_grid_that_is_halved_leaves_edits_where_they_sound() -> None:
    mix, _ = two(track("a", SONG), put(SKIP))
    half = recounted_mix(mix, {"a": Recount(GRID, Grid.constant(60.0, 0.0))})
    assert (half.entries[0].edits[0].start, half.entries[0].edits[0].end) == (32.0, 48.0)


def test_a_track_in_which_nothing_sounds_has_a_place() -> None:
    silent = track("a", SONG).model_copy(update={"sound_start_s": 0.0, "sound_end_s": 0.0})
    mix, tracks = two(silent)
    assert plan(mix, tracks).duration_s > 0.0
    assert heard(SKIP).extent_of(32.0, 40.0) == (64.0, 64.0)


def test_a_repeat_until_it_has_left_does_not_wait_for_a_transition_that_lay_later() -> None:
    mix, tracks = two(track("a", SONG))
    placed = c.apply(mix, c.PlaceTransition(out_at=100 * BAR, beats=8 * BAR, **PAIR), tracks)
    round_and_round = c.apply(placed, put(Repeat(id="x", start=60 * BAR, end=64 * BAR, times=None)), tracks)
    before, after = plan(placed, tracks), plan(round_and_round, tracks)
    assert after.transitions[0].transition.out_at == before.transitions[0].transition.out_at
    assert after.duration_s == pytest.approx(before.duration_s)
    assert after.entries[0].heard.piece_at(100 * BAR + 1).grid_span == (60 * BAR, 64 * BAR)


def test_an_edit_that_nobody_hears_says_so_and_one_where_there_is_nothing_is_refused() -> None:
    mix, tracks = two(track("a", SONG))
    early = c.apply(mix, c.PlaceTransition(out_at=64 * BAR, beats=8 * BAR, **PAIR), tracks)
    for edit in (
        Repeat(id="x", start=90 * BAR, end=94 * BAR, times=2),
        DropOut(id="x", start=90 * BAR, end=91 * BAR),
        Skip(id="x", start=90 * BAR, end=94 * BAR),
    ):
        edited = c.apply(early, put(edit), tracks)
        (told,) = [s for s in plan(edited, tracks).warnings if s.kind is WarningKind.EDIT]
        assert (told.entry, "bar 91" in told.message) == (0, True)
        mended = c.apply(edited, told.mends[0].command, tracks)
        assert [s for s in plan(mended, tracks).warnings if s.kind is WarningKind.EDIT] == []
        off = c.apply(edited, put(edit.model_copy(update={"on": False})), tracks)
        assert [s for s in plan(off, tracks).warnings if s.kind is WarningKind.EDIT] == []
    heard = c.apply(early, put(Repeat(id="x", start=40 * BAR, end=44 * BAR, times=2)), tracks)
    assert [s for s in plan(heard, tracks).warnings if s.kind is WarningKind.EDIT] == []
    for start in (1001 * BAR, -900.0):
        with pytest.raises(c.CommandError, match="nothing of"):
            c.apply(early, put(Skip(id="x", start=start, end=start + 4.0)), tracks)


def test_a_repeat_until_the_end_comes_after_those_that_are_counted() -> None:
    """What is heard twice within it is heard twice before it goes round: without it the track would end later."""
    for_ever = Repeat(id="a", start=64.0, end=96.0, times=None)
    twice = Repeat(id="b", start=80.0, end=96.0, times=2)
    for both in (heard(for_ever, twice), heard(twice, for_ever)):
        assert both.natural_end == 112.0
        assert spans(both)[:3] == [(-math.inf, 96.0), (80.0, 96.0), (80.0, 96.0)]
