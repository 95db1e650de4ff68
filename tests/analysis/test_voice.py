from __future__ import annotations

import io

import numpy as np
import pytest

from fernbrook.analysis.features import Features
from fernbrook.analysis.voice.movement import Movement, MovementMeter, moving_spans
from fernbrook.core.track import Grid
from fernbrook.demo import tones
from tests.analysis import heard

RATE = tones.RATE
NOTES = (57, 60, 62, 64, 60)


def moved(sound: np.ndarray, blocks: int = 1) -> Movement:
    meter = MovementMeter(RATE)
    for block in np.array_split(sound.astype(np.float32), blocks):
        meter.add(block)
    return meter.result()


def melody(play: object, length_s: float = 0.8) -> np.ndarray:
    return np.concatenate([play(midi, length_s) for midi in NOTES])  # type: ignore[operator]


def sung() -> np.ndarray:
    return 0.5 * melody(lambda midi, length_s: tones.voice(midi, length_s, "ah"))


def chord(length_s: float) -> np.ndarray:
    return 0.3 * tones.pad((57, 60, 64), length_s, 0.6).mean(axis=1)


def test_a_voice_over_chords_is_found_where_it_sings() -> None:
    song = chord(14.0)
    voice = sung()
    song[5 * RATE : 5 * RATE + len(voice)] += voice
    spans = moving_spans(moved(song))
    assert len(spans) == 1
    assert spans[0] == pytest.approx((5.0, 9.0), abs=0.8)


@pytest.mark.parametrize("what", ["chords", "plucks", "noise", "kicks", "silence"])
def test_what_does_not_sing_is_no_voice(what: str) -> None:
    rng = np.random.default_rng(1)
    t = np.arange(8 * RATE) / RATE
    sound = {
        "chords": lambda: chord(8.0),
        "plucks": lambda: melody(lambda midi, length_s: tones.pluck(midi, length_s, 0.5), 0.5),
        "noise": lambda: 0.2 * rng.standard_normal(8 * RATE),
        "kicks": lambda: 0.8 * np.sin(400.0 * np.exp(-(t % 0.5) * 20.0)) * np.exp(-(t % 0.5) * 8.0),
        "silence": lambda: np.zeros(8 * RATE),
    }[what]()
    assert moving_spans(moved(sound)) == []


def test_movement_does_not_depend_on_the_blocks() -> None:
    voice = sung()
    assert np.allclose(moved(voice).together, moved(voice, 17).together, atol=1e-6)


def test_a_short_gap_does_not_end_a_span_and_a_long_one_does() -> None:
    voice = sung()
    gap_s = 1.0, 6.0
    found = [moving_spans(moved(np.concatenate((voice, np.zeros(round(g * RATE)), voice)))) for g in gap_s]
    assert [len(spans) for spans in found] == [1, 2]


def test_movement_is_kept_with_the_features_and_older_ones_are_read_without() -> None:
    plain = heard.features(Grid.constant(120.0, 0.5), 20.0)
    song = Features(plain.onsets, plain.harmony, moved(sung()))
    again = Features.from_bytes(song.to_bytes())
    assert np.allclose(moving_spans(again.movement), moving_spans(song.movement), atol=0.05)
    assert again.movement.rate == song.movement.rate
    with np.load(io.BytesIO(song.to_bytes())) as arrays:
        older = {name: arrays[name] for name in arrays if name not in ("together", "movement_rate")}
    buffer = io.BytesIO()
    np.savez(buffer, **older)
    assert moving_spans(Features.from_bytes(buffer.getvalue()).movement) == []
