"""Loads the compiled kernels before somebody waits for them."""

from __future__ import annotations

import numpy as np

from fernbrook.audio.effects import CONTEXT, Response, after, equalise, limit, swept
from fernbrook.audio.pace import interpolate, margin
from fernbrook.audio.stretch import HOP, Stretcher
from fernbrook.core.mix.entries import Played
from fernbrook.core.plan import RATE, TimeMap
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import Grid


def warm_up() -> None:
    """Run each kernel once on a little noise."""
    noise = np.random.default_rng(0).standard_normal((4 * CONTEXT, 2))
    steady = TempoMap.of([(0.0, 120.0)])
    time_map = TimeMap(Played(Grid.constant(126.0, 0.0), 1.0), 0.0, steady, 0.0, 8.0)
    single = noise.astype(np.float32)
    interpolate(single, margin() + np.arange(16.0))
    Stretcher(lambda _, frames: single[:1].repeat(frames, axis=0), time_map, np.array([0, 8]), (), RATE).render(0, HOP)
    low, mid, high = (np.full(2 * CONTEXT, level) for level in (0.5, 1.0, 0.7))
    equalise(noise, low, mid, high, (250.0, 2500.0), RATE)
    swept(noise, np.full(len(noise), 900.0), np.ones(len(noise)), 0.5, False, RATE)
    response = Response(noise[:8], 8)
    response.convolved([response.spectrum(noise[:8], noise[8:16])])
    limit(noise, 0, len(noise) - after(RATE), -1.0, RATE)
