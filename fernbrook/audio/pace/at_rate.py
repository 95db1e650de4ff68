"""A stream of sound at another rate."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.pace.interpolate import interpolate, margin


def frames_at(frames: int, rate: int, to: int) -> int:
    """How many samples so many become at another rate.

    >>> frames_at(44_100, 44_100, 48_000)
    48000
    """
    return round(frames * to / rate)


def at_rate(blocks: Iterable[NDArray[np.float32]], frames: int, rate: int, to: int) -> Iterator[NDArray[np.float32]]:
    """Blocks of shape (n, channels), ``frames`` in all, at another rate; the very blocks where it is the same."""
    if rate == to:
        yield from blocks
        return
    step, cutoff = rate / to, min(1.0, 0.98 * to / rate) if to < rate else 1.0
    pad, total = margin(cutoff), frames_at(frames, rate, to)
    held, held_from, made = np.zeros((0, 2), dtype=np.float32), -pad, 0
    silence = np.zeros((pad, 2), dtype=np.float32)
    for block in chain([silence], blocks, [silence, silence]):
        held = np.concatenate((held, block))
        ready = min(total, int(np.floor((held_from + len(held) - pad - 1) / step)) + 1)
        if ready <= made:
            continue
        positions = np.arange(made, ready, dtype=np.float64) * step
        yield interpolate(held, positions - held_from, cutoff)
        made = ready
        spent = max(0, int(made * step) - pad - 1 - held_from)
        held, held_from = held[spent:], held_from + spent
