"""The trained listener hears beats where drums have them, whatever blocks the sound comes in."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.analysis.beat.grid_search import find_grid
from fernbrook.analysis.beat.listener import FRAMES_PER_S, RATE, Heard, ListenerMeter
from fernbrook.analysis.beat.metre import hypotheses
from fernbrook.analysis.beat.network import network
from fernbrook.analysis.features import Features
from fernbrook.analysis.mend import measured
from fernbrook.core.track import Grid
from fernbrook.demo import drums
from tests.analysis.heard import features

BEAT_S = 0.5


def _played(bars: int) -> np.ndarray:
    """Drums of rock at 120 BPM: bass drums on one and three, snares on two and four, hats on all eighths."""
    sound = np.zeros(round((bars * 4 + 1) * BEAT_S * RATE))
    for beat in np.arange(0, bars * 4, 0.5):
        hits = [drums.hat(False) * 0.4]
        if beat % 1 == 0:
            hits.append(drums.kick(0.5) if beat % 2 == 0 else drums.snare(0.5))
        for hit in hits:
            mono = np.asarray(hit if hit.ndim == 1 else hit.mean(axis=1))
            at = round(beat * BEAT_S * RATE)
            end = min(len(sound), at + len(mono))
            sound[at:end] += mono[: end - at]
    return np.asarray(sound / np.abs(sound).max() * 0.8, dtype=np.float32)


def _heard(sound: np.ndarray, block: int) -> Heard:
    meter = ListenerMeter()
    for start in range(0, len(sound), block):
        meter.add(sound[start : start + block])
    return meter.result()


def test_beats_are_heard_on_the_drums_and_not_between_them() -> None:
    heard = _heard(_played(16), RATE * 10)
    beats = np.arange(16, 60) * BEAT_S
    on, ones = heard.near(beats)
    between, _ = heard.near(beats + BEAT_S / 2)
    assert np.median(on) > 0.6
    assert np.median(between) < 0.2
    by_place = [float(np.median(ones[place::4])) for place in range(4)]
    assert max(by_place[0], by_place[2]) > 2.0 * max(by_place[1], by_place[3])


@pytest.mark.parametrize("block", [700, 4_411, 100_000])
def test_it_is_the_same_in_whatever_blocks_the_sound_comes(block: int) -> None:
    sound = _played(6)
    whole, parts = _heard(sound, len(sound)), _heard(sound, block)
    assert len(parts.beat) == len(whole.beat) == pytest.approx(len(sound) / RATE * FRAMES_PER_S, abs=2)
    assert np.abs(parts.beat - whole.beat).max() < 1e-3
    assert np.abs(parts.first - whole.first).max() < 1e-3


def test_silence_and_nothing_have_no_beat() -> None:
    assert len(ListenerMeter().result().beat) == 0
    assert _heard(np.zeros(RATE * 8, np.float32), RATE).any_beat[100:].max() < 0.2


def test_what_it_heard_is_kept_and_what_was_kept_before_it_still_gives_a_grid() -> None:
    grid = Grid.constant(124.0, 0.2)
    plain = features(grid, 90.0)
    heard = Heard(np.linspace(0, 1, 4500, dtype=np.float32) * 0.5, np.zeros(4500, np.float32))
    kept = Features.from_bytes(Features(plain.onsets, plain.harmony, plain.movement, heard).to_bytes())
    assert kept.heard is not None
    assert np.abs(kept.heard.beat - heard.beat).max() <= 0.5 / 255.0 + 1e-6
    old = Features.from_bytes(plain.to_bytes())
    assert old.heard is None
    assert measured(old, (100.0, 150.0)).bpm_after == pytest.approx(124.0, abs=0.02)


def test_it_turns_a_reading_that_is_half_a_beat_late() -> None:
    """The same onsets, once with beats heard on them and once between them: the odds go with what was heard."""
    grid = Grid.constant(124.0, 0.2)
    plain = features(grid, 90.0)

    def odds(offset: float) -> float:
        level = np.full(round(90.0 * FRAMES_PER_S), 0.02, np.float32)
        at = np.rint(grid.time_at(np.arange(180) + offset) * FRAMES_PER_S).astype(int)
        level[at[at < len(level)]] = 0.9
        heard = Heard(level, np.zeros_like(level))
        ways, evidence = hypotheses(plain.onsets, plain.harmony, grid, (100.0, 150.0), heard)
        scores = dict(zip(ways, network("metre").scores(evidence), strict=True))
        return float(scores[1.0, 0.0] - scores[1.0, 0.5])

    assert odds(0.0) > odds(0.5) + 1.0
    found, _ = find_grid(plain.onsets, plain.harmony, (100.0, 150.0), None)
    assert found is not None
