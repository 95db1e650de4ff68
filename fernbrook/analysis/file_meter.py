"""What the samples of a file tell of its quality: where its spectrum ends, clipping, offset, equal channels."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.library import FileMeasures

FULL = 0.999
RUN = 3
"""So many neighbouring samples at full scale are clipped."""
ALIKE = 1e-4
LOW_HZ, FROM_HZ, STEP_HZ = 9_000.0, 12_000.0, 250.0
"""The spectrum is compared with its level between these, in steps of that width."""
GONE = 10.0 ** (-30.0 / 40.0)
"""The square root of magnitudes falls by 30 dB where a lossy coder has cut."""
CLEAR_HZ = 1_500.0
"""And stays there for so much, or it is only a gap."""


class FileMeter:
    """Takes stereo blocks in order."""

    def __init__(self) -> None:
        self._clipped = 0
        self._run = np.zeros(2, dtype=int)
        self._total = np.zeros(2)
        self._count = 0
        self._apart = 0.0

    def add(self, block: NDArray[np.float32]) -> None:
        """Hear a block; shape (n, 2)."""
        if not len(block):
            return
        self._total += block.sum(axis=0, dtype=np.float64)
        self._count += len(block)
        self._apart = max(self._apart, float(np.abs(block[:, 0] - block[:, 1]).max()))
        for channel in range(2):
            self._note(channel, np.abs(block[:, channel]) >= FULL)

    def _note(self, channel: int, full: NDArray[np.bool_]) -> None:
        """Count the runs that reach their length in this block; one may have begun in the block before."""
        if not full.any():
            self._run[channel] = 0
            return
        edges = np.flatnonzero(np.diff(np.concatenate(([False], full, [False])).astype(np.int8)))
        starts, ends = edges[::2], edges[1::2]
        lengths = ends - starts
        before = self._run[channel] if starts[0] == 0 else 0
        self._clipped += int((lengths[1:] >= RUN).sum()) + int(before < RUN <= lengths[0] + before)
        self._run[channel] = lengths[-1] + (before if len(lengths) == 1 else 0) if ends[-1] == len(full) else 0

    def result(self, spectrum: NDArray[np.float64], top_hz: float) -> FileMeasures:
        """What was heard; ``spectrum`` is a mean of roots of magnitudes, up to ``top_hz``."""
        offsets = self._total / max(self._count, 1)
        return FileMeasures(
            top_hz=spectrum_end(spectrum, top_hz),
            clipped=self._clipped,
            offset=round(float(offsets[np.argmax(np.abs(offsets))]), 6),
            alike=bool(self._count) and self._apart < ALIKE,
        )


def spectrum_end(spectrum: NDArray[np.float64], top_hz: float) -> float | None:
    """Where a spectrum falls off as a coder cuts it, in Hz; None where it does not, or has little up there."""
    hz = np.linspace(0.0, top_hz, len(spectrum))
    edges = np.arange(LOW_HZ, top_hz - 500.0, STEP_HZ)
    places = np.searchsorted(hz, edges)
    if len(places) < 2:
        return None
    levels = np.array([spectrum[a:b].mean() for a, b in pairwise(places)])
    usual = float(np.median(levels[edges[:-1] < FROM_HZ]))
    if usual <= 0.0 or usual < 1e-4 * float(spectrum.max()):
        return None
    gone = levels < GONE * usual
    if not gone[-1]:
        return None
    last = int(np.flatnonzero(~gone)[-1]) if (~gone).any() else 0
    near = max(0, last - int(CLEAR_HZ / STEP_HZ))
    # A coder cuts within a few steps; music that fades out by itself takes longer.
    steep = levels[near] > 2.0 * GONE * usual
    end = float(edges[last + 1])
    return end if steep and top_hz - end > CLEAR_HZ else None
