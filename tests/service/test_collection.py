"""Many tracks: found as typed, tagged at once and taken back, on lists, paired, and never stale."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import Cue, CueRole, PutCues
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.services import Services
from fernbrook.store.tables import TrackRow


def stocked(services: Services, count: int = 40) -> list[str]:
    """A library of tracks that nobody need decode."""
    with services._database.write() as session:
        session.add_all(
            TrackRow(
                id=f"t{i:02}", content_hash=f"{i:064}", file_name="x.wav", path=f"audio/{i}", title=f"T {i}",
                artist="Moss", format="WAV", coding="", rate=44_100, channels=2, duration_s=200.0 + 2 * i, bytes=1,
                bpm=100.0 + i, key=("Am", "C", "Eb")[i % 3], voice_share=0.3 * (i % 2), analysis_version=5,
            )
            for i in range(count)
        )  # fmt: skip
    return [f"t{i:02}" for i in range(count)]


def tags_of(services: Services) -> dict[str, tuple[str, ...]]:
    return {t.id: t.tags for t in services.catalogue.tracks() if t.tags}


def test_forty_tracks_are_tagged_at_once_and_taken_back_at_once(services: Services) -> None:
    ids = stocked(services)
    services.collection.tag(ids, add=["Dub", "night"])
    services.collection.tag(ids[:10], add=["dub", "opener"], remove=["NIGHT"])
    assert tags_of(services)["t00"] == ("Dub", "opener")
    assert services.catalogue.tags() == {"Dub": 40, "night": 30, "opener": 10}
    assert len(services.catalogue.find("tag:dub -tag:night")) == 10
    assert services.collection.gathered().steps.undo == "2 tags, 10 tracks"
    services.collection.undo()
    assert services.catalogue.tags() == {"Dub": 40, "night": 40}
    again = services.collection.undo()
    assert (again.steps.undo, again.steps.redo) == (None, "2 tags, 40 tracks")
    assert tags_of(services) == {}
    services.collection.redo()
    services.collection.redo()
    assert tags_of(services)["t05"] == ("Dub", "opener")
    with pytest.raises(RefusedError, match="nothing to redo"):
        services.collection.redo()


def test_a_tag_is_renamed_and_joined_with_another(services: Services) -> None:
    ids = stocked(services, 3)
    services.collection.tag(ids[:2], add=["deep"])
    services.collection.tag(ids[1:], add=["Dub"])
    services.collection.rename_tag("DEEP", "dub")
    assert tags_of(services) == {"t00": ("dub",), "t01": ("Dub",), "t02": ("Dub",)}
    services.collection.rename_tag("dub", None)
    assert tags_of(services) == {}
    services.collection.undo()
    assert len(tags_of(services)) == 3
    with pytest.raises(NotFoundError, match="No track has the tag"):
        services.collection.rename_tag("deep", "x")
    with pytest.raises(RefusedError, match="up to 60 tags"):
        services.collection.tag(ids, add=[f"n{i}" for i in range(61)])


def test_lists_keep_their_order_and_everything_about_them_is_undone(services: Services) -> None:
    ids = stocked(services, 5)
    opening = services.collection.make_list("Opening set", [ids[3], ids[1]])
    services.collection.add_to_list(opening, [ids[2], ids[3]])
    assert services.catalogue.find("", (), services.collection.tracks_on(opening)) == ["t03", "t01", "t02", "t03"]
    assert services.catalogue.find("-voice", ("bpm",), services.collection.tracks_on(opening)) == ["t02"]
    copy = services.collection.duplicate_list(opening)
    services.collection.change_list(copy, name="Closing", track_ids=[ids[0]])
    assert [t.lists for t in services.catalogue.tracks() if t.id in ("t00", "t03")] == [("Opening set",), ("Closing",)]
    services.collection.remove_list(opening)
    assert [x.name for x in services.collection.gathered().lists] == ["Closing"]
    services.collection.undo()
    assert services.catalogue.find('list:"opening set"') == ["t03", "t02", "t01"]
    with pytest.raises(NotFoundError, match="list is not there"):
        services.collection.change_list("gone", name="x")


def test_filters_are_saved_when_they_mean_something(services: Services) -> None:
    saved = services.collection.save_filter("Warm up", "bpm:100-110 instrumental")
    services.collection.save_filter("Warm up, slow", "bpm:90-110", saved)
    assert [(f.name, f.search) for f in services.collection.gathered().filters] == [("Warm up, slow", "bpm:90-110")]
    with pytest.raises(RefusedError, match="no field"):
        services.collection.save_filter("Odd", "tempi:100")
    services.collection.remove_filter(saved)
    assert not services.collection.undo().filters[0].name.endswith("(copy)")


def test_what_fits_comes_with_what_is_paired_first(services: Services) -> None:
    ids = stocked(services)
    services.collection.pair(ids[20], ids[39], "the drum break at the end")
    after = services.catalogue.fits(ids[20])
    assert (after[0].id, after[0].reasons[0]) == ("t39", "paired: the drum break at the end")
    assert services.catalogue.fits(ids[39], before=True)[0].id == "t20"
    assert not services.catalogue.fits(ids[39])[0].paired
    only = services.catalogue.fits(ids[20], "instrumental bpm:118-122")
    assert {f.id for f in only} == {"t18", "t22"}
    services.collection.pair(ids[20], ids[39], None)
    assert not services.catalogue.fits(ids[20])[0].paired
    services.collection.undo()
    assert [p.note for p in services.collection.gathered().pairings] == ["the drum break at the end"]
    with pytest.raises(RefusedError, match="with itself"):
        services.collection.pair(ids[0], ids[0], "")


def test_the_catalogue_follows_whatever_happens_to_a_track(services: Services) -> None:
    ids = stocked(services, 4)
    before = services.catalogue.version()
    services.marking.change(ids[0], None, PutCues(cues=(Cue(id="c", at=8.0, role=CueRole.MIX_IN, name="door"),)))
    assert services.catalogue.find("cued") == ["t00"]
    assert services.catalogue.version() != before
    assert next(t.cue_marks for t in services.catalogue.tracks() if t.id == "t00") == ((4.0, "in · door"),)
    mix = services.mixes.create("Late")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(ids[1],)))
    assert services.catalogue.find("mix:late") == ["t01"]
    services.collection.rename_track(ids[2], "Wet  Glass", "Marrow Street")
    assert services.catalogue.find("wet marrow") == ["t02"]
    services.library.remove(ids[3])
    assert services.catalogue.find() == ["t02", "t01", "t00"]
    assert set(services.catalogue.look_for_files()) == {"t00", "t01", "t02"}
    assert len(services.catalogue.find("missing")) == 3
    back = services.folders.audio_file("audio/1")
    back.parent.mkdir(parents=True, exist_ok=True)
    back.write_bytes(b"sound")
    services.catalogue.look_for_files()
    assert sorted(services.catalogue.find("missing")) == ["t00", "t02"]


def test_the_same_recording_twice_is_told(services: Services) -> None:
    stocked(services, 3)
    with services._database.write() as session:
        row = session.get(TrackRow, "t02")
        assert row is not None
        row.title, row.duration_s, row.bpm, row.key = "t 0", 200.4, 100.1, "Am"
    assert sorted(services.catalogue.find("doubt:twice")) == ["t00", "t02"]
    services.library.remove("t02")
    assert services.catalogue.find("doubt:twice") == []


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=st.lists(st.tuples(st.sampled_from(["tag", "take", "rename", "list"]), st.integers(0, 5)), max_size=8))
def test_undoing_all_steps_brings_back_what_was(services: Services, steps: list[tuple[str, int]]) -> None:
    with services._database.write() as session:
        fresh = session.get(TrackRow, "t00") is None
    if fresh:
        stocked(services, 6)

    def state() -> object:
        tracks = sorted((t.id, t.title, t.tags) for t in services.catalogue.tracks())
        return tracks, services.collection.gathered().lists

    before = state()
    for what, n in steps:
        match what:
            case "tag":
                services.collection.tag([f"t{i:02}" for i in range(n)], add=[f"tag {n}"])
            case "take":
                services.collection.tag([f"t{i:02}" for i in range(6)], remove=[f"tag {n}"])
            case "rename":
                services.collection.rename_track(f"t{n:02}", f"New {n}", "")
            case "list":
                services.collection.make_list(f"List {n}", [f"t{n:02}"])
    after = state()
    done = 0
    while state() != before:
        services.collection.undo()
        done += 1
    for _ in range(done):
        services.collection.redo()
    assert state() == after
    for _ in range(done):
        services.collection.undo()
    assert state() == before
