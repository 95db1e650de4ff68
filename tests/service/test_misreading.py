"""Tags in another encoding than they say: noticed in the list, read from the files again, and taken back."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
import soundfile
from mutagen.id3 import ID3, TALB, TIT2, TPE1

from fernbrook.core.library import Encoding, FileDoubt
from fernbrook.errors import AudioFileError, RefusedError
from fernbrook.service.services import Services
from tests.conftest import Made

pytestmark = pytest.mark.usefixtures("no_analyses")


def brought(services: Services, made: Made, folder: Path, number: int, title: str, artist: str, encoding: str) -> str:
    """A track whose tags hold names in an encoding and say that they are Latin-1; its id."""
    path = folder / f"{number}.mp3"
    sound = made.sound()[: 44_100 * (number + 3)]
    soundfile.write(path, sound, 44_100, format="MP3")
    tags = ID3()
    for frame, text in ((TIT2, title), (TPE1, artist), (TALB, "Glasshouse")):
        tags.add(frame(encoding=0, text=text.encode(encoding).decode("latin-1")))
    tags.save(path)
    return services.library.bring_in_path(path).track.id


def names(services: Services, track_id: str) -> tuple[str, str]:
    track = services.library.get(track_id)
    return track.title, track.artist


def test_they_are_noticed_offered_read_and_taken_back(services: Services, first: Made, tmp_path: Path) -> None:
    night = brought(services, first, tmp_path, 1, "Ночь в оранжерее", "Зоопарк", "cp1251")
    summer = brought(services, first, tmp_path, 2, "Лето", "Moss", "cp1251")
    fine = brought(services, first, tmp_path, 3, "Größe", "Köche", "latin-1")
    doubts = {t.id: FileDoubt.MISREAD in t.file_doubts for t in services.catalogue.tracks()}
    assert doubts == {night: True, summer: True, fine: False}
    offered = services.misreading.readings([night, summer])
    assert (offered[0].encoding, offered[0].title, offered[0].artist) == (
        Encoding.CYRILLIC,
        "Ночь в оранжерее",
        "Зоопарк",
    )
    before = names(services, night)
    assert services.misreading.read_as([night, summer, fine], Encoding.CYRILLIC) == 2
    assert [names(services, i) for i in (night, summer, fine)] == [
        ("Ночь в оранжерее", "Зоопарк"),
        ("Лето", "Moss"),
        ("Größe", "Köche"),
    ]
    assert not any(FileDoubt.MISREAD in t.file_doubts for t in services.catalogue.tracks())
    assert services.collection.gathered().steps.undo == "read names again, 2 tracks"
    services.collection.undo()
    assert names(services, night) == before


def test_signs_that_are_no_latin_1_at_all_come_back_from_the_file(
    services: Services, first: Made, tmp_path: Path
) -> None:
    """Of Japanese in Shift-JIS the list has only what can be shown: the rest was never text in Latin-1."""
    night = brought(services, first, tmp_path, 1, "夜の温室", "さくら", "cp932")
    assert FileDoubt.MISREAD in services.catalogue.tracks()[0].file_doubts
    services.misreading.read_as([night], Encoding.JAPANESE)
    assert names(services, night) == ("夜の温室", "さくら")


def test_what_was_renamed_by_hand_stays_and_what_cannot_be_read_is_said(
    services: Services, first: Made, tmp_path: Path
) -> None:
    night = brought(services, first, tmp_path, 1, "Ночь", "Зоопарк", "cp1251")
    services.collection.rename_track(night, "Night", services.library.get(night).artist)
    services.misreading.read_as([night], Encoding.CYRILLIC)
    assert names(services, night) == ("Night", "Зоопарк")
    with pytest.raises(RefusedError, match="None of those names"):
        services.misreading.read_as([night], Encoding.CYRILLIC)
    shutil.rmtree(services.folders.audio)
    with pytest.raises(AudioFileError, match="missing"):
        services.misreading.readings([night])
