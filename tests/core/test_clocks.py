"""The clocks of mixes: fades between chains, longer ways, steps and tempi set by hand."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Onward
from fernbrook.core.mix.model import Fading, Mix, TempoMark
from fernbrook.core.mix.transitions import Kind, TempoPolicy
from fernbrook.core.plan import WarningKind, plan
from fernbrook.core.track import TrackFacts, slide
from tests.core.test_commands import TRACKS, mix_of, pair

UNGRIDDED = TrackFacts(id="x", title="X", duration_s=180.0, sound_start_s=1.3, sound_end_s=170.0)


def test_after_a_fade_the_mix_goes_by_the_incoming_s_own_tempo() -> None:
    mix = c.apply(mix_of("a", "b", "c"), c.SetKind(to=Kind.FADE, **pair(mix_of("a", "b", "c"), 0)), TRACKS)
    resolved = plan(mix, TRACKS)
    fade = resolved.transitions[0]
    middle = (fade.start_s + fade.end_s) / 2
    around = resolved.tempo.beat_at([middle - 1e-3, middle + 1e-3])
    assert resolved.tempo.bpm_at(around).tolist() == pytest.approx([120.0, 124.0])
    assert [e.time_map.farthest_speed(e.start_beat, e.start_beat + 8) for e in resolved.entries[:2]] == [1.0, 1.0]
    assert not [s for s in resolved.warnings if s.kind is WarningKind.TEMPO_LEAP and s.transition == 0]


@given(st.lists(st.sampled_from(list(Kind)), min_size=3, max_size=3), st.floats(0.5, 20.0))
def test_every_mixture_of_kinds_has_one_clock_that_agrees_with_each_entry_s(kinds: list[Kind], seconds: float) -> None:
    mix = mix_of("a", "b", "c", "a")
    for i, kind in enumerate(kinds):
        mix = c.apply(mix, c.SetKind(to=kind, **pair(mix, i)), TRACKS)
        if kind in (Kind.FADE, Kind.APART):
            mix = c.apply(mix, c.PlaceTransition(seconds=seconds, **pair(mix, i)), TRACKS)
    resolved = plan(mix, TRACKS)
    times = np.linspace(0.0, resolved.duration_s, 500)
    assert np.all(np.diff(resolved.tempo.beat_at(times)) > 0)
    assert np.allclose(resolved.tempo.time_at(resolved.tempo.beat_at(times)), times, atol=1e-6)
    for e in resolved.entries:
        begin = e.arrival.end_s if e.arrival else e.start_s
        stop = e.departure.start_s if e.departure else e.end_s
        alone = np.linspace(begin + 1e-3, stop - 1e-3, 9)
        assert np.allclose(resolved.tempo.beat_at(alone), e.time_map.tempo.beat_at(alone), atol=1e-6)
    for t in resolved.transitions:
        assert t.end_s >= t.start_s
        if t.transition.kind is Kind.FADE:
            assert t.end_s - t.start_s == pytest.approx(t.transition.seconds)


def test_a_whole_mix_can_fade_by_itself_with_or_without_grids() -> None:
    tracks = {**TRACKS, "x": UNGRIDDED}
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("a", "x", "b")), tracks)
    by_itself = plan(mix, tracks).transitions[0].transition
    assert by_itself.kind is Kind.FADE
    everywhere = plan(c.apply(mix, c.SetUntouched(untouched=Fading(seconds=12.0)), tracks), tracks)
    assert [t.transition.seconds for t in everywhere.transitions] == [12.0, 12.0]
    into, out = everywhere.transitions
    x = everywhere.entries[1]
    assert float(x.time_map.source_at(np.asarray(into.start_s))) == pytest.approx(1.3, abs=1e-4)
    assert float(x.time_map.source_at(np.asarray(out.end_s))) == pytest.approx(170.0, abs=1e-4)


def test_a_longer_way_begins_before_the_overlap_and_ends_after_it() -> None:
    mix = mix_of("a", "b", "c")
    way = dict(before=32.0, after=16.0)
    resolved = plan(c.apply(mix, c.SetTempoPolicy(tempo=TempoPolicy.RAMP, **way, **pair(mix, 0)), TRACKS), TRACKS)
    t = resolved.transitions[0]
    edges = [t.start_beat - 33, t.start_beat, t.end_beat, t.end_beat + 17]
    bpm = resolved.tempo.bpm_at(edges)
    assert bpm[0] == 120.0
    assert 120.0 < bpm[1] < bpm[2] < 124.0
    assert bpm[3] == 124.0


def test_steps_go_by_so_many_bpm_every_so_many_bars_and_land_on_the_tempo() -> None:
    mix = mix_of("a", "c")
    way = dict(step_bpm=3.0, step_bars=2)
    resolved = plan(c.apply(mix, c.SetTempoPolicy(tempo=TempoPolicy.STEPS, **way, **pair(mix, 0)), TRACKS), TRACKS)
    start = resolved.transitions[0].start_beat
    beats = [start - 0.1, start + 0.1, start + 7.9, start + 8.1, start + 16.1, start + 60]
    assert resolved.tempo.bpm_at(beats).tolist() == [120.0, 123.0, 123.0, 126.0, 128.0, 128.0]


def test_a_way_never_reaches_into_the_transitions_beside_it() -> None:
    mix = mix_of("a", "b", "c")
    way = dict(before=1000.0, after=1000.0)
    for i in (0, 1):
        mix = c.apply(mix, c.SetTempoPolicy(tempo=TempoPolicy.RAMP, **way, **pair(mix, i)), TRACKS)
    resolved = plan(mix, TRACKS)
    first, second = resolved.transitions
    assert float(resolved.tempo.bpm_at(second.start_beat)) == pytest.approx(124.0)
    assert 124.0 < float(resolved.tempo.bpm_at(second.end_beat)) < 128.0
    middle = np.linspace(first.end_beat, second.start_beat, 50)
    assert np.all(np.diff(resolved.tempo.bpm_at(middle)) >= 0)
    assert float(resolved.tempo.bpm_at(first.start_beat - 1)) > 120.0


def test_marks_override_between_the_first_and_the_last_and_nowhere_else() -> None:
    mix = mix_of("a", "b")
    a = mix.entries[0].id
    marks = (
        TempoMark(entry_id=a, beat=64.0, bpm=120.0, onward=Onward.SMOOTH),
        TempoMark(entry_id=a, beat=96.0, bpm=130.0, onward=Onward.STEP),
        TempoMark(entry_id=a, beat=128.0, bpm=120.0),
    )
    resolved = plan(c.apply(mix, c.SetTempoMarks(marks=marks), TRACKS), TRACKS)
    before = plan(mix, TRACKS)
    bpm = resolved.tempo.bpm_at([63.0, 72.0, 80.0, 96.5, 127.5, 128.5])
    smooth = 120.0 + 10.0 * (3 * 0.25**2 - 2 * 0.25**3)
    assert bpm.tolist() == pytest.approx([120.0, smooth, 125.0, 130.0, 130.0, 120.0], abs=0.05)
    beyond = np.linspace(130.0, 380.0, 40)
    assert np.allclose(resolved.tempo.bpm_at(beyond), before.tempo.bpm_at(beyond))
    assert "stretch" in {s.mode.value for s in resolved.entries[0].segments}


def test_entries_or_the_whole_mix_can_be_held_at_one_tempo() -> None:
    mix = mix_of("a", "b", "c")
    held = plan(c.apply(mix, c.HoldTempo(bpm=125.0), TRACKS), TRACKS)
    assert {e.home_bpm for e in held.entries} == {125.0}
    some = c.apply(mix, c.HoldTempo(bpm=125.0, entry_ids=(mix.entries[1].id,)), TRACKS)
    assert [e.home_bpm for e in plan(some, TRACKS).entries] == [120.0, 125.0, 128.0]
    assert c.apply(some, c.HoldTempo(bpm=None), TRACKS).entries == mix.entries


@pytest.mark.parametrize("ms", [-30.0, 12.5])
@pytest.mark.parametrize("kind", [Kind.BLEND, Kind.FADE])
def test_a_nudge_moves_the_incoming_and_all_after_it(ms: float, kind: Kind) -> None:
    mix = mix_of("a", "b", "c")
    mix = c.apply(mix, c.SetKind(to=kind, **pair(mix, 0)), TRACKS)
    mix = c.apply(mix, c.SetTempoPolicy(tempo=TempoPolicy.SWITCH_AT_START, **pair(mix, 0)), TRACKS)
    moved = c.apply(mix, c.SetNudge(ms=ms, **pair(mix, 0)), TRACKS)
    before, after = (plan(m, TRACKS).entries[1] for m in (mix, moved))
    at = np.asarray((before.arrival.end_s if before.arrival else 0.0) + 20.0)
    late_s = float(before.time_map.source_at(at) - after.time_map.source_at(at))
    assert late_s * 1000.0 == pytest.approx(ms, abs=0.03)


@pytest.mark.parametrize("ms", [-30.0, 12.5])
def test_a_nudge_sounds_like_a_slide_of_the_grid_the_other_way(ms: float) -> None:
    mix = mix_of("a", "b")
    nudged = plan(c.apply(mix, c.SetNudge(ms=ms, **pair(mix, 0)), TRACKS), TRACKS)
    speed = 120.0 / 124.0
    grid = slide(TRACKS["b"].riding_grid, -ms / 1000.0 * speed)
    slid = plan(mix, TRACKS | {"b": TRACKS["b"].model_copy(update={"grid": grid})})
    assert slid.entries[1].arrival is not None
    at = np.asarray(slid.entries[1].arrival.start_s + 1.0)
    sources = [float(p.entries[1].time_map.source_at(at)) for p in (nudged, slid)]
    assert sources[0] == pytest.approx(sources[1], abs=1e-4)


def test_marks_a_hair_apart_are_in_order_wherever_a_smooth_way_between_them_ends() -> None:
    mix = mix_of("a", "b")
    beats = {-979847.3: Onward.SMOOTH, -1.4e-240: Onward.SMOOTH, 5.7e-241: Onward.STRAIGHT, 400.0: Onward.STEP}
    marks = tuple(TempoMark(entry_id=mix.entries[1].id, beat=b, bpm=120.0, onward=on) for b, on in beats.items())
    resolved = plan(mix.model_copy(update={"tempo_marks": marks}), TRACKS)
    assert np.all(np.diff([p.beat for p in resolved.tempo.points]) >= 0.0)
