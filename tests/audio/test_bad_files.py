"""What is wrong with a file is said in plain words, with its name."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.audio.files.file import probe
from fernbrook.audio.files.transcode import transcode
from fernbrook.errors import AudioFileError

SECOND = np.zeros((44_100, 2), dtype=np.float32)


def _text(path: Path) -> None:
    path.write_text("This is a shopping list, not a song.\n" * 200)


def _cut_header(path: Path) -> None:
    soundfile.write(path, SECOND, 44_100, format="WAV")
    path.write_bytes(path.read_bytes()[:20])


def _short(path: Path) -> None:
    soundfile.write(path, SECOND[:2000], 44_100, format="WAV")


def _slow(path: Path) -> None:
    soundfile.write(path, SECOND, 4000, format="WAV")


def _wide(path: Path) -> None:
    soundfile.write(path, np.zeros((44_100, 10), dtype=np.float32), 44_100, format="WAV")


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (_text, "not what its name says"),
        (_cut_header, "damaged"),
        (lambda path: path.touch(), "empty"),
        (_short, "at least 1 s"),
        (_slow, "4000 Hz"),
        (_wide, "10 channels"),
        (lambda path: path.unlink(missing_ok=True), "not there"),
    ],
)
def test_each_fault_has_its_words(tmp_path: Path, make: Callable[[Path], None], words: str) -> None:
    path = tmp_path / "bad one.mp3"
    make(path)
    with pytest.raises(AudioFileError, match=words) as caught:
        probe(path)
    assert "bad one.mp3" in str(caught.value)


@pytest.mark.parametrize("channels", [1, 2, 6, 8])
@pytest.mark.parametrize("rate", [8_000, 44_100, 192_000])
def test_unusual_but_sound_files_are_taken(tmp_path: Path, channels: int, rate: int) -> None:
    path = tmp_path / "odd.wav"
    soundfile.write(path, np.zeros((2 * rate, channels), dtype=np.float32), rate)
    info = probe(path)
    assert (info.channels, info.rate, info.duration_s) == (channels, rate, 2.0)


def test_what_no_decoder_knows_is_refused_and_leaves_nothing(tmp_path: Path) -> None:
    source, target = tmp_path / "x.m4a", tmp_path / "x.flac"
    _text(source)
    with pytest.raises(AudioFileError, match=r"x\.m4a"):
        transcode(source, target)
    assert not target.exists()


def test_m4a_is_decoded_to_the_same_sound(tmp_path: Path) -> None:
    import av

    t = np.arange(88_200) / 44_100
    tone = np.repeat((0.5 * np.sin(2 * np.pi * 440 * t))[None, :], 2, axis=0).astype(np.float32)
    source, target = tmp_path / "x.m4a", tmp_path / "x.flac"
    with av.open(str(source), "w", format="ipod") as out:
        stream = out.add_stream("aac", rate=44_100, layout="stereo")
        for at in range(0, 88_200 - 1023, 1024):
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(tone[:, at : at + 1024]), "fltp", "stereo")
            frame.sample_rate = 44_100
            for packet in stream.encode(frame):
                out.mux(packet)
        for packet in stream.encode(None):
            out.mux(packet)
    transcode(source, target)
    heard = soundfile.read(target)[0][:, 0]
    spectrum = np.abs(np.fft.rfft(heard[20_000:60_000] * np.hanning(40_000)))
    assert np.argmax(spectrum) * 44_100 / 40_000 == pytest.approx(440, abs=2)
    assert len(heard) == pytest.approx(88_200, abs=3000)
