from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pyloudnorm
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from fernbrook.audio.files import encoder
from fernbrook.audio.files.output import OutputFormat
from fernbrook.audio.files.writer import write_audio
from fernbrook.audio.measures.loudness import LoudnessMeter


def _material(rate: int) -> np.ndarray:
    rng = np.random.default_rng(rate)
    t = np.arange(rate * 12) / rate
    swell = 0.05 + 0.3 * (np.sin(2 * np.pi * 0.1 * t) ** 2)
    return np.stack([swell * rng.standard_normal(len(t)), 0.2 * np.sin(2 * np.pi * 110 * t)], axis=1)


@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_loudness_agrees_with_the_reference(rate: int) -> None:
    sound = _material(rate)
    meter = LoudnessMeter(rate)
    meter.add(sound)
    reference = pyloudnorm.Meter(rate).integrated_loudness(sound)
    assert meter.result().integrated_lufs == pytest.approx(reference, abs=0.1)


@pytest.mark.parametrize("drop_db", [6.0, 9.0, 13.0, 16.0, 25.0, 60.0])
def test_quiet_stretches_are_gated_as_the_reference_gates_them(drop_db: float) -> None:
    """Two thirds of it quieter by so much: the relative gate lies 10 LU below, and what is under it does not count."""
    sound = _material(44_100)
    quiet = 10 ** (-drop_db / 20)
    faded = np.concatenate((sound, sound * quiet, sound * quiet))
    meter = LoudnessMeter(44_100)
    meter.add(faded)
    reference = pyloudnorm.Meter(44_100).integrated_loudness(faded)
    assert meter.result().integrated_lufs == pytest.approx(reference, abs=0.1)


@pytest.mark.slow
@settings(max_examples=15, deadline=None)
@given(st.lists(st.integers(1, 200_000), max_size=6))
def test_loudness_does_not_depend_on_the_blocks(cuts: list[int]) -> None:
    sound = _material(44_100)
    whole, pieces = LoudnessMeter(44_100), LoudnessMeter(44_100)
    whole.add(sound)
    for piece in np.split(sound, sorted(min(c, len(sound)) for c in cuts)):
        pieces.add(piece)
    assert pieces.result().integrated_lufs == pytest.approx(whole.result().integrated_lufs, abs=1e-6)
    assert pieces.result().true_peak_dbtp == pytest.approx(whole.result().true_peak_dbtp, abs=0.01)


def test_silence_has_no_loudness() -> None:
    meter = LoudnessMeter(44_100)
    meter.add(np.zeros((44_100, 2)))
    assert meter.result().integrated_lufs is None
    assert meter.result().true_peak_dbtp is None


def _blocks(sound: np.ndarray) -> Iterator[np.ndarray]:
    yield from np.array_split(sound, 7)


@pytest.mark.parametrize(
    ("output", "step"),
    [
        (OutputFormat.WAV_32_FLOAT, 0.0),
        (OutputFormat.WAV_24, 2.0**-23),
        (OutputFormat.FLAC_24, 2.0**-23),
        (OutputFormat.WAV_16, 2.0**-14),
        (OutputFormat.FLAC_16, 2.0**-14),
    ],
)
def test_each_format_holds_what_was_written(tmp_path: Path, output: OutputFormat, step: float) -> None:
    sound = np.random.default_rng(0).uniform(-0.9, 0.9, (30_000, 2)).astype(np.float32)
    path = tmp_path / f"x{output.suffix}"
    assert write_audio(path, _blocks(sound), len(sound), 44_100, output) == len(sound)
    info = soundfile.info(path)
    assert (info.subtype, info.format, info.frames) == (output.spec.subtype, output.spec.container, len(sound))
    assert np.abs(soundfile.read(path, dtype="float32")[0] - sound).max() <= step


def test_dither_keeps_what_lies_below_one_step(tmp_path: Path) -> None:
    t = np.arange(20 * 44_100) / 44_100
    faint = np.repeat((0.6 * 2.0**-15 * np.sin(2 * np.pi * 1000 * t))[:, None], 2, axis=1).astype(np.float32)
    path = tmp_path / "x.wav"
    write_audio(path, _blocks(faint), len(faint), 44_100, OutputFormat.WAV_16)
    heard = soundfile.read(path)[0][:, 0]
    reading = 2 * np.abs(np.mean(heard * np.exp(-2j * np.pi * 1000 * t)))
    assert reading == pytest.approx(0.6 * 2.0**-15, rel=0.1)


def test_dither_hisses_alike_wherever_the_level_lies_between_two_steps(tmp_path: Path) -> None:
    """Triangular noise of two steps: the error's power is a quarter of a squared step, whatever the sound."""
    path = tmp_path / "x.wav"
    for between in (0.0, 0.25, 0.5):
        level = np.full((100_000, 2), (1000 + between) * 2.0**-15, dtype=np.float32)
        write_audio(path, _blocks(level), len(level), 44_100, OutputFormat.WAV_16)
        error = (soundfile.read(path)[0] - level) * 2.0**15
        assert np.mean(error) == pytest.approx(0.0, abs=0.01)
        assert np.mean(error**2) == pytest.approx(0.25, rel=0.03)


def test_a_write_that_breaks_off_leaves_what_was_there(tmp_path: Path) -> None:
    path = tmp_path / "x.wav"
    path.write_bytes(b"as before")

    def broken() -> Iterator[np.ndarray]:
        yield np.zeros((100, 2), dtype=np.float32)
        raise OSError("disk full")

    with pytest.raises(OSError, match="disk full"):
        write_audio(path, broken(), 1000, 44_100, OutputFormat.WAV_24)
    assert path.read_bytes() == b"as before"
    assert list(tmp_path.iterdir()) == [path]


def test_a_file_too_large_for_wav_becomes_rf64(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(encoder, "WAV_LIMIT", 1000)
    sound = np.zeros((1000, 2), dtype=np.float32)
    write_audio(tmp_path / "x.wav", _blocks(sound), 1000, 44_100, OutputFormat.WAV_24)
    assert soundfile.info(tmp_path / "x.wav").format == "RF64"
