"""Every shape that comes with the program is listened to on music: there is no hole that it does not mean."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, sosfiltfilt

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.transitions import Kind, ReadyShape, shape_of
from fernbrook.render.lanes import lane_blocks, lanes_of
from tests.conftest import Made
from tests.render.test_render import Deck
from tests.tones import RATE

WINDOW_S = 0.5
"""A beat at 120 BPM."""
BLENDS = [h for h in ReadyShape if shape_of(h, 32.0, 4.0).kind is Kind.BLEND]
MOST_DIP_DB = 2.0


@pytest.mark.parametrize("shape", ReadyShape)
@pytest.mark.parametrize("bar", [2.0, 3.0, 4.0, 7.0])
def test_every_shape_is_there_for_every_length(shape: ReadyShape, bar: float) -> None:
    for beats in (0.1, *np.arange(0.25, 40.0, 0.25), 64.0, 128.0, 1024.0, 1e5):
        shape_of(shape, float(beats), bar)


def levels(sound: np.ndarray, low: bool) -> np.ndarray:
    heard = sosfiltfilt(butter(4, 150.0, fs=RATE, output="sos"), sound, axis=0) if low else sound
    size = round(WINDOW_S * RATE)
    whole = len(heard) // size * size
    return 10 * np.log10((heard[:whole].reshape(-1, size, 2) ** 2).mean(axis=(1, 2)) + 1e-9)


@pytest.mark.parametrize("shape", BLENDS)
@pytest.mark.parametrize("beats", [16.0, 32.0])
def test_no_shape_has_a_hole(first: Made, second: Made, shape: ReadyShape, beats: float) -> None:
    deck = Deck(first, second).do(c.SetHomeTempo(entry_id="e2", bpm=120.0)).shaped(ReadyShape.EVEN_BLEND)
    deck.do(c.PlaceTransition(out_id="e1", in_id="e2", out_at=64.0, in_at=32.0, beats=beats)).shaped(shape)
    plan = deck.plan
    begin, end = (round(s * RATE) for s in (plan.transitions[0].start_s, plan.transitions[0].end_s))
    mixed = deck.render(begin, end)
    sides = [
        np.concatenate(list(lane_blocks(lane, deck.paths, end)))[begin:]
        for lane in lanes_of(plan, by_stem=False, curves=False)
    ]
    for low in (False, True):
        heard, quieter = levels(mixed, low), np.minimum(*(levels(side, low) for side in sides))
        matters = quieter > quieter.max() - 12.0
        assert (quieter - heard)[matters].max() < MOST_DIP_DB + (1.0 if low else 0.0), "bass" if low else "all"
