from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.model import Mix, recounted_mix
from fernbrook.core.plan import plan
from fernbrook.core.track import Grid, Recount, TrackFacts, grid_edits

OUT = TrackFacts(id="out", title="Out", duration_s=240.0, grid=Grid.constant(120.0, 1.0))
INTO = TrackFacts(id="in", title="In", duration_s=240.0, grid=Grid.constant(122.0, 0.5))
TRACKS = {t.id: t for t in (OUT, INTO)}


def placed(out_at: float = 352.0, in_at: float = 16.0, beats: float = 32.0) -> Mix:
    mix = c.apply(Mix(name="Night"), c.AddTracks(track_ids=("out", "in")), TRACKS)
    place = c.PlaceTransition(out_id="e1", in_id="e2", out_at=out_at, in_at=in_at, beats=beats)
    return c.apply(mix, place, TRACKS)


def counted(mix: Mix, track: TrackFacts, grid: Grid) -> tuple[Mix, dict[str, TrackFacts]]:
    assert track.grid is not None
    changed = track.model_copy(update={"grid": grid})
    return recounted_mix(mix, {track.id: Recount(track.grid, grid)}), {**TRACKS, track.id: changed}


@pytest.mark.parametrize("track", [OUT, INTO], ids=["outgoing", "incoming"])
@pytest.mark.parametrize(
    "edit",
    [
        lambda grid: grid_edits.scale(grid, 0.5),
        lambda grid: grid_edits.scale(grid, 2.0),
        lambda grid: grid_edits.count_from(grid, 16.0),
        lambda grid: grid_edits.count_from(grid, -3.0),
        lambda grid: grid_edits.slide(grid, -2 * 60.0 / grid.bpm_after),
        lambda grid: grid_edits.count_from(grid_edits.scale(grid, 0.5), 5.0),
    ],
    ids=["halved", "doubled", "from bar five", "from before", "slid by two beats", "halved and from elsewhere"],
)
def test_a_mix_sounds_the_same_when_a_track_is_counted_otherwise(track: TrackFacts, edit: object) -> None:
    mix = placed()
    before = plan(mix, TRACKS)
    again, tracks = counted(mix, track, edit(track.grid))  # type: ignore[operator]
    after = plan(again, tracks)
    for was, now in zip(before.entries, after.entries, strict=True):
        assert (now.start_s, now.end_s) == pytest.approx((was.start_s, was.end_s), abs=1e-6)
        assert now.home_bpm == pytest.approx(was.home_bpm)
    (was,), (now,) = before.transitions, after.transitions
    assert (now.start_s, now.end_s) == pytest.approx((was.start_s, was.end_s), abs=1e-6)


@pytest.mark.parametrize("bpm", [80.0, 90.0, 160.0, 180.0])
def test_a_tempo_that_is_no_octave_of_the_old_one_is_another_tempo(bpm: float) -> None:
    """A beat read three for two: the entry's count stays, its cues stay at their moments to the nearest beat."""
    mix = placed()
    again, _ = counted(mix, OUT, Grid.constant(bpm, 1.0))
    assert again.entries[0].count == 1.0
    assert again.transitions[0].out_at == pytest.approx(352.0 * bpm / 120.0, abs=0.5)


@given(st.floats(-0.1, 0.1), st.floats(119.95, 120.05))
def test_a_corrected_grid_takes_its_cues_along(by_s: float, bpm: float) -> None:
    mix = placed()
    corrected = grid_edits.set_tempo(grid_edits.slide(OUT.grid, by_s), bpm, 0.0)  # type: ignore[arg-type]
    again, _ = counted(mix, OUT, corrected)
    assert again.transitions == mix.transitions


@given(st.floats(0.0, 400.0), st.floats(60.0, 200.0), st.floats(0.0, 4.0))
def test_a_cue_keeps_its_part_of_a_beat_and_nearly_its_moment(at: float, bpm: float, start_s: float) -> None:
    recount = Recount(Grid.constant(120.0, 0.0), now := Grid.constant(bpm, start_s))
    beat = recount.beat(at, 1.0, 1.0)
    whole = beat - at * recount.octave(at)
    assert whole == pytest.approx(round(whole), abs=1e-6)
    assert abs(float(now.time_at(beat)) - at / 2.0) <= 30.0 / bpm + 1e-6


def test_there_and_back_again_is_exact() -> None:
    mix = placed(in_at=7.5)
    halved = grid_edits.scale(INTO.grid, 0.5)  # type: ignore[arg-type]
    again, _ = counted(mix, INTO, halved)
    assert again != mix
    assert recounted_mix(again, {"in": Recount(halved, INTO.grid)}) == mix  # type: ignore[arg-type]
