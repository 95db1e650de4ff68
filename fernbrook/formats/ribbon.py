"""The course of a mix as pixels: as wide as it is loud, a hue for each entry, hues interlaced where two overlap."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

PAPER = (243, 239, 228)
INK, SOFT = (35, 40, 31), (87, 92, 77)
HUES = (
    ((31, 111, 99), (91, 160, 148)), ((201, 138, 18), (223, 179, 95)), ((122, 63, 124), (169, 120, 171)),
    ((74, 144, 184), (134, 182, 209)), ((161, 64, 47), (197, 127, 114)), ((138, 154, 43), (178, 189, 109)),
    ((75, 81, 156), (131, 135, 190)), ((208, 112, 140), (224, 160, 179)),
)  # fmt: skip
"""The project's palette, as ``web/src/theme/hues.ts`` has it: for what is low, and for all of it."""
STRIPE = 6
"""Pixels of one entry, then of the other, where two are heard."""
FULL = 2.1 / 255.0
"""Music at the target level fills most of the height."""
LOW = 0.7

Pixels = NDArray[np.uint8]


@dataclass(frozen=True)
class Band:
    """An entry in columns of equal time: its place in the order, its first column, how loud it is in each, 0..255."""

    index: int
    first: int
    low: NDArray[np.uint8]
    full: NDArray[np.uint8]


def ribbon(bands: Sequence[Band], first: int, columns: int, height: int) -> Pixels:
    """Columns [first, first + columns) of a course; shape (height, columns, 3)."""
    picture = np.empty((height, columns, 3), np.uint8)
    picture[:] = PAPER
    here = [b for b in bands if b.first < first + columns and b.first + len(b.full) > first]
    spans = [(max(b.first - first, 0), min(b.first + len(b.full) - first, columns)) for b in here]
    sounding = np.zeros(columns, np.int64)
    for start, end in spans:
        sounding[start:end] += 1
    turn = (first + np.arange(columns)) // STRIPE % np.maximum(sounding, 1)
    rank = np.zeros(columns, np.int64)
    from_middle = np.abs(np.arange(height) - (height - 1) / 2.0)[:, None]
    for band, (start, end) in zip(here, spans, strict=True):
        shown = turn[start:end] == rank[start:end]
        rank[start:end] += 1
        strong, middle = HUES[band.index % len(HUES)]
        levels = slice(start + first - band.first, end + first - band.first)
        area = picture[:, start:end]
        for level, colour, share in ((band.full, middle, 1.0), (band.low, strong, LOW)):
            tall = np.minimum(1.0, level[levels] * FULL) * (share * height / 2.0)
            area[(from_middle <= np.maximum(tall, 0.5)) & shown] = colour
    return picture
