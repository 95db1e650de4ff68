"""A click on the beats, to the sample, to hear whether a grid is right."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

LENGTH_S = 0.03
BEAT_HZ, ACCENT_HZ = 1500.0, 2250.0
ACCENT_DB = 3.0

Ticks = Callable[[float, float], tuple[NDArray[np.float64], NDArray[np.bool_]]]
"""The moments of all beats between two moments, in seconds, and which of them begin a bar."""


@dataclass(frozen=True)
class Click:
    """Where clicks fall, and how loud they are."""

    ticks: Ticks
    level_db: float


def with_click(block: NDArray[np.float32], start: int, rate: int, click: Click) -> NDArray[np.float32]:
    """A block with the clicks that sound in it.

    Parameters
    ----------
    block : shape (n, 2)
    start : the sample at which the block begins
    """
    out = block.copy()
    sounds = [_sound(rate, hz) for hz in (BEAT_HZ, ACCENT_HZ)]
    length = len(sounds[0])
    moments, firsts = click.ticks((start - length) / rate, (start + len(block)) / rate)
    for moment, accent in zip(moments, firsts, strict=True):
        at = round(float(moment) * rate) - start
        begin, end = max(at, 0), min(at + length, len(block))
        if begin < end:
            gain = np.float32(10.0 ** ((click.level_db + (ACCENT_DB if accent else 0.0)) / 20.0))
            out[begin:end] += gain * sounds[int(accent)][begin - at : end - at, None]
    return np.clip(out, -1.0, 1.0)


def clicking(
    blocks: Iterator[NDArray[np.float32]], start: int, rate: int, click: Click
) -> Iterator[NDArray[np.float32]]:
    """Blocks in order, the first beginning at sample ``start``, each with its clicks."""
    for block in blocks:
        yield with_click(block, start, rate, click)
        start += len(block)


@lru_cache(maxsize=4)
def _sound(rate: int, hz: float) -> NDArray[np.float32]:
    """A short tone that begins at once and dies away; shape (n,)."""
    t = np.arange(round(LENGTH_S * rate)) / rate
    return np.asarray(np.cos(2.0 * np.pi * hz * t) * np.exp(-t / 0.006), dtype=np.float32)
