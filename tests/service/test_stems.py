"""Stems as a job: made once, known to the mix, heard, thrown away."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.analysis.separation.bands import lower
from fernbrook.audio.source import Source
from fernbrook.audio.stem_file import StemSource
from fernbrook.core.mix.commands import AddTracks, PutEdits
from fernbrook.core.plan import RATE
from fernbrook.core.track import DropOut, Stem
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.service.house import House
from tests.analysis.test_model import saved
from tests.conftest import Made
from tests.service.conftest import analysed, until

pytestmark = pytest.mark.slow


def heard(house: House, mix_id: str, start: int, end: int) -> np.ndarray:
    return np.concatenate(list(house.listening.preview(mix_id, start, end, None)[1]))


def test_stems_are_made_heard_and_thrown_away(house: House, first: Made) -> None:
    track = house.library.bring_in_path(first.path).track.id
    with pytest.raises(RefusedError, match="no beat grid"):
        house.stems.start(track)
    house.start()
    until(lambda: analysed(house))
    assert house.stems.state(track) == (None, None)
    made = house.mixes.create("Night")
    opened = house.mixes.change(made.id, made.version, AddTracks(track_ids=(track,)))
    drop = DropOut(id="d", start=8.0, end=16.0, stems=(Stem.DRUMS,))
    house.mixes.change(opened.id, opened.version, PutEdits(entry_id="e1", edits=(drop,)))
    plain = heard(house, opened.id, 5 * RATE, 7 * RATE)
    house.stems.start(track)
    with pytest.raises(RefusedError, match="being made already"):
        house.stems.start(track)
    until(lambda: house.stems.state(track)[0] is not None)
    fact, job = house.stems.state(track)
    assert job is None
    assert fact is not None
    assert fact.words.endswith(".")
    without = heard(house, opened.id, 5 * RATE, 7 * RATE)
    assert np.mean(without**2) < 0.7 * np.mean(plain**2)
    for file in house.folders.stems.glob("*.drums.flac"):
        file.unlink()
    with pytest.raises(AudioFileError, match="are gone"):
        heard(house, opened.id, 5 * RATE, 7 * RATE)
    house.stems.remove(track)
    assert np.array_equal(heard(house, opened.id, 5 * RATE, 7 * RATE), plain)
    assert list(house.folders.stems.iterdir()) == []
    with pytest.raises(NotFoundError):
        house.stems.remove("gone")


def test_stems_of_ones_own_are_taken_as_files_and_those_of_another_track_are_not(
    house: House, first: Made, second: Made
) -> None:
    track = house.library.bring_in_path(first.path).track.id
    sound, rate = soundfile.read(first.path, dtype="float32", always_2d=True)
    low = lower(np.repeat(sound, 2 // sound.shape[1], axis=1), 200.0, rate)
    sent = io.BytesIO()
    soundfile.write(sent, low, rate, format="WAV", subtype="FLOAT")
    sent.seek(0)
    fact = house.stems.take_files(track, {Stem.BASS: (sent, "my bass.wav")})
    assert (fact.given, fact.offered) == ((Stem.BASS,), (Stem.BASS, Stem.MUSIC))
    assert "Your own: bass." in fact.words
    stored, _ = soundfile.read(next(house.folders.stems.glob("*.bass.flac")), always_2d=True)
    assert np.allclose(stored[rate : 5 * rate] * 4.0, low[rate : 5 * rate], atol=1e-5)
    with second.path.open("rb") as file, pytest.raises(RefusedError, match="nothing in common"):
        house.stems.take_files(track, {Stem.DRUMS: (file, "other.wav")})
    with pytest.raises(RefusedError, match="Give the drums"):
        house.stems.take_files(track, {})
    with pytest.raises(AudioFileError):
        house.stems.take_files(track, {Stem.VOICE: (io.BytesIO(b"no sound"), "voice.wav")})
    assert list(house.folders.incoming.iterdir()) == []


def test_stems_go_with_their_track(house: House, first: Made) -> None:
    track = house.library.bring_in_path(first.path).track.id
    with first.path.open("rb") as file:
        house.stems.take_files(track, {Stem.DRUMS: (file, first.path.name)})
    assert len(list(house.folders.stems.iterdir())) == 3
    house.library.remove(track)
    assert list(house.folders.stems.iterdir()) == []


def test_a_model_on_the_disk_takes_tracks_apart_once_it_is_set(house: House, first: Made, tmp_path: Path) -> None:
    with pytest.raises(RefusedError, match="no file at"):
        house.settings.use_model(str(tmp_path / "nowhere.onnx"))
    assert house.settings.model() is None
    path = saved(tmp_path)
    house.settings.use_model(str(path))
    known = house.settings.model()
    assert known is not None
    assert known.stems == (Stem.DRUMS, Stem.VOICE)
    track = house.library.bring_in_path(first.path).track.id
    house.start()
    until(lambda: analysed(house))
    house.stems.start(track)
    until(lambda: house.stems.state(track)[0] is not None)
    fact, _ = house.stems.state(track)
    assert fact is not None
    assert fact.offered == (Stem.DRUMS, Stem.VOICE, Stem.MUSIC)
    assert "‘small’" in fact.words
    stem, whole = StemSource(next(house.folders.stems.glob("*.drums.flac")), RATE), Source(first.path, RATE)
    drums, sound = stem.read(0, whole.frames), whole.read(0, whole.frames)
    stem.close()
    whole.close()
    assert np.abs(drums - 0.25 * sound).max() < 1e-5
    path.unlink()
    gone = house.settings.model()
    assert gone is not None
    assert "no file at" in gone.problem
    house.settings.use_model(None)
    assert house.settings.model() is None
