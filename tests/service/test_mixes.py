from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from fernbrook.audio.loudness import LoudnessMeter
from fernbrook.core.mix.commands import (
    AddTracks,
    PlaceTransition,
    PutLayers,
    RemoveEntries,
    RenameMix,
    SetGain,
    SetHomeTempo,
)
from fernbrook.core.mix.layers import Layer, OfTrack, OnMix
from fernbrook.core.plan import source_at
from fernbrook.core.track import Grid, PutGrid
from fernbrook.core.track import commands as m
from fernbrook.errors import NotFoundError, RefusedError, StaleError
from fernbrook.kept import KeptValues
from fernbrook.service import mixes as mixes_module
from fernbrook.service.house import House
from fernbrook.service.mixes import Mixes, OpenMix
from fernbrook.store.folders import Folders
from fernbrook.store.tables import MixRow, RevisionRow
from tests.conftest import Made


@pytest.fixture
def opened(house: House, first: Made, second: Made) -> OpenMix:
    """A mix of two tracks."""
    ids = tuple(house.library.bring_in_path(m.path).track.id for m in (first, second))
    mix = house.mixes.create("Night")
    return house.mixes.change(mix.id, mix.version, AddTracks(track_ids=ids))


def test_undo_and_redo_go_all_the_way(house: House, opened: OpenMix) -> None:
    mix_id, version = opened.id, opened.version
    for number in range(20):
        version = house.mixes.change(mix_id, version, RenameMix(name=f"Name {number}")).version
    names = []
    while (now := house.mixes.open(mix_id)).steps.undo:
        version = house.mixes.undo(mix_id, now.version).version
        names.append(house.mixes.open(mix_id).plan.mix.name)
    assert names == [*(f"Name {n}" for n in range(18, -1, -1)), "Night", "Night"]
    while (now := house.mixes.open(mix_id)).steps.redo:
        house.mixes.redo(mix_id, now.version)
    assert house.mixes.open(mix_id).plan.mix.name == "Name 19"


def test_history_outlasts_a_restart(house: House, folders: Folders, opened: OpenMix) -> None:
    changed = house.mixes.change(opened.id, opened.version, RenameMix(name="Morning"))
    house.stop()
    again = House(folders, workers=1)
    try:
        assert again.mixes.open(opened.id).steps.undo == "rename the mix"
        assert again.mixes.undo(opened.id, changed.version).plan.mix.name == "Night"
    finally:
        again.stop()


def test_a_stale_change_is_refused_and_nothing_is_lost(house: House, opened: OpenMix) -> None:
    mix_id, seen = opened.id, opened.version
    house.mixes.change(mix_id, seen, RenameMix(name="From tab one"))
    with pytest.raises(StaleError, match="changed elsewhere") as caught:
        house.mixes.change(mix_id, seen, RenameMix(name="From tab two"))
    assert caught.value.version == seen + 1
    assert house.mixes.open(mix_id).plan.mix.name == "From tab one"


def test_a_new_change_after_undo_leads_on_from_there(house: House, opened: OpenMix) -> None:
    mix_id = opened.id
    one = house.mixes.change(mix_id, opened.version, RenameMix(name="One"))
    back = house.mixes.undo(mix_id, one.version)
    two = house.mixes.change(mix_id, back.version, RenameMix(name="Two"))
    assert two.steps.redo is None
    assert house.mixes.undo(mix_id, two.version).plan.mix.name == "Night"


def test_a_change_that_changes_nothing_leaves_no_trace(house: House, opened: OpenMix) -> None:
    same = house.mixes.change(opened.id, opened.version, RenameMix(name="Night"))
    assert same.version == opened.version


def test_a_refused_command_says_why_and_changes_nothing(house: House, opened: OpenMix) -> None:
    with pytest.raises(RefusedError, match="not in the mix"):
        house.mixes.change(opened.id, opened.version, SetGain(entry_id="e99", gain_db=0.0))
    assert house.mixes.open(opened.id).version == opened.version


def test_a_copy_is_independent(house: House, opened: OpenMix) -> None:
    copy = house.mixes.duplicate(opened.id)
    entry = copy.plan.entries[0].entry.id
    house.mixes.change(copy.id, copy.version, SetHomeTempo(entry_id=entry, bpm=100.0))
    assert house.mixes.open(opened.id).plan.entries[0].entry.tempo is None
    assert copy.plan.mix.name == "Night (copy)"
    assert copy.steps.undo is None


def test_a_deleted_mix_is_gone(house: House, opened: OpenMix) -> None:
    house.mixes.delete(opened.id)
    with pytest.raises(NotFoundError):
        house.mixes.open(opened.id)
    assert house.mixes.list() == []


def test_a_track_that_is_counted_otherwise_leaves_its_mixes_as_they_sound(
    house: House, opened: OpenMix, first: Made, second: Made
) -> None:
    mix_id, tracks = opened.id, [e.track.id for e in opened.plan.entries]
    for track, made in zip(tracks, (first, second), strict=True):
        house.marking.change(track, None, m.PutGrid(grid=made.truth.grid))
    pair = {"out_id": opened.plan.entries[0].entry.id, "in_id": opened.plan.entries[1].entry.id}
    version = opened.version
    for out_at in (80.0, 88.0):
        place = PlaceTransition(**pair, out_at=out_at, in_at=8.0, beats=16.0)
        version = house.mixes.change(mix_id, version, place).version

    def starts() -> float:
        return house.mixes.open(mix_id).plan.transitions[0].start_s

    at_first = starts()
    seen = house.marking.open(tracks[0]).version
    for edit in (m.ScaleTempo(factor=0.5), m.CountFrom(beat=3.0)):
        seen = house.marking.change(tracks[0], seen, edit).version
        assert starts() == pytest.approx(at_first)
    back = house.mixes.undo(mix_id, version)
    assert back.plan.transitions[0].start_s == pytest.approx(at_first - 4.0)
    house.mixes.redo(mix_id, back.version)
    for _ in range(2):
        seen = house.marking.undo(tracks[0], seen).version
        assert starts() == pytest.approx(at_first)


def test_a_mix_follows_the_grid_of_its_track_at_once(house: House, opened: OpenMix, first: Made) -> None:
    track = opened.plan.entries[0].track.id
    house.marking.change(track, None, m.PutGrid(grid=first.truth.grid))
    before = house.mixes.open(opened.id).plan.entries[0].played.time_at(8.0)
    house.marking.change(track, None, m.Slide(by_s=0.02))
    after = house.mixes.open(opened.id).plan.entries[0].played.time_at(8.0)
    assert float(after - before) == pytest.approx(0.02)


def test_a_layer_of_a_track_that_is_no_entry_stays_where_it_sounds_when_that_is_counted_otherwise(
    house: House, opened: OpenMix, second: Made
) -> None:
    track = opened.plan.entries[1].track.id
    house.marking.change(track, None, m.PutGrid(grid=second.truth.grid))
    alone = house.mixes.change(opened.id, opened.version, RemoveEntries(entry_ids=(opened.plan.entries[1].entry.id,)))
    layer = Layer(id="l", sound=OfTrack(track_id=track, start=32.0, beats=16.0), at=OnMix(beat=24.0))
    put = house.mixes.change(opened.id, alone.version, PutLayers(layers=(layer,)))
    assert put.plan.tracks[-1].id == track
    before = put.plan.layers[0].parts[0]
    house.marking.change(track, None, m.ScaleTempo(factor=0.5))
    after = house.mixes.open(opened.id).plan.layers[0]
    assert after.layer.sound == OfTrack(track_id=track, start=16.0, beats=8.0, count=2.0)
    times = np.array([before.start_s, before.end_s])
    assert source_at(after.parts[0].segments, times) == pytest.approx(source_at(before.segments, times), abs=1e-6)


def test_there_is_an_end_to_undo(house: House) -> None:
    mix = house.mixes.create("New")
    with pytest.raises(RefusedError, match="where the mix began"):
        house.mixes.undo(mix.id, mix.version)
    with pytest.raises(RefusedError, match="nothing to redo"):
        house.mixes.redo(mix.id, mix.version)


def test_the_history_is_a_list_to_go_back_in_and_nothing_is_thrown_away(house: House, opened: OpenMix) -> None:
    mix_id = opened.id
    long = house.mixes.change(mix_id, opened.version, RenameMix(name="Long version"))
    named = next(s for s in house.mixes.history(mix_id) if s.is_here)
    house.mixes.name_step(mix_id, named.id, "before the short one")
    back = house.mixes.undo(mix_id, long.version)
    house.mixes.change(mix_id, back.version, RenameMix(name="Short version"))
    steps = house.mixes.history(mix_id)
    assert [s.label for s in steps] == ["rename the mix", "rename the mix", "add 2 tracks", "create the mix"]
    assert [(s.is_here, s.in_line, s.name) for s in steps[:2]] == [
        (True, True, ""),
        (False, False, "before the short one"),
    ]
    assert house.mixes.try_step(mix_id, named.id).plan.mix.name == "Long version"
    now = house.mixes.open(mix_id)
    gone = house.mixes.go_to(mix_id, now.version, named.id)
    assert gone.plan.mix.name == "Long version"
    assert gone.version == now.version + 1
    with pytest.raises(StaleError):
        house.mixes.go_to(mix_id, now.version, named.id)
    with pytest.raises(NotFoundError):
        house.mixes.try_step(mix_id, 999_999)


def test_a_saved_hand_over_is_kept_renamed_and_replaced_by_one_of_its_name(house: House, opened: OpenMix) -> None:
    saved = house.hand_overs.save(" Fern ", opened.id, 0)
    again = house.hand_overs.save("fern", opened.id, 0)
    assert saved.id == again.id
    other = house.hand_overs.save("Moss", opened.id, 0)
    assert [k.hand_over.name for k in house.hand_overs.list()] == ["fern", "Moss"]
    assert house.hand_overs.rename(other.id, "Bark").hand_over.name == "Bark"
    with pytest.raises(RefusedError, match="already"):
        house.hand_overs.rename(other.id, "FERN")
    with pytest.raises(RefusedError, match="needs a name"):
        house.hand_overs.save("  ", opened.id, 0)
    with pytest.raises(NotFoundError):
        house.hand_overs.save("x", opened.id, 5)
    house.hand_overs.delete(other.id)
    with pytest.raises(NotFoundError):
        house.hand_overs.delete(other.id)


def test_a_preview_may_be_softer_and_its_loudness_is_told(house: House, opened: OpenMix) -> None:
    span = (opened.id, 44_100 * 5, 44_100 * 12)
    loud = house.listening.loudness(*span)
    assert loud is not None
    _, blocks = house.listening.preview(*span, None, gain_db=-6.0)
    meter = LoudnessMeter(44_100)
    for block in blocks:
        meter.add(block)
    assert meter.result().integrated_lufs == pytest.approx(loud - 6.0, abs=0.05)


def test_without_grids_there_is_nothing_to_propose(house: House, opened: OpenMix) -> None:
    planned, found = house.mixes.proposals(opened.id, 0)
    assert (planned.index, found) == (0, ())
    with pytest.raises(NotFoundError):
        house.mixes.proposals(opened.id, 1)


def test_many_mixes_are_looked_at_by_many_at_a_time(house: House, first: Made) -> None:
    track = house.library.bring_in_path(first.path).track.id
    made = [house.mixes.create(f"Mix {n}") for n in range(40)]
    for mix in made:
        house.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track,)))

    def look(n: int) -> int:
        if n % 5 == 0:
            return len(house.mixes.list())
        return len(house.mixes.open(made[n % 40].id).plan.entries) * 40

    with ThreadPoolExecutor(6) as threads:
        assert set(threads.map(look, range(120))) == {40}


def test_a_list_of_mixes_plans_each_once_until_it_or_a_track_of_it_changes(
    house: House, first: Made, second: Made, monkeypatch: pytest.MonkeyPatch
) -> None:
    tracks = [house.library.bring_in_path(m.path).track.id for m in (first, second)]
    made = []
    for track in tracks:
        mix = house.mixes.create("Mix")
        made.append(house.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track,))))
    planned: list[str] = []
    real = mixes_module.plan
    monkeypatch.setattr(mixes_module, "plan", lambda mix, *more: planned.append(mix.name) or real(mix, *more))
    monkeypatch.setattr(mixes_module, "PLANS_KEPT", 1)
    monkeypatch.setattr(house.mixes, "_plans", KeptValues(1))
    lengths = {m.id: (m.entries, m.duration_s) for m in house.mixes.list()}
    assert lengths == {m.id: (1, m.plan.duration_s) for m in made}
    planned.clear()
    again = Mixes(house._database, house.events)
    assert {m.id: (m.entries, m.duration_s) for m in again.list()} == lengths
    assert planned == [], "how long they are is kept with them"
    house.marking.change(tracks[0], None, PutGrid(grid=Grid.constant(60.0, 0.0)))
    assert len(again.list()) == 2
    assert len(planned) == 1, "only what has the track is planned"


def test_a_mix_that_cannot_be_read_takes_no_list_down(house: House) -> None:
    bad, good = (house.mixes.create(name) for name in ("Bad", "Good"))
    with house._database.write() as session:
        row = session.get_one(MixRow, bad.id)
        session.get_one(RevisionRow, row.head).state = b"no state"
        row.version += 1
    listed = {m.name: m for m in house.mixes.list()}
    assert "cannot be read" in listed["Bad"].problem
    assert listed["Good"].problem == ""
    house.mixes.delete(bad.id)
    assert [m.id for m in house.mixes.list()] == [good.id]


def test_a_trial_is_heard_however_many_were_made_since(house: House, first: Made, second: Made) -> None:
    ids = [house.library.bring_in_path(m.path).track.id for m in (first, second)]
    mix = house.mixes.create("Night")
    mix = house.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    tried = [house.mixes.trial(mix.id, SetGain(entry_id="e1", gain_db=-0.25 * n)) for n in range(40)]
    for made in tried:
        assert house.mixes.tried(made.id).parts == made.plan.parts
    with pytest.raises(NotFoundError, match="Try it again"):
        house.mixes.tried("none")
