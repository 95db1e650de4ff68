"""A picture for a mix, made of its own course: its ribbon, line by line, as one reads."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

SIDE = 1000
LINES = 6
MARGIN = 70
PAPER = (243, 239, 228)
HUES = (
    ((31, 111, 99), (91, 160, 148)), ((201, 138, 18), (223, 179, 95)), ((122, 63, 124), (169, 120, 171)),
    ((74, 144, 184), (134, 182, 209)), ((161, 64, 47), (197, 127, 114)), ((138, 154, 43), (178, 189, 109)),
    ((75, 81, 156), (131, 135, 190)), ((208, 112, 140), (224, 160, 179)),
)  # fmt: skip
"""The project's palette, as ``web/src/theme/hues.ts`` has it: for what is low, and for all of it."""
STRIPE = 6
"""Pixels of one entry, then of the other, where two are heard."""
FULL = 2.1 / 255.0
"""Music at the target level fills most of a line."""
COLUMNS = LINES * (SIDE - 2 * MARGIN)

Pixels = NDArray[np.uint8]


@dataclass(frozen=True)
class Band:
    """An entry in columns of equal time: its place in the order, its first column, how loud it is in each, 0..255."""

    index: int
    first: int
    low: NDArray[np.uint8]
    full: NDArray[np.uint8]


def cover(bands: Sequence[Band]) -> bytes:
    """A square PNG of a course in ``COLUMNS`` columns."""
    picture = np.empty((SIDE, SIDE, 3), np.uint8)
    picture[:] = PAPER
    here: list[list[Band]] = [[] for _ in range(COLUMNS)]
    for band in bands:
        for column in range(band.first, min(band.first + len(band.full), COLUMNS)):
            here[column].append(band)
    line, width = (SIDE - 2 * MARGIN) / LINES, SIDE - 2 * MARGIN
    for column, sounding in enumerate(here):
        if not sounding:
            continue
        band = sounding[column // STRIPE % len(sounding)]
        strong, middle = HUES[band.index % len(HUES)]
        x = MARGIN + column % width
        y = MARGIN + (column // width + 0.5) * line
        for level, colour, share in ((band.full, middle, 1.0), (band.low, strong, 0.7)):
            tall = min(1.0, float(level[column - band.first]) * FULL) * share * line * 0.44
            picture[round(y - tall) : round(y + tall) + 1, x] = colour
    return png(picture)


def png(pixels: Pixels) -> bytes:
    """Pixels of shape (height, width, 3) as a PNG (ISO/IEC 15948)."""
    height, width, _ = pixels.shape
    rows = np.concatenate((np.zeros((height, 1), np.uint8), pixels.reshape(height, -1)), axis=1)
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    chunks = ((b"IHDR", head), (b"IDAT", zlib.compress(rows.tobytes())), (b"IEND", b""))
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data)) for name, data in chunks
    )
