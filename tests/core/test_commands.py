from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.mix.placing.placing import UnknownTrackError
from fernbrook.core.mix.transitions import Kind, ReadyShape, Side, TempoPolicy
from fernbrook.core.plan import plan
from fernbrook.core.track import Grid, TrackFacts


def track(name: str, bpm: float, seconds: float = 200.0, first: float = 0.2) -> TrackFacts:
    return TrackFacts(id=name, title=name.upper(), duration_s=seconds, grid=Grid.constant(bpm, first))


TRACKS = {t.id: t for t in (track("a", 120), track("b", 124), track("c", 128), track("d", 64), track("e", 122, 12.0))}


def mix_of(*ids: str) -> Mix:
    return c.apply(Mix(name="m"), c.AddTracks(track_ids=ids), TRACKS)


def pair(mix: Mix, index: int) -> dict[str, str]:
    return {"out_id": mix.entries[index].id, "in_id": mix.entries[index + 1].id}


def test_tracks_are_added_where_asked_with_names_of_their_own() -> None:
    mix = c.apply(mix_of("a", "b"), c.AddTracks(track_ids=("c", "a"), at=1), TRACKS)
    assert [e.track_id for e in mix.entries] == ["a", "c", "a", "b"]
    assert len({e.id for e in mix.entries}) == 4


def test_a_track_at_half_the_tempo_counts_double() -> None:
    assert mix_of("c", "d").entries[1].count == 2.0
    assert mix_of("d", "c").entries[1].count == 0.5


def test_moving_away_and_back_keeps_what_was_shaped() -> None:
    mix = mix_of("a", "b", "c")
    shaped = c.apply(mix, c.ApplyShape(shape=ReadyShape.CLEAN_CUT, **pair(mix, 0)), TRACKS)
    away = c.apply(shaped, c.MoveEntries(entry_ids=(mix.entries[0].id,), to=2), TRACKS)
    assert all(not t.shaped for t in plan(away, TRACKS).transitions)
    back = c.apply(away, c.MoveEntries(entry_ids=(mix.entries[0].id,), to=0), TRACKS)
    assert plan(back, TRACKS).transitions[0].transition.kind is Kind.CUT


def test_placing_changes_only_what_is_given() -> None:
    mix = mix_of("a", "b")
    before = plan(mix, TRACKS).transitions[0].transition
    after = plan(c.apply(mix, c.PlaceTransition(in_at=4.0, **pair(mix, 0)), TRACKS), TRACKS).transitions[0].transition
    assert (after.out_at, after.in_at, after.beats) == (before.out_at, 4.0, before.beats)


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        ({"out_at": 395.0}, "outlast the outgoing"),
        ({"out_at": -50.0}, "before the outgoing track has arrived"),
        ({"in_at": -8.0}, "before the incoming track's sound"),
        ({"beats": 4000.0}, "outlast"),
    ],
)
def test_what_does_not_fit_is_refused_with_a_reason(change: dict[str, float], reason: str) -> None:
    mix = mix_of("a", "b")
    with pytest.raises(c.CommandError, match=reason):
        c.apply(mix, c.PlaceTransition(**change, **pair(mix, 0)), TRACKS)


def test_an_overlap_cannot_run_into_the_next() -> None:
    mix = mix_of("a", "b", "c")
    next_out = plan(mix, TRACKS).transitions[1].transition.out_at
    with pytest.raises(c.CommandError, match="past where the incoming track goes out"):
        c.apply(mix, c.PlaceTransition(in_at=next_out - 8, **pair(mix, 0)), TRACKS)


def test_curves_that_would_jump_are_refused() -> None:
    mix = mix_of("a", "b")
    command = c.SetCurve(side=Side.OUTGOING, control=Control.LOW, curve=Curve.flat(0.0), **pair(mix, 0))
    with pytest.raises(c.CommandError, match="must start neutral"):
        c.apply(mix, command, TRACKS)


def test_a_cut_becomes_a_blend_again() -> None:
    mix = mix_of("a", "b")
    cut = c.apply(mix, c.ApplyShape(shape=ReadyShape.CLEAN_CUT, **pair(mix, 0)), TRACKS)
    with pytest.raises(c.CommandError, match="cut has no length"):
        c.apply(cut, c.PlaceTransition(beats=8.0, **pair(mix, 0)), TRACKS)
    blend = c.apply(cut, c.ApplyShape(shape=ReadyShape.EVEN_BLEND, **pair(mix, 0)), TRACKS)
    assert plan(blend, TRACKS).transitions[0].transition.beats == 64.0


def test_reset_forgets_the_shape() -> None:
    mix = mix_of("a", "b")
    shaped = c.apply(mix, c.SetTempoPolicy(tempo=TempoPolicy.SWITCH_AT_END, **pair(mix, 0)), TRACKS)
    assert c.apply(shaped, c.ResetTransition(**pair(mix, 0)), TRACKS) == mix


def test_another_count_keeps_cues_on_their_sound() -> None:
    mix = mix_of("a", "b")
    placed = c.apply(mix, c.PlaceTransition(in_at=8.0, **pair(mix, 0)), TRACKS)
    doubled = c.apply(placed, c.SetCount(entry_id=mix.entries[1].id, count=2.0), TRACKS)
    assert doubled.shaped()[tuple(pair(mix, 0).values())].in_at == 16.0


def test_entry_settings_and_names() -> None:
    mix = mix_of("a")
    entry = mix.entries[0].id
    for command, field, value in (
        (c.SetGain(entry_id=entry, gain_db=-3.0), "gain_db", -3.0),
        (c.SetKeyLock(entry_id=entry, key_lock=False), "key_lock", False),
        (c.SetHomeTempo(entry_id=entry, bpm=125.0), "tempo", 125.0),
    ):
        assert getattr(c.apply(mix, command, TRACKS).entries[0], field) == value
    assert c.apply(mix, c.RenameMix(name=" Night "), TRACKS).name == "Night"
    assert c.apply(mix, c.SetTarget(lufs=None), TRACKS).target_lufs is None


@pytest.mark.parametrize(
    "command",
    [
        c.RemoveEntries(entry_ids=("gone",)),
        c.MoveEntries(entry_ids=("gone",), to=0),
        c.AddTracks(track_ids=("unknown",)),
        c.ResetTransition(out_id="e2", in_id="e1"),
    ],
)
def test_what_is_not_there_is_said(command: c.AnyMixCommand) -> None:
    with pytest.raises(c.CommandError):
        c.apply(mix_of("a", "b"), command, TRACKS)


def test_nonsense_numbers_are_refused() -> None:
    adapter: TypeAdapter[c.AnyMixCommand] = TypeAdapter(c.AnyMixCommand)
    for nonsense in (
        {"kind": "set_tempo", "entry_id": "e1", "bpm": -5},
        {"kind": "set_gain", "entry_id": "e1", "gain_db": float("nan")},
        {"kind": "set_count", "entry_id": "e1", "count": 3},
        {"kind": "place_transition", "out_id": "e1", "in_id": "e2", "beats": 0},
        {"kind": "explode"},
    ):
        with pytest.raises(ValidationError):
            adapter.validate_python(nonsense)


def test_labels_name_the_tracks() -> None:
    mix = mix_of("a", "b")
    assert c.PlaceTransition(in_at=4.0, **pair(mix, 0)).words(Naming(mix, TRACKS)) == "move the mix-in of ‘B’"
    assert c.AddTracks(track_ids=("a", "b")).words(Naming(mix, TRACKS)) == "add 2 tracks"


def test_unknown_track_is_named() -> None:
    with pytest.raises(UnknownTrackError, match="not in the library"):
        plan(mix_of("a"), {})


orders = st.lists(st.sampled_from("abcde"), min_size=1, max_size=6)
moves = st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5)), max_size=5)


@given(orders, moves)
def test_every_order_has_a_sound_plan(ids: list[str], steps: list[tuple[int, int]]) -> None:
    """Whatever is done to the order, overlaps stay in their tracks, follow each other, and fill the mix."""
    mix = mix_of(*ids)
    for start, to in steps:
        if start < len(mix.entries):
            mix = c.apply(mix, c.MoveEntries(entry_ids=(mix.entries[start].id,), to=to), TRACKS)
    resolved = plan(mix, TRACKS)
    end = 0.0
    for t in resolved.transitions:
        assert t.start_s >= end - 1e-6
        assert t.end_s >= t.start_s
        out = resolved.entries[t.index]
        assert out.span.start - 1e-6 <= t.transition.out_at <= out.span.end + 1e-6
        end = t.end_s
    assert resolved.duration_s >= end - 1e-6
    for entry in resolved.entries:
        assert [s.start_s for s in entry.segments[1:]] == [s.end_s for s in entry.segments[:-1]]


def test_a_blend_in_place_of_a_cut_takes_no_more_than_there_is_room_for() -> None:
    mix = mix_of("a", "b")
    mix = c.apply(mix, c.ApplyShape(shape=ReadyShape.CLEAN_CUT, **pair(mix, 0)), TRACKS)
    room = plan(mix, TRACKS).transitions[0].room
    late = c.apply(mix, c.PlaceTransition(out_at=room.out_to - 12.0, **pair(mix, 0)), TRACKS)
    blend = c.apply(late, c.ApplyShape(shape=ReadyShape.BASS, **pair(mix, 0)), TRACKS)
    assert plan(blend, TRACKS).transitions[0].transition.beats == 12.0
    assert not [s for s in plan(blend, TRACKS).warnings if s.transition == 0]
