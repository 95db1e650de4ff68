"""Commands on the running order: what is kept together stays whole, what is fixed stays in its place."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.entries import LAST, blocks_of
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import ReadyShape
from fernbrook.core.plan import plan
from fernbrook.core.track import Cue, CueRole, Energy, Grid, Key, KeyFact, TrackFacts

KEYS = ("Am", "C", "F#", None, "Em", "Dm", "Bb", "G")


def _track(number: int) -> TrackFacts:
    key = KEYS[number]
    return TrackFacts(
        id=f"t{number}",
        title=f"Title {number}",
        artist=f"Artist {7 - number}",
        duration_s=200.0 + 7.0 * (number * 5 % 8),
        grid=Grid.constant(118.0 + (number * 3) % 8, 0.2),
        key=KeyFact(key=found) if key and (found := Key.parse(key)) else None,
        energy=Energy(first_bar=0, by_bar=(0.1 * number, 0.1 * number)),
    )


TRACKS = {t.id: t for t in map(_track, range(8))}


def _mix(count: int = 6) -> Mix:
    return c.apply(Mix(name="m"), c.AddTracks(track_ids=tuple(f"t{n}" for n in range(count))), TRACKS)


def _do(mix: Mix, *commands: c.AnyMixCommand) -> Mix:
    for command in commands:
        mix = c.apply(mix, command, TRACKS)
    return mix


def _tracks(mix: Mix) -> str:
    """The numbers of the tracks in order; those kept together in brackets."""
    blocks = ("".join(e.track_id[1:] for e in b) for b in blocks_of(mix.entries))
    return " ".join(f"({b})" if len(b) > 1 else b for b in blocks)


def test_those_kept_together_come_together_and_move_as_one() -> None:
    mix = _do(_mix(), c.KeepTogether(entry_ids=("e2", "e4")))
    assert _tracks(mix) == "0 (13) 2 4 5"
    assert _tracks(_do(mix, c.MoveEntries(entry_ids=("e4",), to=4))) == "0 2 4 5 (13)"
    assert _tracks(_do(mix, c.MoveEntries(entry_ids=("e6",), to=2))) == "0 5 (13) 2 4"
    assert _tracks(_do(mix, c.AddTracks(track_ids=("t7",), at=2))) == "0 7 (13) 2 4 5"
    assert _tracks(_do(mix, c.KeepTogether(entry_ids=("e2",), together=False))) == "0 1 3 2 4 5"
    assert _tracks(_do(mix, c.RemoveEntries(entry_ids=("e4",)))) == "0 1 2 4 5"
    three = _do(mix, c.KeepTogether(entry_ids=("e5", "e2")))
    assert _tracks(three) == "0 (134) 2 5"
    assert _tracks(_do(three, c.AddTracks(track_ids=("t7",), at=2))) == "0 7 (134) 2 5"
    assert _tracks(_do(three, c.AddTracks(track_ids=("t7",), at=3))) == "0 (134) 7 2 5"


def test_what_is_fixed_stays_there_whatever_is_done_around_it() -> None:
    mix = _do(_mix(), c.FixEntry(entry_id="e3", place=1), c.FixEntry(entry_id="e1", place=LAST))
    assert _tracks(mix) == "2 1 3 4 5 0"
    assert _tracks(_do(mix, c.AddTracks(track_ids=("t7",)))) == "2 1 3 4 5 7 0"
    assert _tracks(_do(mix, c.MoveEntries(entry_ids=("e6",), to=0))) == "2 5 1 3 4 0"
    assert _tracks(_do(mix, c.SortEntries(by=c.SortBy.TITLE, falling=True))) == "2 5 4 3 1 0"
    assert _tracks(_do(mix, c.FixEntry(entry_id="e4", place=3), c.RemoveEntries(entry_ids=("e2",)))) == "2 4 3 5 0"
    freed = _do(mix, c.FixEntry(entry_id="e3", place=None))
    assert _tracks(_do(freed, c.MoveEntries(entry_ids=("e3",), to=2))) == "1 3 2 4 5 0"


def test_the_last_is_last_though_another_was_fixed_to_a_place_that_is_no_more() -> None:
    mix = _do(_mix(), c.FixEntry(entry_id="e1", place=LAST), c.FixEntry(entry_id="e3", place=5))
    assert _tracks(mix) == "1 3 4 5 2 0"
    assert _tracks(_do(mix, c.RemoveEntries(entry_ids=("e4", "e5")))) == "1 5 2 0"


def test_a_fixed_one_takes_those_with_it_along() -> None:
    mix = _do(_mix(), c.KeepTogether(entry_ids=("e2", "e3")), c.FixEntry(entry_id="e3", place=LAST))
    assert _tracks(mix) == "0 3 4 5 (12)"


@pytest.mark.parametrize(
    ("commands", "reason"),
    [
        ([c.FixEntry(entry_id="e2", place=3), c.MoveEntries(entry_ids=("e2",), to=0)], "‘Title 1’ is fixed to place 3"),
        ([c.FixEntry(entry_id="e2", place=LAST), c.FixEntry(entry_id="e3", place=LAST)], "as the last already"),
        ([c.FixEntry(entry_id="e2", place=6), c.FixEntry(entry_id="e3", place=LAST)], "place 6 already"),
        ([c.KeepTogether(entry_ids=("e2",))], "two entries or more"),
        ([c.ReplaceTrack(entry_id="e2", track_id="gone")], "not in the library any more"),
        ([c.UseOrder(seats=(c.Seat(entry_id="e1"), c.Seat(entry_id="e1")))], "one place"),
        (
            [
                c.FixEntry(entry_id="e2", place=1),
                c.FixEntry(entry_id="e4", place=LAST),
                c.KeepTogether(entry_ids=("e2", "e4")),
            ],
            "both fixed",
        ),
    ],
)
def test_what_cannot_be_is_refused_with_a_reason(commands: list[c.AnyMixCommand], reason: str) -> None:
    mix = _do(_mix(), *commands[:-1])
    with pytest.raises(c.CommandError, match=reason):
        _do(mix, commands[-1])


@pytest.mark.parametrize(
    ("by", "falling", "expected"),
    [
        (c.SortBy.TEMPO, False, "0 3 1 4 2 5"),
        (c.SortBy.TEMPO, True, "5 2 4 1 3 0"),
        (c.SortBy.KEY, False, "1 0 4 2 5 3"),
        (c.SortBy.ENERGY, True, "5 4 3 2 1 0"),
        (c.SortBy.ARTIST, False, "5 4 3 2 1 0"),
        (c.SortBy.LENGTH, False, "0 5 2 4 1 3"),
    ],
)
def test_sorting_is_a_command_like_any_other(by: c.SortBy, falling: bool, expected: str) -> None:
    assert _tracks(_do(_mix(), c.SortEntries(by=by, falling=falling))) == expected


def test_an_order_is_used_at_once_with_counts_and_shifts_and_those_that_come_in() -> None:
    mix = _do(_mix(), c.KeepTogether(entry_ids=("e2", "e3")))
    placed = _do(mix, c.PlaceTransition(out_id="e2", in_id="e3", out_at=64.0))
    seats = (c.Seat(entry_id="e5"), c.Seat(entry_id="e2"), c.Seat(entry_id="e3", count=2.0), c.Seat(track_id="t7"))
    used = _do(placed, c.UseOrder(seats=(*seats, c.Seat(entry_id="e1", key_shift=-1))))
    assert _tracks(used) == "4 (12) 7 0"
    assert (used.entries[2].count, used.entries[4].key_shift) == (2.0, -1)
    assert plan(used, TRACKS).transitions[1].shaped


def test_a_copy_stands_right_after_and_is_free() -> None:
    mix = _do(_mix(4), c.FixEntry(entry_id="e2", place=2), c.DuplicateEntries(entry_ids=("e2", "e4")))
    assert _tracks(mix) == "0 1 1 2 3 3"
    assert len({e.id for e in mix.entries}) == 6
    assert [e.fixed for e in mix.entries] == [None, 2, None, None, None, None]


def test_another_track_in_its_place_meets_the_others_by_its_cues() -> None:
    def cued(track: TrackFacts, mix_in: float, mix_out: float) -> TrackFacts:
        cues = (
            Cue(id="i", role=CueRole.MIX_IN, at=mix_in),
            Cue(id="o", role=CueRole.MIX_OUT, at=mix_out),
        )
        return track.model_copy(update={"cues": cues})

    tracks = TRACKS | {"t1": cued(TRACKS["t1"], 16.0, 320.0), "t7": cued(TRACKS["t7"], 8.0, 288.0)}
    mix = _mix(3)
    for pair, place in ((("e1", "e2"), {"in_at": 20.0}), (("e2", "e3"), {"out_at": 304.0, "beats": 16.0})):
        mix = c.apply(mix, c.ApplyShape(shape=ReadyShape.EVEN_BLEND, out_id=pair[0], in_id=pair[1]), tracks)
        mix = c.apply(mix, c.PlaceTransition(out_id=pair[0], in_id=pair[1], **place), tracks)
    mix = c.apply(mix, c.FixEntry(entry_id="e2", place=2), tracks)
    other = c.apply(mix, c.ReplaceTrack(entry_id="e2", track_id="t7"), tracks)
    arriving, leaving = (t.transition for t in plan(other, tracks).transitions)
    assert (arriving.in_at, leaving.out_at, leaving.beats) == (12.0, 272.0, 16.0)
    assert arriving.outgoing == plan(mix, tracks).transitions[0].transition.outgoing
    assert (other.entries[1].track_id, other.entries[1].fixed, other.entries[1].tempo) == ("t7", 2, None)


ENTRY = st.sampled_from([f"e{n}" for n in range(1, 11)])
COMMANDS = st.one_of(
    st.builds(c.MoveEntries, entry_ids=st.lists(ENTRY, min_size=1, max_size=3).map(tuple), to=st.integers(0, 9)),
    st.builds(c.KeepTogether, entry_ids=st.lists(ENTRY, min_size=1, max_size=3).map(tuple), together=st.booleans()),
    st.builds(c.FixEntry, entry_id=ENTRY, place=st.sampled_from([None, 1, 2, 4, LAST])),
    st.builds(c.RemoveEntries, entry_ids=ENTRY.map(lambda e: (e,))),
    st.builds(c.DuplicateEntries, entry_ids=ENTRY.map(lambda e: (e,))),
    st.builds(c.AddTracks, track_ids=st.just(("t7",)), at=st.integers(0, 8)),
    st.builds(c.SortEntries, by=st.sampled_from(list(c.SortBy)), falling=st.booleans()),
)


@given(st.lists(COMMANDS, max_size=8))
def test_nothing_is_lost_and_what_is_fixed_alone_is_in_its_place(commands: list[Any]) -> None:
    mix = _mix()
    for command in commands:
        before = {e.id for e in mix.entries}
        try:
            mix = c.apply(mix, command, TRACKS)
        except c.CommandError:
            continue
        ids = [e.id for e in mix.entries]
        assert len(set(ids)) == len(ids)
        if isinstance(command, c.MoveEntries | c.SortEntries | c.KeepTogether | c.FixEntry):
            assert set(ids) == before
        assert not mix.entries or not mix.entries[-1].with_next
        blocks = blocks_of(mix.entries)
        if all(len(b) == 1 for b in blocks) and mix.entries:
            for place, entry in enumerate(mix.entries, 1):
                if entry.fixed == LAST:
                    assert place == len(mix.entries)


def test_fixing_one_of_those_kept_together_lets_the_others_of_them_go() -> None:
    mix = _do(_mix(), c.KeepTogether(entry_ids=("e1", "e2")), c.FixEntry(entry_id="e1", place=1))
    mix = _do(mix, c.FixEntry(entry_id="e2", place=4))
    assert {e.id: e.fixed for e in mix.entries if e.fixed is not None} == {"e2": 4}
    assert [e.id for e in mix.entries][2:4] == ["e1", "e2"]
    mix = _do(mix, c.FixEntry(entry_id="e1", place=None))
    assert {e.id: e.fixed for e in mix.entries if e.fixed is not None} == {"e2": 4}
