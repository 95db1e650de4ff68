"""Stems as a job: made once, known to the mix, heard, thrown away."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.analysis.separation.bands import lower
from fernbrook.audio.sources.source import Source
from fernbrook.audio.sources.stem_file import StemSource
from fernbrook.core.mix.commands import AddTracks, PutEdits
from fernbrook.core.plan import RATE
from fernbrook.core.track import DropOut, Stem
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.service.services import Services
from tests.analysis.test_model import saved
from tests.conftest import Made
from tests.service.conftest import analysed, until

pytestmark = pytest.mark.slow


def heard(services: Services, mix_id: str, start: int, end: int) -> np.ndarray:
    return np.concatenate(list(services.listening.preview(mix_id, start, end, None)[1]))


def test_stems_are_made_heard_and_thrown_away(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track.id
    with pytest.raises(RefusedError, match="no beat grid"):
        services.stems.start(track)
    services.start()
    until(lambda: analysed(services))
    assert services.stems.state(track) == (None, None)
    made = services.mixes.create("Night")
    opened = services.mixes.change(made.id, made.version, AddTracks(track_ids=(track,)))
    drop = DropOut(id="d", start=8.0, end=16.0, stems=(Stem.DRUMS,))
    services.mixes.change(opened.id, opened.version, PutEdits(entry_id="e1", edits=(drop,)))
    plain = heard(services, opened.id, 5 * RATE, 7 * RATE)
    services.stems.start(track)
    with pytest.raises(RefusedError, match="being made already"):
        services.stems.start(track)
    until(lambda: services.stems.state(track)[0] is not None)
    fact, job = services.stems.state(track)
    assert job is None
    assert fact is not None
    assert fact.words.endswith(".")
    without = heard(services, opened.id, 5 * RATE, 7 * RATE)
    assert np.mean(without**2) < 0.7 * np.mean(plain**2)
    for file in services.folders.stems.glob("*.drums.flac"):
        file.unlink()
    with pytest.raises(AudioFileError, match="are gone"):
        heard(services, opened.id, 5 * RATE, 7 * RATE)
    services.stems.remove(track)
    assert np.array_equal(heard(services, opened.id, 5 * RATE, 7 * RATE), plain)
    assert list(services.folders.stems.iterdir()) == []
    with pytest.raises(NotFoundError):
        services.stems.remove("gone")


@pytest.mark.vital
def test_stems_of_ones_own_are_taken_as_files_and_those_of_another_track_are_not(
    services: Services, first: Made, second: Made
) -> None:
    track = services.library.bring_in_path(first.path).track.id
    sound, rate = soundfile.read(first.path, dtype="float32", always_2d=True)
    low = lower(np.repeat(sound, 2 // sound.shape[1], axis=1), 200.0, rate)
    sent = io.BytesIO()
    soundfile.write(sent, low, rate, format="WAV", subtype="FLOAT")
    sent.seek(0)
    fact = services.stems.take_files(track, {Stem.BASS: (sent, "my bass.wav")})
    assert (fact.given, fact.offered) == ((Stem.BASS,), (Stem.BASS, Stem.MUSIC))
    assert "Your own: bass." in fact.words
    stored, _ = soundfile.read(next(services.folders.stems.glob("*.bass.flac")), always_2d=True)
    assert np.allclose(stored[rate : 5 * rate] * 4.0, low[rate : 5 * rate], atol=1e-5)
    with second.path.open("rb") as file, pytest.raises(RefusedError, match="nothing in common"):
        services.stems.take_files(track, {Stem.DRUMS: (file, "other.wav")})
    with pytest.raises(RefusedError, match="Give the drums"):
        services.stems.take_files(track, {})
    with pytest.raises(AudioFileError):
        services.stems.take_files(track, {Stem.VOICE: (io.BytesIO(b"no sound"), "voice.wav")})
    assert list(services.folders.incoming.iterdir()) == []


def test_stems_go_with_their_track(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track.id
    with first.path.open("rb") as file:
        services.stems.take_files(track, {Stem.DRUMS: (file, first.path.name)})
    assert len(list(services.folders.stems.iterdir())) == 3
    services.library.remove(track)
    assert list(services.folders.stems.iterdir()) == []


def test_a_model_on_the_disk_takes_tracks_apart_once_it_is_set(services: Services, first: Made, tmp_path: Path) -> None:
    with pytest.raises(RefusedError, match="no file at"):
        services.settings.use_model(str(tmp_path / "nowhere.onnx"))
    assert services.settings.model() is None
    path = saved(tmp_path)
    services.settings.use_model(str(path))
    known = services.settings.model()
    assert known is not None
    assert known.stems == (Stem.DRUMS, Stem.VOICE)
    track = services.library.bring_in_path(first.path).track.id
    services.start()
    until(lambda: analysed(services))
    services.stems.start(track)
    until(lambda: services.stems.state(track)[0] is not None)
    fact, _ = services.stems.state(track)
    assert fact is not None
    assert fact.offered == (Stem.DRUMS, Stem.VOICE, Stem.MUSIC)
    assert "‘small’" in fact.words
    stem, whole = StemSource(next(services.folders.stems.glob("*.drums.flac")), RATE), Source(first.path, RATE)
    drums, sound = stem.read(0, whole.frames), whole.read(0, whole.frames)
    stem.close()
    whole.close()
    assert np.abs(drums - 0.25 * sound).max() < 1e-5
    path.unlink()
    gone = services.settings.model()
    assert gone is not None
    assert "no file at" in gone.problem
    services.settings.use_model(None)
    assert services.settings.model() is None
