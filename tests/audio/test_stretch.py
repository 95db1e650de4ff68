from __future__ import annotations

import numpy as np
import pytest

from fernbrook.audio.stretch import FRAME, HOP, Stretcher
from tests.listen import level_db

RATE = 44_100


def _stretcher(sound: np.ndarray, speed: float, resets: list[int] | None = None) -> Stretcher:
    def read(start: int, frames: int) -> np.ndarray:
        out = np.zeros((frames, 2), dtype=np.float32)
        begin, end = max(start, 0), min(start + frames, len(sound))
        if end > begin:
            out[begin - start : end - start] = sound[begin:end]
        return out

    return Stretcher(read, lambda t: t * speed, np.array(resets or [-8]), RATE)


def _tone(hz: float, seconds: float = 6.0) -> np.ndarray:
    t = np.arange(round(RATE * seconds)) / RATE
    return np.stack([0.4 * np.sin(2 * np.pi * hz * t), 0.2 * np.sin(2 * np.pi * hz * t + 0.7)], axis=1).astype(
        np.float32
    )


def test_speed_one_gives_back_the_source() -> None:
    noise = np.random.default_rng(0).uniform(-0.5, 0.5, (40 * HOP, 2)).astype(np.float32)
    heard = _stretcher(noise, 1.0).render(0, 32 * HOP)
    assert np.abs(heard - noise[: 32 * HOP]).max() < 2e-6


@pytest.mark.parametrize("speed", [0.9, 0.97, 1.04, 1.12])
def test_pitch_and_level_stay_at_any_speed(speed: float) -> None:
    heard = _stretcher(_tone(330.0), speed).render(0, 192 * HOP)[20 * HOP : 160 * HOP]
    spectrum = np.abs(np.fft.rfft(heard[:, 0] * np.hanning(len(heard))))
    assert np.argmax(spectrum) * RATE / len(heard) == pytest.approx(330.0, abs=0.5)
    assert level_db(heard[:, 0]) == pytest.approx(level_db(_tone(330.0)[:, 0]), abs=0.5)


def test_stereo_image_stands() -> None:
    heard = _stretcher(_tone(330.0), 1.06).render(0, 192 * HOP)[20 * HOP : 160 * HOP]
    assert level_db(heard[:, 0]) - level_db(heard[:, 1]) == pytest.approx(6.02, abs=0.1)


def test_rendering_may_begin_anywhere() -> None:
    noise = np.random.default_rng(1).uniform(-0.5, 0.5, (8 * RATE, 2)).astype(np.float32)
    resets = [-8, 40, 90, 140]
    whole = _stretcher(noise, 1.05, resets).render(0, 192 * HOP)
    for start in (3, 41, 97, 150):
        part = _stretcher(noise, 1.05, resets).render(start * HOP, (start + 16) * HOP)
        assert np.array_equal(part, whole[start * HOP : (start + 16) * HOP]), start


def test_silence_stays_silent_and_sound_returns_after_it() -> None:
    sound = _tone(440.0)
    sound[RATE : 2 * RATE] = 0.0
    heard = _stretcher(sound, 1.03).render(0, 192 * HOP)
    quiet = heard[round(1.2 * RATE) : round(1.75 * RATE)]
    assert not np.abs(quiet).max() > 1e-6
    assert level_db(heard[3 * RATE : 4 * RATE, 0]) == pytest.approx(level_db(sound[3 * RATE :, 0]), abs=1.0)


def test_only_whole_hops_are_rendered() -> None:
    with pytest.raises(ValueError, match="whole hops"):
        _stretcher(_tone(100.0), 1.0).render(0, FRAME + 1)
