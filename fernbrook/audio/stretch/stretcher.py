"""Time stretch driven by a time map.

A phase vocoder in two bands: output frame k, centred at k ``HOP``, reads the source centred where the map says, so it
cannot drift. It works in **blocks** between fixed frames of the mix, at which all phases are the source's; within a
block, ``rotation.py`` leads every partial from one end to the other. A block depends on nothing but itself. So the
same samples come out wherever a render begins. Measured in ``docs/stretch.md``.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.stretch import attacks, bands
from fernbrook.audio.stretch.bands import STEP, Signal
from fernbrook.audio.stretch.frames import Frames
from fernbrook.audio.stretch.held_map import HeldMap, Join, Warp
from fernbrook.audio.stretch.kept_blocks import KeptBlocks, key_of
from fernbrook.audio.stretch.rotation import Lower, rotate

HOP = 512
LOW = Frames(6144, HOP, STEP)
"""Below 700 Hz: long enough to tell the notes of a low chord apart."""
HIGH = Frames(2048, HOP)
"""Above: short enough for what is quick."""
LOW_HOLD_S = 0.030
HIGH_HOLD_S = 0.016
"""The source keeps its own speed for this long on both sides of an attack; the longer frames need it longer."""
REACH = LOW.length // 2 + STEP * bands.FILL_REACH
"""Samples on both sides of its centre that a frame sounds."""
_AROUND = attacks.CONTEXT + LOW.length // 2 + HIGH.length + bands.CONTEXT
"""Samples of the source read on both sides of a block."""
_KEPT = 3
"""Blocks that stay made, so that reading on and a little back costs nothing."""

Read = Callable[[int, int], NDArray[np.float32]]


class Stretcher:
    """Plays a source along a time map.

    Parameters
    ----------
    read : gives so many samples of the source from a place on, shape (n, 2)
    warp : the map
    borders : the frames of the mix between which blocks lie, rising; there is silence before the first and after the
        last
    joins : where the stretch meets what is played in another way
    rate : samples a second
    kept : where blocks are kept, and the name of the source there, where they are
    """

    def __init__(
        self,
        read: Read,
        warp: Warp,
        borders: NDArray[np.int64],
        joins: Sequence[Join],
        rate: int,
        kept: tuple[KeptBlocks, Hashable] | None = None,
    ) -> None:
        if len(borders) < 2 or np.any(np.diff(borders) < 1):
            raise ValueError("a stretch needs two borders or more, in rising order")
        self._read = read
        self._warp = warp
        self._borders = borders
        self._joins = tuple(joins)
        self._rate = rate
        self._kept = kept
        self._made: OrderedDict[int, Signal] = OrderedDict()

    def render(self, start: int, end: int) -> NDArray[np.float64]:
        """Samples [start, end) of the mix; shape (end - start, 2)."""
        out = np.zeros((end - start, 2))
        first = int(np.searchsorted(self._borders * HOP + REACH, start, side="right")) - 1
        for number in range(max(first, 0), len(self._borders) - 1):
            begin = int(self._borders[number]) * HOP - REACH
            if begin >= end:
                break
            sound = self._block(number)
            low, high = max(start, begin), min(end, begin + len(sound))
            if high > low:
                out[low - start : high - start] += sound[low - begin : high - begin]
        return out

    def _block(self, number: int) -> Signal:
        """What the frames of a block sound, from ``REACH`` before its first one on; shape (n, 2)."""
        known = self._made.get(number)
        if known is None:
            known = self._made[number] = self._make(number)
            if len(self._made) > _KEPT:
                self._made.popitem(last=False)
        return known

    def _make(self, number: int) -> Signal:
        frames = np.arange(self._borders[number], self._borders[number + 1] + 1)
        source_s = self._warp.source_at(frames * HOP / self._rate)
        if self._kept is None:
            return self._stretched(frames, source_s)
        blocks, source = self._kept
        key = key_of(source, frames, source_s, self._joins)
        return blocks.value(key, lambda: self._stretched(frames, source_s))

    def _stretched(self, frames: NDArray[np.int64], source_s: NDArray[np.float64]) -> Signal:
        mix_s = frames * HOP / self._rate
        ends = np.rint(source_s[[0, -1]] * self._rate).astype(np.int64)
        first = int(ends[0]) - _AROUND
        signal = np.ascontiguousarray(self._read(first, int(ends[1]) + _AROUND - first).T)
        attacked = attacks.find_attacks(signal, first)

        def centres(hold_s: float) -> NDArray[np.int64]:
            held = HeldMap(self._warp, attacked / self._rate, self._joins, hold_s)
            return _rising(np.rint(held.source_at(mix_s) * self._rate).astype(np.int64))

        low_first, low, high_first, high = bands.split(signal, first)
        low_at, high_at = centres(LOW_HOLD_S), centres(HIGH_HOLD_S)
        low_spectra = LOW.spectra(low, low_first, low_at)
        turns = rotate(low_spectra, low_at, HOP, LOW.length, _near(attacked, low_at, LOW.length))
        high_spectra = HIGH.spectra(high, high_first, high_at)
        # The two maps differ by a few samples beside an attack, and phases with them.
        turns += (low_at - high_at)[:, None] * (2 * np.pi / LOW.length * np.arange(turns.shape[1], dtype=np.float32))
        lower = Lower(turns, round(bands.EDGE_HZ * HIGH.length / self._rate), LOW.length // HIGH.length)
        rotate(high_spectra, high_at, HOP, HIGH.length, _near(attacked, high_at, HIGH.length), lower)
        sounding = len(frames) - 1
        span = -(-((sounding - 1) * HOP + 2 * REACH) // STEP)
        low_out = np.zeros((2, span + 2 * bands.FILL_REACH), np.float32)
        LOW.add(low_spectra[:sounding], low_out, 2 * bands.FILL_REACH)
        out = bands.full_rate(low_out)
        HIGH.add(high_spectra[:sounding], out, REACH - HIGH.length // 2)
        return np.ascontiguousarray(out.T)


def _rising(centres: NDArray[np.int64]) -> NDArray[np.int64]:
    """The same centres, each at least a sample after the one before it.

    Where a stretch is shorter than what its joins hold, the map jumps from one to the other: it may stand still there,
    or go back.
    """
    n = np.arange(len(centres))
    return np.asarray(np.maximum.accumulate(centres - n) + n)


def _near(attacked: NDArray[np.int64], centres: NDArray[np.int64], length: int) -> NDArray[np.bool_]:
    """Which frames hear an attack."""
    return np.searchsorted(attacked, centres + length // 2) > np.searchsorted(attacked, centres - length // 2)
