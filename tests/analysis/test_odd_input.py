"""Files that are no music, or come in unusual forms: each gets its word, none hangs or fails."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from scipy.signal import resample_poly

from fernbrook.analysis.analyse import analyse
from fernbrook.core.track import DoubtKind
from fernbrook.demo import tones
from tests.conftest import Made

pytestmark = pytest.mark.slow

RATE = 44_100


def _silence(_rng: np.random.Generator) -> np.ndarray:
    return np.zeros(20 * RATE)


def _noise(rng: np.random.Generator) -> np.ndarray:
    return 0.2 * rng.standard_normal(20 * RATE)


def _tone(_rng: np.random.Generator) -> np.ndarray:
    return 0.3 * np.sin(np.arange(20 * RATE) / 20)


def _chord(_rng: np.random.Generator) -> np.ndarray:
    return 0.3 * tones.pad((57, 60, 64), 30.0, 0.4).mean(axis=1)


def _speech(rng: np.random.Generator) -> np.ndarray:
    """Syllables of all lengths and vowels, with pauses where one gapes."""
    said = []
    for _ in range(90):
        said.append(
            tones.voice(int(rng.integers(45, 52)), float(rng.uniform(0.08, 0.3)), rng.choice(list(tones.VOWELS)))
        )
        said.append(np.zeros(int(RATE * (rng.uniform(0.3, 0.8) if rng.random() < 0.15 else rng.uniform(0.01, 0.09)))))
    return np.concatenate(said)


def _two_seconds(rng: np.random.Generator) -> np.ndarray:
    return 0.2 * rng.standard_normal(2 * RATE)


@pytest.mark.parametrize("sound", [_silence, _noise, _tone, _chord, _speech, _two_seconds])
def test_what_has_no_beat_gets_no_grid_and_is_told_so(sound: object, tmp_path: Path) -> None:
    made = sound(np.random.default_rng(0))  # type: ignore[operator]
    soundfile.write(tmp_path / "x.wav", made, RATE)
    found = analyse(tmp_path / "x.wav")
    assert found.grid is None
    assert found.reading.sections == ()
    assert [d.kind for d in found.reading.doubts] == [DoubtKind.NO_BEAT]
    assert "Tap along, or set the tempo by hand." in found.reading.doubts[0].text
    assert found.duration_s == pytest.approx(len(made) / RATE)


@pytest.mark.parametrize(("rate", "channels"), [(8_000, 1), (44_100, 1), (44_100, 6), (192_000, 2)])
def test_unusual_forms_of_a_track_have_its_grid(rate: int, channels: int, first: Made, tmp_path: Path) -> None:
    mono = first.sound()[: 40 * RATE].mean(axis=1)
    sound = np.repeat(resample_poly(mono, rate // 100, RATE // 100)[:, None], channels, axis=1)
    soundfile.write(tmp_path / "x.wav", 0.9 * sound, rate, subtype="PCM_24")
    grid, true = analyse(tmp_path / "x.wav").grid, first.truth.grid
    assert grid is not None
    assert grid.bpm_after == pytest.approx(true.bpm_after, abs=0.02)
    assert float(grid.time_at(0.0)) == pytest.approx(float(true.time_at(0.0)), abs=0.005)
