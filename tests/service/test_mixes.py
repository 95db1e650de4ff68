from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from fernbrook.audio.measures.loudness import LoudnessMeter
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
from fernbrook.service.mixes import mixes as mixes_module
from fernbrook.service.mixes.mixes import Mixes, OpenMix
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.tables import MixRow, RevisionRow
from tests.conftest import Made


@pytest.fixture
def opened(services: Services, first: Made, second: Made) -> OpenMix:
    """A mix of two tracks."""
    ids = tuple(services.library.bring_in_path(m.path).track.id for m in (first, second))
    mix = services.mixes.create("Night")
    return services.mixes.change(mix.id, mix.version, AddTracks(track_ids=ids))


def test_undo_and_redo_go_all_the_way(services: Services, opened: OpenMix) -> None:
    mix_id, version = opened.id, opened.version
    for number in range(20):
        version = services.mixes.change(mix_id, version, RenameMix(name=f"Name {number}")).version
    names = []
    while (now := services.mixes.open(mix_id)).steps.undo:
        version = services.mixes.undo(mix_id, now.version).version
        names.append(services.mixes.open(mix_id).plan.mix.name)
    assert names == [*(f"Name {n}" for n in range(18, -1, -1)), "Night", "Night"]
    while (now := services.mixes.open(mix_id)).steps.redo:
        services.mixes.redo(mix_id, now.version)
    assert services.mixes.open(mix_id).plan.mix.name == "Name 19"


def test_what_one_gesture_changes_is_one_step(services: Services, opened: OpenMix) -> None:
    mix_id, version = opened.id, opened.version
    entry = opened.plan.entries[0].entry.id

    def turn(version: int, db: float, gesture: str | None) -> OpenMix:
        return services.mixes.change(mix_id, version, SetGain(entry_id=entry, gain_db=db), gesture)

    for db in (-1.0, -2.0, -3.0):
        version = turn(version, db, "first").version
    shown = len(services.mixes.history(mix_id))
    for db in (-4.0, -5.0):
        version = turn(version, db, "second").version
    assert len(services.mixes.history(mix_id)) == shown + 1
    gains = []
    for _ in range(2):
        back = services.mixes.undo(mix_id, version)
        version = back.version
        gains.append(back.plan.entries[0].entry.gain_db)
    assert gains == [-3.0, opened.plan.entries[0].entry.gain_db]
    again = services.mixes.redo(mix_id, version)
    assert again.plan.entries[0].entry.gain_db == -3.0
    changed = turn(turn(again.version, -6.0, None).version, -7.0, "second")
    assert services.mixes.undo(mix_id, changed.version).plan.entries[0].entry.gain_db == -6.0


def test_a_state_with_a_name_stays_whatever_gesture_goes_on(services: Services, opened: OpenMix) -> None:
    mix_id = opened.id
    named = services.mixes.change(mix_id, opened.version, RenameMix(name="Late"), "a")
    services.mixes.name_step(mix_id, services.mixes.history(mix_id)[0].id, "as sent")
    services.mixes.change(mix_id, named.version, RenameMix(name="Later"), "a")
    assert "as sent" in [step.name for step in services.mixes.history(mix_id)]


def test_history_outlasts_a_restart(services: Services, folders: Folders, opened: OpenMix) -> None:
    changed = services.mixes.change(opened.id, opened.version, RenameMix(name="Morning"))
    services.stop()
    again = Services(folders, workers=1)
    try:
        assert again.mixes.open(opened.id).steps.undo == "rename the mix"
        assert again.mixes.undo(opened.id, changed.version).plan.mix.name == "Night"
    finally:
        again.stop()


def test_a_stale_change_is_refused_and_nothing_is_lost(services: Services, opened: OpenMix) -> None:
    mix_id, seen = opened.id, opened.version
    services.mixes.change(mix_id, seen, RenameMix(name="From tab one"))
    with pytest.raises(StaleError, match="changed elsewhere") as caught:
        services.mixes.change(mix_id, seen, RenameMix(name="From tab two"))
    assert caught.value.version == seen + 1
    assert services.mixes.open(mix_id).plan.mix.name == "From tab one"


def test_a_new_change_after_undo_leads_on_from_there(services: Services, opened: OpenMix) -> None:
    mix_id = opened.id
    one = services.mixes.change(mix_id, opened.version, RenameMix(name="One"))
    back = services.mixes.undo(mix_id, one.version)
    two = services.mixes.change(mix_id, back.version, RenameMix(name="Two"))
    assert two.steps.redo is None
    assert services.mixes.undo(mix_id, two.version).plan.mix.name == "Night"


def test_a_change_that_changes_nothing_leaves_no_trace(services: Services, opened: OpenMix) -> None:
    same = services.mixes.change(opened.id, opened.version, RenameMix(name="Night"))
    assert same.version == opened.version


def test_a_refused_command_says_why_and_changes_nothing(services: Services, opened: OpenMix) -> None:
    with pytest.raises(RefusedError, match="not in the mix"):
        services.mixes.change(opened.id, opened.version, SetGain(entry_id="e99", gain_db=0.0))
    assert services.mixes.open(opened.id).version == opened.version


def test_a_copy_is_independent(services: Services, opened: OpenMix) -> None:
    copy = services.mixes.duplicate(opened.id)
    entry = copy.plan.entries[0].entry.id
    services.mixes.change(copy.id, copy.version, SetHomeTempo(entry_id=entry, bpm=100.0))
    assert services.mixes.open(opened.id).plan.entries[0].entry.tempo is None
    assert copy.plan.mix.name == "Night (copy)"
    assert copy.steps.undo is None


def test_a_deleted_mix_is_gone(services: Services, opened: OpenMix) -> None:
    services.mixes.delete(opened.id)
    with pytest.raises(NotFoundError):
        services.mixes.open(opened.id)
    assert services.mixes.list() == []


def test_a_track_that_is_counted_otherwise_leaves_its_mixes_as_they_sound(
    services: Services, opened: OpenMix, first: Made, second: Made
) -> None:
    mix_id, tracks = opened.id, [e.track.id for e in opened.plan.entries]
    for track, made in zip(tracks, (first, second), strict=True):
        services.marking.change(track, None, m.PutGrid(grid=made.truth.grid))
    pair = {"out_id": opened.plan.entries[0].entry.id, "in_id": opened.plan.entries[1].entry.id}
    version = opened.version
    for out_at in (80.0, 88.0):
        place = PlaceTransition(**pair, out_at=out_at, in_at=8.0, beats=16.0)
        version = services.mixes.change(mix_id, version, place).version

    def starts() -> float:
        return services.mixes.open(mix_id).plan.transitions[0].start_s

    at_first = starts()
    seen = services.marking.open(tracks[0]).version
    for edit in (m.ScaleTempo(factor=0.5), m.CountFrom(beat=3.0)):
        seen = services.marking.change(tracks[0], seen, edit).version
        assert starts() == pytest.approx(at_first)
    back = services.mixes.undo(mix_id, version)
    assert back.plan.transitions[0].start_s == pytest.approx(at_first - 4.0)
    services.mixes.redo(mix_id, back.version)
    for _ in range(2):
        seen = services.marking.undo(tracks[0], seen).version
        assert starts() == pytest.approx(at_first)


def test_a_mix_follows_the_grid_of_its_track_at_once(services: Services, opened: OpenMix, first: Made) -> None:
    track = opened.plan.entries[0].track.id
    services.marking.change(track, None, m.PutGrid(grid=first.truth.grid))
    before = services.mixes.open(opened.id).plan.entries[0].played.time_at(8.0)
    services.marking.change(track, None, m.Slide(by_s=0.02))
    after = services.mixes.open(opened.id).plan.entries[0].played.time_at(8.0)
    assert float(after - before) == pytest.approx(0.02)


def test_a_layer_of_a_track_that_is_no_entry_stays_where_it_sounds_when_that_is_counted_otherwise(
    services: Services, opened: OpenMix, second: Made
) -> None:
    track = opened.plan.entries[1].track.id
    services.marking.change(track, None, m.PutGrid(grid=second.truth.grid))
    alone = services.mixes.change(
        opened.id, opened.version, RemoveEntries(entry_ids=(opened.plan.entries[1].entry.id,))
    )
    layer = Layer(id="l", sound=OfTrack(track_id=track, start=32.0, beats=16.0), at=OnMix(beat=24.0))
    put = services.mixes.change(opened.id, alone.version, PutLayers(layers=(layer,)))
    assert put.plan.tracks[-1].id == track
    before = put.plan.layers[0].parts[0]
    services.marking.change(track, None, m.ScaleTempo(factor=0.5))
    after = services.mixes.open(opened.id).plan.layers[0]
    assert after.layer.sound == OfTrack(track_id=track, start=16.0, beats=8.0, count=2.0)
    times = np.array([before.start_s, before.end_s])
    assert source_at(after.parts[0].segments, times) == pytest.approx(source_at(before.segments, times), abs=1e-6)


def test_there_is_an_end_to_undo(services: Services) -> None:
    mix = services.mixes.create("New")
    with pytest.raises(RefusedError, match="where the mix began"):
        services.mixes.undo(mix.id, mix.version)
    with pytest.raises(RefusedError, match="nothing to redo"):
        services.mixes.redo(mix.id, mix.version)


def test_the_history_is_a_list_to_go_back_in_and_nothing_is_thrown_away(services: Services, opened: OpenMix) -> None:
    mix_id = opened.id
    long = services.mixes.change(mix_id, opened.version, RenameMix(name="Long version"))
    named = next(s for s in services.mixes.history(mix_id) if s.is_here)
    services.mixes.name_step(mix_id, named.id, "before the short one")
    back = services.mixes.undo(mix_id, long.version)
    services.mixes.change(mix_id, back.version, RenameMix(name="Short version"))
    steps = services.mixes.history(mix_id)
    assert [s.label for s in steps] == ["rename the mix", "rename the mix", "add 2 tracks", "create the mix"]
    assert [(s.is_here, s.in_line, s.name) for s in steps[:2]] == [
        (True, True, ""),
        (False, False, "before the short one"),
    ]
    assert services.mixes.try_step(mix_id, named.id).plan.mix.name == "Long version"
    now = services.mixes.open(mix_id)
    gone = services.mixes.go_to(mix_id, now.version, named.id)
    assert gone.plan.mix.name == "Long version"
    assert gone.version == now.version + 1
    with pytest.raises(StaleError):
        services.mixes.go_to(mix_id, now.version, named.id)
    with pytest.raises(NotFoundError):
        services.mixes.try_step(mix_id, 999_999)


def test_a_saved_shape_is_kept_renamed_and_replaced_by_one_of_its_name(services: Services, opened: OpenMix) -> None:
    saved = services.shapes.save(" Fern ", opened.id, 0)
    again = services.shapes.save("fern", opened.id, 0)
    assert saved.id == again.id
    other = services.shapes.save("Moss", opened.id, 0)
    assert [k.shape.name for k in services.shapes.list()] == ["fern", "Moss"]
    assert services.shapes.rename(other.id, "Bark").shape.name == "Bark"
    with pytest.raises(RefusedError, match="already"):
        services.shapes.rename(other.id, "FERN")
    with pytest.raises(RefusedError, match="needs a name"):
        services.shapes.save("  ", opened.id, 0)
    with pytest.raises(NotFoundError):
        services.shapes.save("x", opened.id, 5)
    services.shapes.delete(other.id)
    with pytest.raises(NotFoundError):
        services.shapes.delete(other.id)


def test_a_preview_may_be_softer_and_its_loudness_is_told(services: Services, opened: OpenMix) -> None:
    span = (opened.id, 44_100 * 5, 44_100 * 12)
    loud = services.listening.loudness(*span)
    assert loud is not None
    _, blocks = services.listening.preview(*span, None, gain_db=-6.0)
    meter = LoudnessMeter(44_100)
    for block in blocks:
        meter.add(block)
    assert meter.result().integrated_lufs == pytest.approx(loud - 6.0, abs=0.05)


def test_without_grids_there_is_nothing_to_propose(services: Services, opened: OpenMix) -> None:
    planned, found = services.mixes.proposals(opened.id, 0)
    assert (planned.index, found) == (0, ())
    with pytest.raises(NotFoundError):
        services.mixes.proposals(opened.id, 1)


def test_many_mixes_are_looked_at_by_many_at_a_time(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track.id
    made = [services.mixes.create(f"Mix {n}") for n in range(40)]
    for mix in made:
        services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track,)))

    def look(n: int) -> int:
        if n % 5 == 0:
            return len(services.mixes.list())
        return len(services.mixes.open(made[n % 40].id).plan.entries) * 40

    with ThreadPoolExecutor(6) as threads:
        assert set(threads.map(look, range(120))) == {40}


def test_a_list_of_mixes_plans_each_once_until_it_or_a_track_of_it_changes(
    services: Services, first: Made, second: Made, monkeypatch: pytest.MonkeyPatch
) -> None:
    tracks = [services.library.bring_in_path(m.path).track.id for m in (first, second)]
    made = []
    for track in tracks:
        mix = services.mixes.create("Mix")
        made.append(services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track,))))
    planned: list[str] = []
    real = mixes_module.plan
    monkeypatch.setattr(mixes_module, "plan", lambda mix, *more: planned.append(mix.name) or real(mix, *more))
    monkeypatch.setattr(mixes_module, "PLANS_KEPT", 1)
    monkeypatch.setattr(services.mixes, "_plans", KeptValues(1))
    lengths = {m.id: (m.entries, m.duration_s) for m in services.mixes.list()}
    assert lengths == {m.id: (1, m.plan.duration_s) for m in made}
    planned.clear()
    again = Mixes(services._database, services.events)
    assert {m.id: (m.entries, m.duration_s) for m in again.list()} == lengths
    assert planned == [], "how long they are is kept with them"
    services.marking.change(tracks[0], None, PutGrid(grid=Grid.constant(60.0, 0.0)))
    assert len(again.list()) == 2
    assert len(planned) == 1, "only what has the track is planned"


def test_a_mix_that_cannot_be_read_takes_no_list_down(services: Services) -> None:
    bad, good = (services.mixes.create(name) for name in ("Bad", "Good"))
    with services._database.write() as session:
        row = session.get_one(MixRow, bad.id)
        session.get_one(RevisionRow, row.head).state = b"no state"
        row.version += 1
    listed = {m.name: m for m in services.mixes.list()}
    assert "cannot be read" in listed["Bad"].problem
    assert listed["Good"].problem == ""
    services.mixes.delete(bad.id)
    assert [m.id for m in services.mixes.list()] == [good.id]


def test_a_trial_is_heard_however_many_were_made_since(services: Services, first: Made, second: Made) -> None:
    ids = [services.library.bring_in_path(m.path).track.id for m in (first, second)]
    mix = services.mixes.create("Night")
    mix = services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    tried = [services.mixes.trial(mix.id, SetGain(entry_id="e1", gain_db=-0.25 * n)) for n in range(40)]
    for made in tried:
        assert services.mixes.tried(made.id).parts == made.plan.parts
    with pytest.raises(NotFoundError, match="Try it again"):
        services.mixes.tried("none")
