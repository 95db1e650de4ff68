from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.placing import Room, spans_of
from fernbrook.core.mix.placing.placing import fitted
from fernbrook.core.mix.transitions import Kind, ReadyShape, Side, TempoPolicy
from fernbrook.core.plan import RATE, Mode, WarningKind, plan
from fernbrook.core.plan.time_map import INAUDIBLE
from fernbrook.core.track import Cue, CueRole, Grid, Key, KeyFact, TrackFacts, VoiceSpan
from tests.core.test_commands import TRACKS, mix_of, pair, track


def test_default_overlap_meets_phrase_to_phrase() -> None:
    t = plan(mix_of("a", "b"), TRACKS).transitions[0].transition
    assert t.beats == 64.0
    assert t.out_at % 32 == 0
    assert t.in_at == 0.0


def test_a_short_track_gets_a_short_overlap() -> None:
    t = plan(mix_of("a", "e"), TRACKS).transitions[0].transition
    assert 0 < t.beats <= 8.0


def test_tempo_policies_place_the_change() -> None:
    mix = mix_of("a", "b")
    for policy, at_start, at_end in (
        (TempoPolicy.RAMP, 120.0, 124.0),
        (TempoPolicy.SWITCH_AT_START, 124.0, 124.0),
        (TempoPolicy.SWITCH_AT_END, 120.0, 120.0),
    ):
        resolved = plan(c.apply(mix, c.SetTempoPolicy(tempo=policy, **pair(mix, 0)), TRACKS), TRACKS)
        t = resolved.transitions[0]
        inside = np.array([t.start_beat + 1e-6, t.end_beat - 1e-6])
        assert resolved.tempo.bpm_at(inside).tolist() == pytest.approx([at_start, at_end], abs=1e-3)


def test_a_track_at_its_own_tempo_is_copied_on_whole_samples() -> None:
    resolved = plan(mix_of("a", "b", "c"), TRACKS)
    middle = resolved.entries[1]
    assert [s.mode for s in middle.segments] == [Mode.STRETCH, Mode.COPY, Mode.STRETCH]
    copy = middle.segments[1]
    lead = float(middle.time_map.source_at(np.asarray(copy.start_s))) - copy.start_s
    assert lead * RATE == pytest.approx(round(lead * RATE), abs=1e-5)
    assert abs(middle.time_map.shift_s) <= 0.5 / RATE


def test_without_key_lock_pitch_follows() -> None:
    mix = mix_of("a", "b")
    free = c.apply(mix, c.SetKeyLock(entry_id=mix.entries[0].id, key_lock=False), TRACKS)
    assert [s.mode for s in plan(free, TRACKS).entries[0].segments] == [Mode.COPY, Mode.RESAMPLE]


def test_beats_of_both_tracks_fall_together() -> None:
    resolved = plan(mix_of("a", "b"), TRACKS)
    t = resolved.transitions[0]
    beats = np.arange(t.start_beat, t.end_beat + 1)
    mix_times = resolved.tempo.time_at(beats)
    for entry in resolved.entries:
        own = entry.played.grid.time_at((beats - entry.offset) / entry.entry.count)
        assert np.allclose(entry.time_map.source_at(mix_times), own, atol=1e-4)


@given(st.floats(-30, 30))
def test_the_two_ways_of_a_time_map_undo_each_other(shift: float) -> None:
    resolved = plan(mix_of("a", "d"), TRACKS)
    entry, t = resolved.entries[1], resolved.transitions[0]
    times = np.linspace(t.start_s - 1, t.end_s + 1, 400) + shift / 100
    source = entry.time_map.source_at(times)
    assert np.all(np.diff(source) > 0)
    assert np.allclose(entry.time_map.mix_at(source), times, atol=1e-9)


def test_blocks_of_a_stretch_begin_on_beats_and_are_the_shorter_the_slower_a_track_is() -> None:
    for bpm, beats in ((120.0, 8), (90.0, 4), (50.0, 2)):
        known = {"s": track("s", bpm)}
        mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("s",)), known)
        time_map = plan(mix, known).entries[0].time_map
        lines = time_map.block_lines_s(10.0, 60.0)
        assert np.allclose(np.diff(lines) * bpm / 60, beats)
        assert np.allclose(np.rint(time_map.tempo.beat_at(lines)), time_map.tempo.beat_at(lines), atol=1e-6)


def test_warnings_tell_of_bends_and_missing_grids() -> None:
    far = track("f", 140)
    bare = TrackFacts(id="g", title="G", duration_s=100.0)
    tracks = TRACKS | {"f": far, "g": bare}
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("a", "f", "g")), tracks)
    kinds = [s.kind for s in plan(mix, tracks).warnings]
    assert WarningKind.TEMPO_LEAP in kinds
    assert WarningKind.NO_GRID in kinds


def test_two_voices_at_once_are_a_warning_while_both_are_heard() -> None:
    mix = mix_of("a", "b")
    t = plan(mix, TRACKS).transitions[0].transition
    mix = c.apply(mix, c.PlaceTransition(out_at=t.out_at, **pair(mix, 0)), TRACKS)

    def told(out: tuple[float, float], into: tuple[float, float]) -> list[str]:
        voices = {"a": (t.out_at + out[0], t.out_at + out[1]), "b": (t.in_at + into[0], t.in_at + into[1])}
        tracks = {
            i: TRACKS[i].model_copy(update={"voice": (VoiceSpan(start=s, end=e),)}) for i, (s, e) in voices.items()
        }
        return [s.message for s in plan(mix, tracks).warnings if s.kind is WarningKind.TWO_VOICES]

    middle = t.beats / 2
    bar = int((middle - 2) // 4) + 1
    assert told((middle - 6, middle + 4), (middle - 2, middle + 20)) == [
        f"Two voices at once for 6 beats, from bar {bar} of the overlap on."
    ]
    assert told((middle - 6, middle - 1), (middle, middle + 20)) == []
    assert told((middle, middle + 1), (middle, middle + 1)) == []
    assert told((0.0, 3.0), (0.0, 3.0)) == []
    assert len(told((middle, middle + 3), (middle, middle + 3))) == 1
    # Where one is at a fifth of its fader it is hardly heard, at three fifths it is.
    for place, count in ((0.2, 0), (0.6, 1)):
        curve = Curve.of((0.0, place), (0.9, place), (1.0, 1.0))
        mix = c.apply(mix, c.SetCurve(side=Side.INCOMING, control=Control.VOLUME, curve=curve, **pair(mix, 0)), TRACKS)
        assert len(told((middle, middle + 8), (middle, middle + 8))) == count


def test_a_cut_bends_nothing_and_so_has_no_leap() -> None:
    far = {
        i: TrackFacts(id=i, title=i, duration_s=200.0, grid=Grid.constant(b, 0.1)) for i, b in (("x", 100), ("y", 120))
    }
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("x", "y")), far)
    assert {s.kind for s in plan(mix, far).warnings} == {WarningKind.TEMPO_LEAP}
    cut = c.apply(mix, c.ApplyShape(shape=ReadyShape.CLEAN_CUT, **pair(mix, 0)), far)
    assert plan(cut, far).warnings == ()


def test_a_steady_track_rides_at_its_very_tempo_a_wandering_one_at_a_round_one() -> None:
    steady = TrackFacts(id="s", title="s", duration_s=200.0, grid=Grid.constant(123.4567, 0.1))
    times = np.cumsum(60 / 123.4567 * (1 + 0.001 * np.sin(np.arange(400.0))))
    free = TrackFacts(id="f", title="f", duration_s=205.0, grid=Grid.through(times, np.arange(400.0)))
    both = {"s": steady, "f": free}
    entries = plan(c.apply(Mix(name="m"), c.AddTracks(track_ids=("s", "f")), both), both).entries
    assert entries[0].home_bpm == 123.4567
    assert entries[1].home_bpm == pytest.approx(123.46, abs=0.02)
    assert entries[1].home_bpm == round(entries[1].home_bpm, 2)


def test_a_gain_of_nothing_that_was_set_by_hand_stays() -> None:
    loud = {i: t.model_copy(update={"loudness_lufs": -9.0}) for i, t in TRACKS.items()}
    mix = mix_of("a")
    assert plan(mix, loud).entries[0].gain_db == -5.0
    by_hand = c.apply(mix, c.SetGain(entry_id=mix.entries[0].id, gain_db=0.0), loud)
    assert plan(by_hand, loud).entries[0].gain_db == 0.0


def test_a_wandering_track_plays_at_one_steady_tempo() -> None:
    rng = np.random.default_rng(1)
    times = 1.0 + np.concatenate(([0.0], np.cumsum(0.5 * (1 + 0.01 * rng.standard_normal(399)))))
    free = TrackFacts(id="w", title="W", duration_s=205.0, grid=Grid.through(times, np.arange(400.0)))
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("w",)), {"w": free})
    resolved = plan(mix, {"w": free})
    heard = resolved.tempo.time_at(np.arange(1.0, 399.0))
    assert np.ptp(np.diff(heard)) < 1e-9
    assert np.allclose(resolved.entries[0].time_map.source_at(heard), times[1:399], atol=1e-6)


rooms = st.builds(
    lambda a, b, x, y: Room(a, a + b, x, x + y),
    st.floats(-50, 500), st.floats(0, 300), st.floats(-50, 500), st.floats(0, 300),
)  # fmt: skip


@given(rooms, st.floats(-600, 1200), st.floats(-600, 1200), st.floats(0.25, 400))
def test_fitting_stays_within_the_room(room: Room, out_at: float, in_at: float, beats: float) -> None:
    mix = mix_of("a", "b")
    asked = plan(mix, TRACKS).transitions[0].transition
    spans = spans_of(mix, TRACKS)
    got = fitted(asked.model_copy(update={"out_at": out_at, "in_at": in_at, "beats": beats}), room, *spans)
    assert got.beats <= beats
    assert room.out_from - 1e-6 <= got.out_at <= room.out_to - got.beats + 1e-6
    assert room.in_from - 1e-6 <= got.in_at <= room.in_to - got.beats + 1e-6
    assert fitted(got, room, *spans) == got


def test_the_room_of_a_transition_begins_where_the_one_before_has_ended() -> None:
    mix = mix_of("a", "b", "c")
    pairs = [{"out_id": o.id, "in_id": i.id} for o, i in pairwise(mix.entries)]
    first = plan(mix, TRACKS).transitions[0].transition
    arrived = first.in_at + first.beats
    assert plan(mix, TRACKS).transitions[1].room.out_from == arrived
    touching = c.apply(mix, c.PlaceTransition(out_at=arrived, **pairs[1]), TRACKS)
    assert plan(touching, TRACKS).transitions[1].transition.out_at == arrived
    with pytest.raises(c.CommandError, match="before the outgoing track has arrived"):
        c.apply(mix, c.PlaceTransition(out_at=arrived - 4.0, **pairs[1]), TRACKS)


def test_what_is_told_of_a_room_is_what_is_accepted() -> None:
    """Each of the four borders, right up to it and a beat beyond."""
    mix = mix_of("a", "b", "c")
    pair = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    here = plan(mix, TRACKS).transitions[0]
    room, t = here.room, here.transition
    after = plan(mix, TRACKS).transitions[1].transition
    assert room.in_to == after.out_at
    borders = [
        ({"out_at": room.out_from}, {"out_at": room.out_from - 1}),
        ({"out_at": room.out_to - t.beats}, {"out_at": room.out_to - t.beats + 1}),
        ({"in_at": room.in_from}, {"in_at": room.in_from - 1}),
        ({"in_at": room.in_to - t.beats}, {"in_at": room.in_to - t.beats + 1}),
    ]
    for within, beyond in borders:
        placed = plan(c.apply(mix, c.PlaceTransition(**within, **pair), TRACKS), TRACKS).transitions[0].transition
        assert {name: getattr(placed, name) for name in within} == within
        with pytest.raises(c.CommandError):
            c.apply(mix, c.PlaceTransition(**beyond, **pair), TRACKS)


def test_a_transition_that_no_longer_fits_is_made_to_fit_and_told() -> None:
    mix = mix_of("a", "b", "c")
    pairs = [{"out_id": o.id, "in_id": i.id} for o, i in pairwise(mix.entries)]
    here = plan(mix, TRACKS).transitions[1].transition
    shaped = c.apply(mix, c.PlaceTransition(out_at=here.out_at - 64.0, **pairs[1]), TRACKS)
    assert not [s for s in plan(shaped, TRACKS).warnings if s.kind is WarningKind.DOES_NOT_FIT]
    short = TRACKS | {"b": TRACKS["b"].model_copy(update={"sound_end_s": 60.0, "duration_s": 61.0})}
    told = [s for s in plan(shaped, short).warnings if s.kind is WarningKind.DOES_NOT_FIT]
    assert {s.transition for s in told} == {1}
    assert "made to fit" in told[0].message


def test_a_transition_lies_in_its_room_even_where_nothing_is_left_of_it() -> None:
    """The next overlap was placed in what is now the silence before the track begins."""
    mix = mix_of("a", "b", "c")
    pairs = [{"out_id": o.id, "in_id": i.id} for o, i in pairwise(mix.entries)]
    first = plan(mix, TRACKS).transitions[0].transition
    early = c.apply(mix, c.PlaceTransition(out_at=first.in_at + first.beats, **pairs[1]), TRACKS)
    late = TRACKS | {"b": TRACKS["b"].model_copy(update={"sound_start_s": 90.0})}
    for here in plan(early, late).transitions:
        t, room = here.transition, here.room
        assert room.out_from <= t.out_at <= t.out_at + t.beats <= room.out_to
        assert room.in_from <= t.in_at <= t.in_at + t.beats <= room.in_to


def test_parts_are_what_the_renderer_needs_and_no_more() -> None:
    resolved = plan(mix_of("a", "b"), TRACKS)
    out, into = resolved.parts
    assert (out.comes_in, out.goes, into.comes_in, into.goes) == (False, True, True, False)
    assert [p.owner for p in resolved.parts] == [e.entry.id for e in resolved.entries]
    (leaving,), (arriving,) = out.automations, into.automations
    assert leaving.curves == resolved.transitions[0].transition.outgoing
    assert arriving.curves == resolved.transitions[0].transition.incoming
    assert leaving.places(np.array([leaving.start_beat, leaving.end_beat])).tolist() == [0.0, 1.0]


def test_keys_that_clash_for_long_are_a_warning_until_one_is_shifted() -> None:
    def keyed(track: TrackFacts, name: str, sure: float | None) -> TrackFacts:
        key = Key.parse(name)
        assert key is not None
        return track.model_copy(update={"key": KeyFact(key=key, confidence=sure)})

    def told(mix: Mix, tracks: dict[str, TrackFacts]) -> list[str]:
        return [s.message for s in plan(mix, tracks).warnings if s.kind is WarningKind.KEYS]

    made = [TrackFacts(id=n, title=n, duration_s=240.0, grid=Grid.constant(120.0, 0.0)) for n in ("x", "y")]
    tracks = {"x": keyed(made[0], "Am", 0.9), "y": keyed(made[1], "Bbm", None)}
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("x", "y")), tracks)
    assert told(mix, tracks) == [
        "Am and Bbm clash, and are together for 64 beats. Shift the incoming by −1, make the overlap shorter, or cut."
    ]
    assert told(c.apply(mix, c.SetKeyShift(entry_id="e2", semitones=-1), tracks), tracks) == []
    assert told(mix, tracks | {"y": keyed(made[1], "Bbm", 0.2)}) == []
    assert told(mix, tracks | {"y": keyed(made[1], "Em", 1.0)}) == []


@pytest.mark.parametrize(("bend", "mode"), [(0.0, Mode.COPY), (0.5, Mode.RESAMPLE), (1.5, Mode.STRETCH)])
def test_what_is_bent_by_less_than_can_be_heard_is_resampled_and_all_else_stretched(bend: float, mode: Mode) -> None:
    mix = mix_of("a")
    bpm = 120.0 * (1.0 + bend * INAUDIBLE)
    held = c.apply(mix, c.SetHomeTempo(entry_id=mix.entries[0].id, bpm=bpm), TRACKS)
    assert {s.mode for s in plan(held, TRACKS).entries[0].segments} == {mode}


@pytest.mark.parametrize(("at", "begins"), [(32.0, 32.0), (-64.0, None)])
def test_a_mix_begins_at_its_first_entry_s_start_cue_but_not_before_its_file(at: float, begins: float | None) -> None:
    cue = Cue(id="s", at=at, role=CueRole.START, preferred=True)
    tracks = TRACKS | {"a": TRACKS["a"].model_copy(update={"cues": (cue,)})}
    first = plan(mix_of("a", "b"), tracks).entries[0]
    file_start = plan(mix_of("a", "b"), TRACKS).entries[0].start_beat
    assert first.start_beat - first.offset == pytest.approx(file_start if begins is None else begins)


def test_a_lead_is_left_room_for_before_the_overlap() -> None:
    mix = mix_of("a", "b")
    spans = spans_of(mix, TRACKS)
    asked = (
        plan(mix, TRACKS)
        .transitions[0]
        .transition.model_copy(update={"kind": Kind.CUT, "lead": 16.0, "beats": 0.0, "out_at": -400.0})
    )
    room = Room(10.0, 300.0, 0.0, 300.0)
    assert fitted(asked, room, *spans).out_at == 26.0
    assert fitted(asked.model_copy(update={"out_at": 900.0}), room, *spans).out_at == 300.0
