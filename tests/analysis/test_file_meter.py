from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from scipy.signal import butter, sosfiltfilt

from fernbrook.analysis.analyse import analyse
from fernbrook.analysis.file_meter import FileMeter
from fernbrook.core.library import FileMeasures

RATE = 44_100


def _noise(seconds: float = 12.0) -> np.ndarray:
    """Noise that falls by 3 dB an octave, as music does."""
    rng = np.random.default_rng(3)
    n = round(seconds * RATE)
    spectrum = np.fft.rfft(rng.standard_normal((n, 2)), axis=0)
    spectrum /= np.sqrt(np.maximum(np.fft.rfftfreq(n, 1 / RATE), 20.0))[:, None]
    sound = np.fft.irfft(spectrum, n, axis=0)
    return np.asarray(0.3 * sound / np.abs(sound).max(), dtype=np.float32)


def _measured(folder: Path, sound: np.ndarray) -> FileMeasures:
    soundfile.write(folder / "a.wav", sound, RATE, subtype="FLOAT")
    return analyse(folder / "a.wav").file


@pytest.mark.parametrize("cut_hz", [16_000.0, 19_000.0])
def test_a_spectrum_that_was_cut_is_told_with_its_end(tmp_path: Path, cut_hz: float) -> None:
    cut = sosfiltfilt(butter(12, cut_hz, fs=RATE, output="sos"), _noise(), axis=0)
    found = _measured(tmp_path, cut).top_hz
    assert found == pytest.approx(cut_hz, abs=900.0)


def test_music_that_reaches_up_or_fades_by_itself_is_not(tmp_path: Path) -> None:
    assert _measured(tmp_path, _noise()).top_hz is None
    dull = sosfiltfilt(butter(1, 3000.0, fs=RATE, output="sos"), _noise(), axis=0)
    assert _measured(tmp_path, dull).top_hz is None


def test_clipping_offset_and_equal_channels() -> None:
    sound = _noise(2.0)
    sound[1000:1004, 0] = 1.0
    sound[5000:5002, 1] = -1.0
    sound[8190:8195, 1] = -1.0
    whole, pieces = FileMeter(), FileMeter()
    whole.add(sound)
    for start in range(0, len(sound), 4096):
        pieces.add(sound[start : start + 4096])
    spectrum = np.ones(4097)
    assert whole.result(spectrum, RATE / 2).clipped == pieces.result(spectrum, RATE / 2).clipped == 2
    assert not whole.result(spectrum, RATE / 2).alike
    mono = FileMeter()
    mono.add(np.repeat(sound[:, :1] + np.float32(0.02), 2, axis=1))
    heard = mono.result(spectrum, RATE / 2)
    assert heard.alike
    assert heard.offset == pytest.approx(0.02 + float(sound[:, 0].mean()), abs=1e-4)
