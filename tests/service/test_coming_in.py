"""What comes in: whatever can be decoded, what is broken in part, names and tags as others write them."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from mutagen.wave import WAVE

from fernbrook.errors import AudioFileError
from fernbrook.formats.wav_info import info_chunk, read_info
from fernbrook.service.files.audio_files import find_audio
from fernbrook.service.files.tags import read_tags
from fernbrook.service.services import Services

pytestmark = pytest.mark.usefixtures("no_analyses")
RATE = 44_100
KINDS = {
    "wv": ("wv", "wavpack"), "caf": ("caf", "alac"), "wma": ("asf", "wmav2"), "mov": ("mov", "aac"),
    "mka": ("matroska", "flac"), "ac3": ("ac3", "ac3"), "oga": ("ogg", "flac"), "m4a": ("ipod", "alac"),
    "tta": ("tta", "tta"),
}  # fmt: skip


def tone(seconds: float = 4.0) -> np.ndarray:
    t = np.arange(round(seconds * RATE)) / RATE
    return (0.3 * np.stack([np.sin(2 * np.pi * 440 * t), np.sin(2 * np.pi * 660 * t)])).astype(np.float32)


def encoded(path: Path, container: str, codec: str, sound: np.ndarray) -> Path:
    with av.open(str(path), "w", format=container) as out:
        stream = out.add_stream(codec, rate=RATE, layout="stereo")
        stream.bit_rate = 192_000
        taken = {"wavpack": "fltp", "alac": "s16p", "wmav2": "fltp", "aac": "fltp", "ac3": "fltp"}.get(codec, "s16")
        resampler = av.AudioResampler(format=taken, layout="stereo", rate=RATE)
        for begin in range(0, sound.shape[1], 4096):
            frame = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(sound[:, begin : begin + 4096]), format="fltp", layout="stereo"
            )
            frame.sample_rate, frame.pts = RATE, begin
            for piece in resampler.resample(frame):
                out.mux(stream.encode(piece))
        out.mux(stream.encode(None))
    return path


@pytest.mark.parametrize("kind", KINDS)
def test_what_can_be_decoded_is_taken_by_drops_and_by_folders(services: Services, tmp_path: Path, kind: str) -> None:
    path = encoded(tmp_path / f"Ines Marrow - Wet Glass.{kind}", *KINDS[kind], tone())
    assert find_audio([tmp_path]) == [path]
    with path.open("rb") as stream:
        track = services.library.bring_in(stream, path.name).track
    assert (track.artist, track.title) == ("Ines Marrow", "Wet Glass")
    assert track.duration_s == pytest.approx(4.0, abs=0.1)
    sound, rate = soundfile.read(services.library.file_of(track.id), always_2d=True)
    spectrum = np.abs(np.fft.rfft(sound[RATE : 2 * RATE, 0]))
    assert np.argmax(spectrum) * rate / RATE == pytest.approx(440, abs=2)


def test_a_name_that_lies_about_its_kind_does_not_matter(services: Services, tmp_path: Path) -> None:
    path = encoded(tmp_path / "x.mp3", "wv", "wavpack", tone())
    assert services.library.bring_in_path(path).track.duration_s == pytest.approx(4.0, abs=0.1)


@pytest.mark.parametrize("kind", ["flac", "wav", "ogg", "wv", "mka", "caf"])
def test_a_file_that_breaks_off_is_said_to_be_damaged_and_where(services: Services, tmp_path: Path, kind: str) -> None:
    path = tmp_path / f"take.{kind}"
    noise = np.random.default_rng(3).uniform(-0.4, 0.4, (2, 20 * RATE)).astype(np.float32)
    if kind in KINDS:
        encoded(path, *KINDS[kind], noise)
    else:
        soundfile.write(path, noise.T, RATE)
    content = path.read_bytes()
    at = len(content) // 2
    path.write_bytes(content[:at] + bytes(len(content) - at))
    if kind in ("wav", "ogg"):  # nothing tells that there was more
        path.write_bytes(content[:at])
        assert services.library.bring_in_path(path).track.duration_s == pytest.approx(10.0, abs=0.5)
        return
    with pytest.raises(AudioFileError, match=r"damaged|cannot be read") as told:
        services.library.bring_in_path(path)
    assert "download it again" in str(told.value) or "what its name says" in str(told.value)
    assert [p for p in services.folders.audio.rglob("*") if p.is_file()] == []


@pytest.mark.parametrize(
    "content",
    [
        b"#EXTM3U\nfile:///etc/passwd\n",
        b"#EXTM3U\n#EXT-X-VERSION:3\n#EXTINF:10,\nhttp://127.0.0.1:9/x.ts\n#EXT-X-ENDLIST\n",
        b"ffconcat version 1.0\nfile '/etc/hostname'\n",
        b"milk, bread, ferns",
    ],
)
def test_what_leads_to_other_files_is_no_sound(services: Services, tmp_path: Path, content: bytes) -> None:
    for kind in ("m4a", "mp3", "wv"):
        path = tmp_path / f"x.{kind}"
        path.write_bytes(content)
        with pytest.raises(AudioFileError, match="no audio file"):
            services.library.bring_in_path(path)


def test_a_pipe_is_no_file_and_keeps_nobody_waiting(services: Services, tmp_path: Path) -> None:
    import os

    os.mkfifo(tmp_path / "x.wav")
    for in_place in (False, True):
        with pytest.raises(AudioFileError, match="it is no file"):
            services.library.bring_in_path(tmp_path / "x.wav", in_place)


def test_the_info_list_of_a_wav_file_is_read_where_it_has_no_other_tags(tmp_path: Path) -> None:
    path = tmp_path / "03 Somebody - Else.wav"
    soundfile.write(path, tone().T, RATE)
    plain = path.read_bytes()
    said = {"title": "Wet Glass", "artist": "Ines Grün", "album": "Late", "comment": "odd", "year": "2024"}
    added = plain + info_chunk(said)
    path.write_bytes(added[:4] + (len(added) - 8).to_bytes(4, "little") + added[8:])
    assert read_info(path) == said
    tags = read_tags(path, path.name)
    assert (tags.title, tags.artist, tags.album, tags.year) == ("Wet Glass", "Ines Grün", "Late", 2024)
    assert soundfile.info(path).frames == 4 * RATE
    assert WAVE(path).info.length == pytest.approx(4.0)
    assert read_info(tmp_path / "03 Somebody - Else.wav") != {}
    assert info_chunk({}) == b""
