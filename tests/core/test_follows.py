"""An entry goes by the tempo of its track, is made steady, or goes by the mix."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.entries import Entry, Follows
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import Kind, ReadyShape, TempoPolicy
from fernbrook.core.ordering import candidate_of, step_between
from fernbrook.core.plan import Mode, Plan, plan
from fernbrook.core.track import Grid, Skip, TrackFacts
from fernbrook.core.track import grid_edits as edits

STEP_AT, RAMP_AT, OVER = 256.0, 192.0, 32.0


def _track(name: str, grid: Grid, beats: float = 512.0) -> TrackFacts:
    end = float(grid.time_at(beats))
    return TrackFacts(id=name, title=name.upper(), duration_s=end + 2.0, sound_end_s=end, grid=grid)


STEADY = {name: _track(name, Grid.constant(bpm, 0.25)) for name, bpm in (("low", 128.0), ("high", 172.0))}
STEP = _track("step", edits.tempo_from(Grid.constant(136.0, 0.5), STEP_AT, 174.0))
RAMP = _track("ramp", edits.ramp_from(Grid.constant(124.0, 0.5), RAMP_AT, OVER, 150.0))
TRACKS = {**STEADY, "step": STEP, "ramp": RAMP}


def _mix(*ids: str) -> Mix:
    return c.apply(Mix(name="m", target_lufs=None), c.AddTracks(track_ids=ids), TRACKS)


def _set(mix: Mix, index: int, follows: Follows | None) -> Mix:
    return c.apply(mix, c.SetFollows(entry_id=mix.entries[index].id, follows=follows), TRACKS)


def _alone(resolved: Plan, index: int, inset: float = 0.0) -> tuple[float, float]:
    """The beats of the mix in which an entry is heard by itself."""
    e = resolved.entries[index]
    begin = e.arrival.incoming.end_beat if e.arrival else e.start_beat
    stop = e.departure.outgoing.start_beat if e.departure else e.end_beat
    return begin + inset, stop - inset


@pytest.mark.parametrize("name", ["step", "ramp"])
def test_a_track_that_means_its_change_keeps_its_tempo_and_is_heard_as_it_is(name: str) -> None:
    resolved = plan(_mix("low", name, "high"), TRACKS)
    begin, stop = _alone(resolved, 1)
    beats = np.linspace(begin, stop, 301)[1:-1]
    entry = resolved.entries[1]
    own = TRACKS[name].riding_grid.bpm_at(beats - entry.offset)
    assert np.allclose(resolved.tempo.bpm_at(beats), own)
    alone = [s for s in entry.segments if s.start_s > entry.arrival.end_s - 1e-6]  # type: ignore[union-attr]
    assert {s.mode for s in alone if s.end_s < entry.departure.start_s + 1e-6} == {Mode.COPY}  # type: ignore[union-attr]


def test_neighbours_meet_it_at_the_tempo_that_it_has_there() -> None:
    resolved = plan(_mix("low", "step", "high"), TRACKS)
    into, out = resolved.transitions
    assert float(resolved.tempo.bpm_at(into.end_beat)) == pytest.approx(136.0)
    assert resolved.tempo.bpm_before(out.start_beat) == pytest.approx(174.0)
    assert float(resolved.tempo.bpm_at(out.end_beat)) == pytest.approx(172.0)
    faces = [candidate_of(e.entry, e.track) for e in resolved.entries]
    assert step_between(faces[0], faces[1]).tempo_words.startswith("+6.2 %")
    assert step_between(faces[1], faces[2]).tempo_words.startswith("−1.1 %")


def test_the_tempo_that_is_set_is_where_it_begins_and_the_rest_follows() -> None:
    mix = _mix("step")
    mix = c.apply(mix, c.SetHomeTempo(entry_id=mix.entries[0].id, bpm=140.0), TRACKS)
    resolved = plan(mix, TRACKS)
    assert resolved.tempo.bpm_at([8.0, STEP_AT + 8.0]).tolist() == pytest.approx([140.0, 174.0 * 140.0 / 136.0])
    assert resolved.entries[0].farthest_speed(8.0, 400.0) == pytest.approx(140.0 / 136.0)


def test_steady_it_has_one_tempo_which_is_its_mean() -> None:
    mean = STEP.riding_grid.mean_bpm(STEP.sound_start_s, STEP.last_sound_s)
    for names in (("step",), ("step", "low")):
        resolved = plan(_set(_mix(*names), 0, Follows.STEADY), TRACKS)
        assert resolved.tempo.bpm_at([8.0, 300.0]).tolist() == pytest.approx([round(mean, 2)] * 2)


@pytest.mark.parametrize("policy", list(TempoPolicy))
def test_one_that_goes_by_the_mix_takes_over_the_tempo_that_it_finds(policy: TempoPolicy) -> None:
    mix = _set(_mix("step", "low", "high"), 1, Follows.MIX)
    ids = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    mix = c.apply(mix, c.SetTempoPolicy(tempo=policy, **ids), TRACKS)
    resolved = plan(mix, TRACKS)
    begin, stop = _alone(resolved, 1, inset=1.0)
    assert np.allclose(resolved.tempo.bpm_at(np.linspace(begin, stop, 20)), 174.0)
    assert float(resolved.tempo.bpm_at(resolved.transitions[1].end_beat + 1.0)) == pytest.approx(172.0)


def test_what_is_cut_out_takes_its_tempo_along() -> None:
    mix = _mix("step")
    cut = Skip(id="s", start=128.0, end=320.0)
    mix = mix.model_copy(update={"entries": (mix.entries[0].model_copy(update={"edits": (cut,)}),)})
    resolved = plan(mix, TRACKS)
    assert resolved.tempo.bpm_at([127.0, 129.0]).tolist() == pytest.approx([136.0, 174.0])
    assert resolved.entries[0].farthest_speed(0.0, 250.0) == pytest.approx(1.0)


def test_a_fade_is_as_long_as_it_says_wherever_the_tempo_is() -> None:
    mix = _mix("step", "ramp")
    pair = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    mix = c.apply(mix, c.SetKind(to=Kind.FADE, **pair), TRACKS)
    mix = c.apply(mix, c.PlaceTransition(seconds=12.0, **pair), TRACKS)
    fade = plan(mix, TRACKS).transitions[0]
    assert fade.end_s - fade.start_s == pytest.approx(12.0)
    end = plan(mix, TRACKS).entries[0]
    assert float(end.source_at(np.asarray([fade.end_s]))[0]) <= STEP.last_sound_s + 1e-6


@st.composite
def _routes(draw: st.DrawFn) -> TrackFacts:
    grid = Grid.constant(draw(st.floats(90.0, 150.0)), 0.3)
    beat = 0.0
    for _ in range(draw(st.integers(1, 4))):
        beat += 32.0 * draw(st.integers(1, 3))
        bpm = draw(st.floats(80.0, 180.0))
        steps = draw(st.booleans()) or abs(bpm - float(grid.bpm_at(beat))) < 1.0
        grid = edits.tempo_from(grid, beat, bpm) if steps else edits.ramp_from(grid, beat, 16.0, bpm)
    return _track("route", grid)


@given(_routes(), st.sampled_from(list(Follows)), st.sampled_from(list(TempoPolicy)), st.sampled_from(list(ReadyShape)))
def test_every_route_has_one_clock_that_goes_forwards_and_back(
    route: TrackFacts, follows: Follows, policy: TempoPolicy, shape: ReadyShape
) -> None:
    tracks = {**TRACKS, "route": route}
    mix = c.apply(Mix(name="m", target_lufs=None), c.AddTracks(track_ids=("low", "route", "high")), tracks)
    mix = c.apply(mix, c.SetFollows(entry_id=mix.entries[1].id, follows=follows), tracks)
    for i in (0, 1):
        ids = {"out_id": mix.entries[i].id, "in_id": mix.entries[i + 1].id}
        mix = c.apply(mix, c.ApplyShape(shape=shape, **ids), tracks)
        mix = c.apply(mix, c.SetTempoPolicy(tempo=policy, **ids), tracks)
    resolved = plan(mix, tracks)
    times = np.linspace(0.0, resolved.duration_s, 400)
    assert np.all(np.diff(resolved.tempo.beat_at(times)) > 0.0)
    assert np.allclose(resolved.tempo.time_at(resolved.tempo.beat_at(times)), times, atol=1e-6)
    for entry in resolved.entries:
        inside = np.linspace(entry.start_s, entry.end_s, 60)
        source = entry.time_map.source_at(inside)
        assert np.all(np.diff(source) > 0.0)
        assert np.allclose(entry.time_map.mix_at(source), inside, atol=1e-6)
    if follows is Follows.OWN and policy is not TempoPolicy.STEPS:
        begin, stop = _alone(resolved, 1, inset=0.01)
        if stop > begin and all(t.transition.is_locked for t in resolved.transitions):
            assert resolved.entries[1].farthest_speed(begin, stop) == pytest.approx(1.0)


def test_an_entry_of_a_wandering_track_is_steady_by_itself() -> None:
    rng = np.random.default_rng(7)
    times = np.cumsum(60.0 / (110.0 + rng.normal(0.0, 1.5, 400)))
    live = _track("live", Grid.through(times, np.arange(400.0)), 390.0)
    assert Entry(id="e", track_id="live").goes_by(live) is Follows.STEADY
    assert Entry(id="e", track_id="step").goes_by(STEP) is Follows.OWN


def test_steps_that_take_long_end_at_the_tempo_that_the_track_has_by_then() -> None:
    mix = _mix("low", "ramp")
    pair = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    mix = c.apply(mix, c.PlaceTransition(in_at=RAMP_AT - 16.0, beats=8.0, **pair), TRACKS)
    steps = c.SetTempoPolicy(tempo=TempoPolicy.STEPS, step_bpm=1.0, step_bars=16, **pair)
    resolved = plan(c.apply(mix, steps, TRACKS), TRACKS)
    entry = resolved.entries[1]
    over = resolved.transitions[0].start_beat + 4 * 64.0
    assert resolved.tempo.bpm_at([over + 1.0, over + 100.0]).tolist() == pytest.approx([150.0, 150.0])
    assert entry.farthest_speed(over + 1.0, over + 100.0) == pytest.approx(1.0)


def test_what_comes_after_a_route_counts_as_it_rides_closest_to_where_that_ends() -> None:
    fast = _track("up", edits.tempo_from(Grid.constant(100.0, 0.5), STEP_AT, 176.0))
    half = _track("half", Grid.constant(88.0, 0.25))
    tracks = {**TRACKS, "up": fast, "half": half}
    mix = c.apply(Mix(name="m", target_lufs=None), c.AddTracks(track_ids=("up", "half")), tracks)
    assert mix.entries[1].count == 2.0


def test_tempi_that_nobody_could_mean_are_not_followed() -> None:
    wild = Grid.through([0.0, 8.0, 8.001, 16.0], [0.0, 16.0, 32.0, 48.0])
    assert not wild.means_its_changes
