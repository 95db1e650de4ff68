"""Mono below a frequency, listened to with code: below it left and right are alike, above it they are as they were."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from scipy.signal import welch

from fernbrook.audio.effects.sweep import swept
from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve, edge_hz
from fernbrook.core.mix.transitions import ReadyShape, Side
from fernbrook.core.plan import RATE
from tests.listen import band, level_db
from tests.render.test_effects import FULL, another, overlap, shape, written
from tests.render.test_render import Deck

POSITION = 0.375
TURN = Curve.of((0.0, 0.0), (0.2, POSITION), (1.0, POSITION))


@pytest.fixture(scope="module")
def wide(tmp_path_factory: pytest.TempPathFactory) -> Deck:
    """A wide noise, whose sides have nothing in common, that goes over into silence; no fader moves."""
    folder = tmp_path_factory.mktemp("wide")
    noise = 0.1 * np.random.default_rng(4).standard_normal((60 * RATE, 2))
    deck = Deck(written(folder, "wide", noise, 120.0), written(folder, "hush", np.zeros_like(noise), 120.0))
    deck.shaped(ReadyShape.EVEN_BLEND, out_at=64.0, in_at=8.0, beats=32.0)
    for side in Side:
        shape(deck, side, Control.VOLUME, FULL)
    return deck


def sides(sound: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What both share, and what differs."""
    return (sound[:, :1] + sound[:, 1:]) / 2.0, (sound[:, :1] - sound[:, 1:]) / 2.0


def test_the_bass_is_mono_below_the_edge_and_the_rest_as_wide_as_it_was(wide: Deck) -> None:
    edge = float(edge_hz(POSITION))
    assert 300.0 < edge < 340.0
    narrow = shape(another(wide), Side.OUTGOING, Control.WIDTH, TURN)
    start, end = overlap(wide)
    settled = start + (end - start) // 2
    before, after = (d.render(settled, end, 0).astype(np.float64) for d in (wide, narrow))
    (was_mid, was_side), (mid, side) = sides(before), sides(after)
    assert np.abs(mid - was_mid).max() < 1e-6, "what both share is left alone, so a mono sum stays what it is"
    hz, was = welch(was_side[:, 0], RATE, nperseg=16_384)
    change_db = 10.0 * np.log10(welch(side[:, 0], RATE, nperseg=16_384)[1] / was)
    assert change_db[(hz > 40) & (hz < edge / 4)].max() < -40.0
    assert np.abs(change_db[(hz > edge * 4) & (hz < 16_000)]).max() < 0.1
    assert change_db[np.argmin(np.abs(hz - edge))] == pytest.approx(-3.0, abs=1.0)


def test_blocks_join_without_a_trace(wide: Deck) -> None:
    """The filter of each block has run through the one before, so that nothing is missing of what it remembers."""
    low = Curve.of((0.0, 0.0), (0.1, 0.05), (1.0, 0.05))
    narrow = shape(another(wide), Side.OUTGOING, Control.WIDTH, low)
    start, end = overlap(wide)
    settled = start + (end - start) // 4
    mid, side = sides(wide.render(settled, end, 0).astype(np.float64))
    at = np.full(len(side), 0.05)
    expected = swept(side, edge_hz(at), np.ones(len(side)), 0.0, True, RATE)
    heard = narrow.render(settled, end, 0).astype(np.float64)
    assert np.abs(heard - np.concatenate((mid + expected, mid - expected), axis=1))[RATE:-RATE].max() < 1e-6


def test_it_is_the_very_sound_before_it_is_turned(wide: Deck) -> None:
    late = Curve.of((0.0, 0.0), (0.5, 0.0), (1.0, POSITION))
    narrow = shape(another(wide), Side.OUTGOING, Control.WIDTH, late)
    start, end = overlap(wide)
    middle = (start + end) // 2
    assert np.array_equal(narrow.render(start - RATE, middle, 0), wide.render(start - RATE, middle, 0))
    assert not np.array_equal(narrow.render(middle, end, 0), wide.render(middle, end, 0))


def test_it_comes_in_without_a_click(tmp_path: Path) -> None:
    t = np.arange(60 * RATE) / RATE
    tone = np.stack([0.5 * np.sin(2 * np.pi * 70 * t), -0.5 * np.sin(2 * np.pi * 70 * t)], axis=1)
    deck = Deck(written(tmp_path, "tone", tone, 120.0), written(tmp_path, "hush", np.zeros_like(tone), 120.0))
    deck.shaped(ReadyShape.EVEN_BLEND, out_at=64.0, in_at=8.0, beats=32.0)
    shape(deck, Side.OUTGOING, Control.VOLUME, FULL)
    shape(deck, Side.OUTGOING, Control.WIDTH, TURN)
    start, end = overlap(deck)
    sound = deck.render(start - RATE, end, 0).astype(np.float64)
    assert level_db(band(sound, 2000, 12_000)) < -70.0
    assert level_db(sound[-RATE:]) < -50.0, "what is only different from side to side is gone"


def test_the_incoming_opens_up_to_stereo(wide: Deck) -> None:
    deck = another(wide)
    with pytest.raises(c.CommandError, match="neutral"):
        shape(deck, Side.INCOMING, Control.WIDTH, Curve.of((0.0, 0.5), (1.0, 0.5)))
    shape(deck, Side.INCOMING, Control.WIDTH, Curve.of((0.0, 0.5), (1.0, 0.0)))
