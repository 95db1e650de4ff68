"""The key, listened to: what a bass and the beginnings of phrases say where the notes alone fit two keys."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.analysis.features import Features
from fernbrook.analysis.tone.harmony import Harmony, HarmonyMeter
from fernbrook.analysis.tone.key import find_key
from fernbrook.core.track import Grid
from tests.analysis.heard import features

RATE = 44_100
BEAT_S = 0.5
GRID = Grid.constant(60.0 / BEAT_S, 0.0)
AM, F, C, G, D, EM = (9, 12, 16), (5, 9, 12), (12, 16, 19), (7, 11, 14), (2, 6, 9), (4, 7, 11)


def _tone(note: float, seconds: float, partials: int = 6) -> np.ndarray:
    t = np.arange(round(seconds * RATE)) / RATE
    hz = 440.0 * 2.0 ** ((note - 69.0) / 12.0)
    sound = sum(np.sin(2 * np.pi * hz * k * t) / k for k in range(1, partials + 1))
    return np.asarray(sound * np.minimum(1.0, np.minimum(t, t[::-1]) / 0.01), dtype=np.float32)


def _played(chords: tuple[tuple[int, ...], ...], bass: tuple[int | None, ...], bars: int = 32) -> Harmony:
    """A bar of each chord, around and around, over a bass note each (a pitch class, from E1 on) or none."""
    meter = HarmonyMeter(RATE)
    for bar in range(bars):
        chord, low = chords[bar % len(chords)], bass[bar % len(bass)]
        sound = sum(_tone(60 + note, 4 * BEAT_S) for note in chord) * np.float32(0.05)
        if low is not None:
            sound = sound + _tone(28 + (low - 4) % 12, 4 * BEAT_S) * np.float32(0.15)
        meter.add(np.asarray(sound, dtype=np.float32))
    return meter.result()


def _key(harmony: Harmony) -> str:
    found = find_key(harmony, GRID)
    assert found is not None
    return found.key.name


@pytest.mark.parametrize("note", [28, 33, 38, 43, 47])
def test_a_bass_is_told_from_the_chord_above_it(note: int) -> None:
    meter = HarmonyMeter(RATE)
    chord = sum(_tone(60 + n, 4.0) for n in C) * np.float32(0.05)
    meter.add(np.asarray(_tone(note, 4.0) * np.float32(0.15) + chord, dtype=np.float32))
    bass = meter.result().bass
    assert bass is not None
    within = bass[4:-4]
    assert np.all(within.argmax(axis=1) == note % 12)
    assert np.median(within[:, note % 12] / within.sum(axis=1)) > 0.8


def test_the_bass_tells_a_minor_key_from_its_relative_major() -> None:
    chords = (F, G, AM, C)
    assert _key(_played(chords, (9,))) == "Am"
    assert _key(_played(chords, (0,))) == "C"


def test_the_chord_that_begins_phrases_is_home() -> None:
    assert _key(_played((AM, F, C, G), (9, 5, 0, 7))) == "Am"
    assert _key(_played((C, G, AM, F), (0, 7, 9, 5))) == "C"


def test_a_major_sixth_does_not_turn_a_minor_track_into_the_key_of_its_fourth() -> None:
    assert _key(_played((AM, D, AM, D), (9, 2, 9, 2))) == "Am"


def test_features_without_a_bass_still_have_a_key() -> None:
    heard = features(GRID)
    assert heard.harmony.bass is None
    assert _key(heard.harmony) == "Am"
    kept = Features(heard.onsets, _played((AM, F, C, G), (9,), 8), heard.movement)
    again = Features.from_bytes(kept.to_bytes()).harmony
    assert again.bass is not None
    assert kept.harmony.bass is not None
    assert np.allclose(again.bass, kept.harmony.bass, atol=1e-3)
