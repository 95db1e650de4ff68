"""Loads the compiled kernels before somebody waits for them."""

from __future__ import annotations

import numpy as np

from fernbrook.audio.eq import equalise
from fernbrook.audio.interpolate import interpolate, margin
from fernbrook.audio.limiter import after, limit
from fernbrook.audio.stretch import HOP, Stretcher
from fernbrook.audio.zero_phase import CONTEXT
from fernbrook.core.plan.plan import RATE


def warm_up() -> None:
    """Run each kernel once on a little noise."""
    noise = np.random.default_rng(0).standard_normal((4 * CONTEXT, 2))
    single = noise.astype(np.float32)
    interpolate(single, margin() + np.arange(16.0))
    Stretcher(lambda _, frames: np.zeros((frames, 2), np.float32), lambda t: t, np.array([0]), RATE).render(0, 8 * HOP)
    low, mid, high = (np.full(2 * CONTEXT, level) for level in (0.5, 1.0, 0.7))
    equalise(noise, low, mid, high, RATE)
    limit(noise, 0, len(noise) - after(RATE), -1.0, RATE)
