"""Files that vanish or change after their import: told with the track's name, and put back by importing again."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.mix.commands import AddTracks
from fernbrook.errors import AudioFileError
from fernbrook.service.files import sound_files
from fernbrook.service.files.sound_files import content_hash
from fernbrook.service.mixes.mixes import OpenMix
from fernbrook.service.services import Services
from fernbrook.service.tracks.marking import Heard
from fernbrook.service.work.render import RenderWish
from fernbrook.store.database import Database
from fernbrook.store.tables import TrackRow
from tests.conftest import Made
from tests.service.conftest import analysed, until

pytestmark = pytest.mark.slow


@pytest.fixture
def opened(services: Services, first: Made, second: Made) -> OpenMix:
    """A mix of two tracks."""
    ids = tuple(services.library.bring_in_path(m.path).track.id for m in (first, second))
    mix = services.mixes.create("Night")
    return services.mixes.change(mix.id, mix.version, AddTracks(track_ids=ids))


def _file(services: Services, opened: OpenMix, place: int) -> Path:
    return services.files.find(opened.plan.entries[place].track.id)


def _hear(services: Services, opened: OpenMix, start: int, frames: int) -> np.ndarray:
    return np.concatenate(list(services.listening.preview(opened.id, start, start + frames, None)[1]))


def _cut(path: Path) -> None:
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])


def _replace(path: Path) -> None:
    rate = soundfile.info(path).samplerate
    soundfile.write(path, 0.1 * np.random.default_rng(1).standard_normal((20 * rate, 2)), rate, format=path.suffix[1:])


def _alter(path: Path) -> None:
    """Other content of the same size."""
    content = bytearray(path.read_bytes())
    content[len(content) // 2] ^= 0xFF
    path.write_bytes(content)


@pytest.mark.parametrize(
    ("harm", "words"),
    [(Path.unlink, "is missing"), (_cut, "was changed"), (_replace, "was changed"), (_alter, "was changed")],
)
def test_what_befell_a_file_is_said_before_anything_sounds(
    services: Services, opened: OpenMix, second: Made, harm: object, words: str
) -> None:
    heard = _hear(services, opened, 0, 44_100)
    path = _file(services, opened, 1)
    harm(path)  # type: ignore[operator]
    name = second.song.title
    with pytest.raises(AudioFileError, match=f"‘{name}’ {words}"):
        services.renders.start(opened.id, RenderWish(output=OutputFormat.FLAC_16))
    with pytest.raises(AudioFileError, match=f"‘{name}’ {words}"):
        services.listening.preview(opened.id, 0, None, None)
    with pytest.raises(AudioFileError, match=f"‘{name}’ {words}"):
        services.marking.listen(opened.plan.entries[1].track.id, Heard())
    # Where the other track plays alone nothing is missing.
    assert np.array_equal(_hear(services, opened, 0, 44_100), heard)
    again = services.library.bring_in_path(second.path)
    assert (again.known, again.restored) == (True, True)
    assert services.renders.start(opened.id, RenderWish(output=OutputFormat.FLAC_16)).job.state == "waiting"
    assert services.library.bring_in_path(second.path).restored is False


def test_a_file_with_a_new_time_but_the_same_content_is_the_same_and_read_for_that_once(
    services: Services, opened: OpenMix, monkeypatch: pytest.MonkeyPatch
) -> None:
    read: list[Path] = []

    def counted(path: Path) -> str:
        read.append(path)
        return content_hash(path)

    monkeypatch.setattr(sound_files, "content_hash", counted)
    path = _file(services, opened, 0)
    os.utime(path, (1_000_000_000, 1_000_000_000))
    for _ in range(3):
        assert len(_hear(services, opened, 0, 1000)) == 1000
    assert read == [path]


@pytest.mark.parametrize("harm", [None, _alter])
def test_a_track_of_an_older_library_is_held_against_what_was_imported(
    services: Services, opened: OpenMix, harm: Callable[[Path], None] | None
) -> None:
    """Older versions noted no more of a file than the hash of what came in."""
    database = Database(services.folders.database)
    with database.write() as session:
        for row in session.query(TrackRow):
            row.kept_bytes = row.kept_mtime_ns = row.kept_hash = None
    database.close()
    if harm is None:
        assert len(_hear(services, opened, 0, 1000)) == 1000
        return
    harm(_file(services, opened, 0))
    with pytest.raises(AudioFileError, match="was changed"):
        _hear(services, opened, 0, 1000)


def test_a_replaced_file_that_stayed_in_place_is_told_and_can_be_a_track_of_its_own(
    services: Services, first: Made, tmp_path: Path
) -> None:
    own = tmp_path / "own.wav"
    shutil.copy(first.path, own)
    track = services.library.bring_in_path(own, in_place=True).track
    assert services.files.find(track.id) == own
    _replace(own)
    with pytest.raises(AudioFileError, match="changed or replaced"):
        services.marking.listen(track.id, Heard())
    fresh = services.library.bring_in_path(own, in_place=True)
    assert not fresh.known
    assert fresh.track.id != track.id
    back = services.library.bring_in_path(first.path)
    assert (back.track.id, back.restored) == (track.id, True)
    assert services.files.find(track.id).is_relative_to(services.folders.audio)


def test_lost_pictures_are_made_again_when_the_file_comes_once_more(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    services.start()
    until(lambda: analysed(services))
    for picture in services.folders.peaks.iterdir():
        picture.unlink()
    assert services.library.bring_in_path(first.path).known
    until(lambda: analysed(services))
    assert services.library.peaks(track.id, 1024).is_file()


def test_a_copy_of_a_data_folder_leaves_the_original_alone(services: Services, opened: OpenMix, tmp_path: Path) -> None:
    services.start()
    made = services.renders.start(opened.id, RenderWish(output=OutputFormat.FLAC_16)).job
    until(lambda: services.renders.list(opened.id)[0].job.state == "done")
    original, _ = services.renders.file(made.id)
    services.stop()
    shutil.copytree(services.folders.root, tmp_path / "copy")
    copy = Services(type(services.folders)(tmp_path / "copy"), workers=1)
    try:
        path, _ = copy.renders.file(made.id)
        assert path.is_relative_to(tmp_path / "copy")
        copy.renders.delete(made.id)
        assert not path.exists()
        assert original.is_file()
        assert original.with_suffix(".txt").is_file()
    finally:
        copy.stop()
