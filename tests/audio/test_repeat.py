from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.audio.sources.repeat import Repeat, blended
from fernbrook.audio.sources.source import Source

RATE = 44_100


def _heard(path: Path, sound: np.ndarray, back_to: int, end: int, start: int, times: int) -> np.ndarray:
    soundfile.write(path, sound, RATE, subtype="FLOAT")
    with Source(path, RATE) as source:
        return np.concatenate([block for _, block in Repeat(source, back_to, end).blocks(start, times)])


def test_what_repeats_itself_goes_round_to_the_sample(tmp_path: Path) -> None:
    beat = np.random.default_rng(1).uniform(-0.5, 0.5, (22_050, 2)).astype(np.float32)
    heard = _heard(tmp_path / "a.wav", np.tile(beat, (4, 1)), 22_050, 44_100, 22_050, 3)
    assert np.array_equal(heard, np.tile(beat, (3, 1)))


def test_every_round_is_the_same_and_has_no_seam(tmp_path: Path) -> None:
    t = np.arange(4 * RATE) / RATE
    tone = np.repeat((0.5 * np.sin(2 * np.pi * 110.3 * t))[:, None], 2, axis=1).astype(np.float32)
    heard = _heard(tmp_path / "a.wav", tone, 10_000, 90_001, 10_000, 3)
    length = 80_001
    assert np.array_equal(heard[:length], heard[length : 2 * length])
    steps = np.abs(np.diff(heard[:, 0]))
    assert steps.max() < 1.5 * np.abs(np.diff(tone[:, 0])).max()
    # But for the last eight milliseconds it is the track itself.
    assert np.array_equal(heard[: length - 400], tone[10_000 : 10_000 + length - 400])


def test_a_round_may_begin_within(tmp_path: Path) -> None:
    sound = np.random.default_rng(2).uniform(-0.5, 0.5, (60_000, 2)).astype(np.float32)
    whole = _heard(tmp_path / "a.wav", sound, 1000, 51_000, 1000, 2)
    within = _heard(tmp_path / "b.wav", sound, 1000, 51_000, 21_000, 1)
    assert np.array_equal(within, whole[20_000:70_000])


@given(alike=st.floats(0.0, 1.0), seed=st.integers(0, 50))
def test_a_blend_keeps_its_level_however_alike_both_are(alike: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    one, other = rng.normal(0, 0.2, (2, 20_000, 2)).astype(np.float32)
    other = (alike * one + np.sqrt(1 - alike**2) * other).astype(np.float32)
    mixed = blended(one, other)
    power = np.mean(mixed[4000:16_000].astype(np.float64) ** 2)
    assert power == pytest.approx(0.04, rel=0.06)
