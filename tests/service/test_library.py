from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import soundfile
from sqlalchemy import text

from fernbrook.api.schemas.tracks import track_table
from fernbrook.core.mix.commands import AddTracks, RemoveEntries
from fernbrook.core.track import Grid, PutGrid
from fernbrook.errors import AudioFileError, InUseError, NotFoundError
from fernbrook.service.files.audio_files import find_audio
from fernbrook.service.services import Services
from fernbrook.service.tracks.marking import Heard
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.service.conftest import analysed, until


@pytest.mark.slow
def test_a_track_comes_in_with_its_tags_and_is_analysed(services: Services, second: Made) -> None:
    imported = services.library.bring_in_path(second.path)
    assert not imported.known
    services.start()
    until(lambda: analysed(services))
    [listed] = services.catalogue.tracks()
    track = services.library.get(imported.track.id)
    assert (track.title, track.artist, track.key_tag, track.format) == ("Stomata", "Kelp Union", "Fm", "FLAC")
    assert listed.job is None
    assert services.library.facts(track.id).grid.bpm_after == pytest.approx(126.0, abs=0.02)
    assert track.loudness_lufs is not None
    peaks = np.frombuffer(services.library.peaks(track.id, 1024).read_bytes(), np.uint8)
    assert len(peaks) == 3 * -(-round(track.duration_s * 44_100) // 1024)
    assert peaks.max() > 100


def test_the_same_content_comes_in_once(services: Services, first: Made) -> None:
    one = services.library.bring_in_path(first.path)
    two = services.library.bring_in(io.BytesIO(first.path.read_bytes()), "another name.wav")
    assert two.known
    assert two.track.id == one.track.id


def test_a_refused_file_is_named_and_leaves_nothing(services: Services, folders: Folders) -> None:
    with pytest.raises(AudioFileError, match=r"list\.mp3"):
        services.library.bring_in(io.BytesIO(b"milk, bread, ferns"), "../../list.mp3")
    assert services.catalogue.tracks() == []
    assert not list(folders.incoming.iterdir())
    assert not [p for p in folders.audio.rglob("*") if p.is_file()]


def test_a_file_that_stays_in_place_is_not_copied_or_deleted(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path, in_place=True).track
    assert services.files.find(track.id) == first.path
    services.library.remove(track.id)
    assert first.path.is_file()


def test_removing_waits_for_mixes_and_keeps_undo_whole(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    opened = services.mixes.create("Night")
    opened = services.mixes.change(opened.id, opened.version, AddTracks(track_ids=(track.id,)))
    with pytest.raises(InUseError, match="‘Night’"):
        services.library.remove(track.id)
    entry = opened.plan.entries[0].entry.id
    opened = services.mixes.change(opened.id, opened.version, RemoveEntries(entry_ids=(entry,)))
    services.library.remove(track.id)
    assert services.catalogue.tracks() == []
    assert len(services.mixes.undo(opened.id, opened.version).plan.entries) == 1
    again = services.library.bring_in_path(first.path)
    assert (again.track.id, again.known) == (track.id, False)
    assert len(services.catalogue.tracks()) == 1
    assert services.library.bring_in_path(first.path).known


def test_removing_for_good_deletes_the_files(services: Services, folders: Folders, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    path = services.files.find(track.id)
    assert path.is_relative_to(folders.audio)
    assert path.is_file()
    services.library.remove(track.id)
    assert not path.exists()
    with pytest.raises(NotFoundError):
        services.library.get(track.id)


@pytest.mark.slow
def test_a_grid_set_by_hand_outlasts_another_analysis(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    services.start()
    until(lambda: analysed(services))
    mended = Grid.constant(60.0, 1.0)
    services.marking.change(track.id, None, PutGrid(grid=mended))
    services.library.analyse_again(track.id)
    until(lambda: analysed(services))
    assert services.library.facts(track.id).grid == mended


def test_a_file_cut_off_after_its_header_fails_with_a_reason(services: Services, tmp_path: Path, second: Made) -> None:
    path = tmp_path / "cut.flac"
    path.write_bytes(second.path.read_bytes()[:600_000])
    with pytest.raises(AudioFileError, match=r"‘cut.flac’ is damaged: only the first 0:0\d of 1:03 can be played"):
        services.library.bring_in_path(path)
    assert services.catalogue.tracks() == []


def test_listening_to_a_track_gives_its_own_samples(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    frames, blocks = services.marking.listen(track.id, Heard(44_100))
    heard = np.concatenate(list(blocks))
    assert len(heard) == frames
    assert np.array_equal(heard, first.sound()[44_100:])


def test_folders_are_searched_for_audio_only(tmp_path: Path) -> None:
    (tmp_path / "deep").mkdir()
    soundfile.write(tmp_path / "deep" / "b.WAV", np.zeros((10, 1)), 44_100, format="WAV")
    (tmp_path / "notes.txt").write_text("x")
    assert [p.name for p in find_audio([tmp_path])] == ["b.WAV"]


def test_what_an_interruption_left_is_cleared(folders: Folders) -> None:
    folders.prepare()
    for leftover in (folders.incoming / "half", folders.renders / ".half.wav.part"):
        leftover.write_bytes(b"x")
    folders.prepare()
    assert not list(folders.incoming.iterdir())
    assert not list(folders.renders.iterdir())


@pytest.mark.parametrize(
    ("column", "value"),
    [
        ("findings", '{"file": {"top_hz": "high"}}'),
        ("findings", "{"),
        ("tags", '{"a": 1}'),
        ("tags", "["),
        ("doubts", '[{"kind": "none"}]'),
        ("cue_marks", "[[1]]"),
        ("year", "'soon'"),
        ("added_at", "yesterday"),
    ],
)
def test_a_row_that_cannot_be_read_says_so_and_takes_no_list_down(
    services: Services, first: Made, second: Made, column: str, value: str
) -> None:
    bad, good = (services.library.bring_in_path(m.path).track.id for m in (first, second))
    with services._database.write() as session:
        session.execute(
            text(f"UPDATE tracks SET {column} = :value, stamp = 1000 WHERE id = :id"), {"value": value, "id": bad}
        )
    listed = {t.id: t for t in services.catalogue.tracks()}
    assert listed.keys() == {bad, good}
    assert listed[good].title == second.song.title
    assert listed[bad].title == first.song.title
    assert services.catalogue.find("") == services.catalogue.find("", ("-added",))
    track_table(services.catalogue.tracks())
    if value not in ('{"a": 1}', "'soon'"):  # those can be shown as they are
        assert any("cannot be read" in words for words in listed[bad].file_doubts.values())
