from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from fernbrook.audio.files.downmix import to_stereo
from fernbrook.audio.pace.interpolate import interpolate, margin
from fernbrook.audio.sources.source import KEPT, Source
from fernbrook.errors import AudioFileError

RATE = 44_100


def _tone(hz: float, rate: int, seconds: float = 2.0, channels: int = 2) -> np.ndarray:
    t = np.arange(round(rate * seconds)) / rate
    return np.repeat((0.5 * np.sin(2 * np.pi * hz * t))[:, None], channels, axis=1).astype(np.float32)


def _written(path: Path, sound: np.ndarray, rate: int = RATE, **options: str) -> Path:
    soundfile.write(path, sound, rate, **options)
    return path


def test_samples_pass_bit_exact_with_silence_around(tmp_path: Path) -> None:
    sound = np.random.default_rng(0).uniform(-1, 1, (5000, 2)).astype(np.float32)
    path = _written(tmp_path / "a.wav", sound, subtype="FLOAT")
    with Source(path, RATE) as source:
        heard = source.read(-100, 5200)
    assert np.array_equal(heard[100:5100], sound)
    assert not heard[:100].any()
    assert not heard[5100:].any()


def test_reading_on_with_a_look_back_decodes_each_stretch_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    sound = np.zeros((8 * KEPT, 2), dtype=np.float32)
    decoded: list[int] = []
    decode = soundfile.SoundFile.read

    def counted(file: soundfile.SoundFile, frames: int = -1, **options: Any) -> Any:
        decoded.append(frames)
        return decode(file, frames, **options)

    with Source(_written(tmp_path / "a.wav", sound), RATE) as source:
        monkeypatch.setattr(soundfile.SoundFile, "read", counted)
        for start in range(2048, len(sound), 1024):
            source.read(start - 2048, 3072)
    assert sum(decoded) < 1.3 * len(sound)


@pytest.mark.parametrize("name", ["a.wav", "a.flac", "a.ogg", "a.mp3"])
def test_the_same_place_gives_the_same_samples_in_any_order(tmp_path: Path, name: str) -> None:
    noise = 0.3 * np.random.default_rng(1).standard_normal((3 * KEPT, 2)).astype(np.float32)
    if name.endswith("ogg"):
        with soundfile.SoundFile(tmp_path / name, "w", RATE, 2) as file:
            for at in range(0, len(noise), 8192):
                file.write(noise[at : at + 8192])
        path = tmp_path / name
    else:
        path = _written(tmp_path / name, noise)
    with Source(path, RATE) as source:
        whole = source.read(0, source.frames)
    with Source(path, RATE) as source:
        for start in (2 * KEPT + 17, 5, KEPT - 300, KEPT + 9000):
            assert np.array_equal(source.read(start, 2000), whole[start : start + 2000]), start


@pytest.mark.parametrize("rate", [8_000, 22_050, 48_000, 96_000, 192_000])
def test_other_rates_arrive_at_ours_without_a_gap(tmp_path: Path, rate: int) -> None:
    path = _written(tmp_path / "a.wav", _tone(997.0, rate), rate, subtype="FLOAT")
    with Source(path, RATE) as source:
        assert source.frames == pytest.approx(2 * RATE, abs=2)
        heard = source.read(0, 2 * RATE)[:, 0]
        again = source.read(20_000, 1000)[:, 0]
    expected = 0.5 * np.sin(2 * np.pi * 997.0 * np.arange(2 * RATE) / RATE)
    middle = slice(5000, -5000)
    assert np.abs(heard[middle] - expected[middle]).max() < 2e-4
    assert np.array_equal(again, heard[20_000:21_000])


def test_resampling_does_not_fold_high_tones_back(tmp_path: Path) -> None:
    path = _written(tmp_path / "a.wav", _tone(30_000.0, 96_000), 96_000, subtype="FLOAT")
    with Source(path, RATE) as source:
        assert np.abs(source.read(5000, 20_000)).max() < 1e-4


def test_interpolation_at_whole_places_is_the_signal() -> None:
    signal = np.random.default_rng(2).standard_normal((400, 2)).astype(np.float32)
    at = np.arange(margin(), 400 - margin(), dtype=float)
    assert np.allclose(interpolate(signal, at), signal[at.astype(int)], atol=1e-6)


def test_mono_goes_to_both_sides_and_surround_is_folded_in() -> None:
    mono = np.ones((4, 1), dtype=np.float32)
    assert to_stereo(mono).tolist() == [[1.0, 1.0]] * 4
    surround = np.zeros((1, 6), dtype=np.float32)
    surround[0, [2, 4]] = 1.0
    left, right = to_stereo(surround)[0]
    assert left == pytest.approx(2 * 0.7071, abs=1e-3)
    assert right == pytest.approx(0.7071, abs=1e-3)


def test_a_file_that_has_gone_is_named(tmp_path: Path) -> None:
    with pytest.raises(AudioFileError, match=r"gone\.wav"):
        Source(tmp_path / "gone.wav", RATE)
