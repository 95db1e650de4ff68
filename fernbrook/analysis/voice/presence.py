"""How much of a track is a voice, by the trained network, and where somebody sings or speaks by that."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from fernbrook.analysis.framing import Framer, frames
from fernbrook.analysis.voice.network import FRAME, FRAMES, HOP, RATE, share_of, voice_levels
from fernbrook.analysis.voice.patches import AROUND, WINDOW
from fernbrook.analysis.voice.weights import Floats

BINS = 512
"""Below 5.5 kHz: what lies above tells no more, and takes as long."""
LOWEST, HIGHEST = 12, 320
"""Voices are weighed against the rest between 130 Hz and 3.4 kHz."""
A_CELL = 11
"""Frames that count as one: a quarter of a second."""
FAINT_DB = -40.0
MAYBE_DB = -14.0
"""Where the voice's network alone hears less all along, the other one is not asked."""
SOUNDS_DB, CERTAIN_DB = -20.0, -8.0
"""A voice is heard as long as it stays above the first, if it reaches the second, against all that sounds."""
OVER = 3
"""Cells that are smoothed over."""
SHORTEST, BREATH = 3, 4
"""Cells: what is shorter is no span; a pause that is shorter does not end one."""
SILENT = 1e-6


@dataclass(frozen=True)
class Presence:
    """How loud the voice is against all that sounds, in dB from FAINT_DB to 0, cell by cell; shape (cells,)."""

    share_db: Floats

    def stored(self) -> NDArray[np.uint8]:
        """As it is kept, to 1/255 of the range; shape (cells,)."""
        return np.asarray(np.rint((self.share_db / FAINT_DB) * 255.0), dtype=np.uint8)

    @classmethod
    def of(cls, stored: NDArray[np.uint8]) -> Presence:
        """What was stored."""
        return cls(stored.astype(np.float32) * np.float32(FAINT_DB / 255.0))

    def spans_s(self) -> list[tuple[float, float]]:
        """Where a voice is heard: first and last second of each span."""
        if not len(self.share_db):
            return []
        bell = np.hanning(OVER + 2)[1:-1]
        edge = OVER // 2
        smooth = np.convolve(np.pad(self.share_db, edge, mode="edge"), bell / bell.sum(), mode="valid")
        edges = np.flatnonzero(np.diff(np.concatenate(([False], smooth > SOUNDS_DB, [False])).astype(int)))
        spans: list[tuple[int, int]] = []
        for begin, end in edges.reshape(-1, 2):
            if smooth[begin:end].max() < CERTAIN_DB:
                continue
            if spans and begin - spans[-1][1] < BREATH:
                spans[-1] = (spans[-1][0], int(end))
            else:
                spans.append((int(begin), int(end)))
        a_cell_s = A_CELL * HOP / RATE
        return [(a * a_cell_s, b * a_cell_s) for a, b in spans if b - a >= SHORTEST]


class PresenceMeter:
    """Takes stereo blocks at 44.1 kHz in order; gives how much of them is a voice."""

    def __init__(self) -> None:
        self._framers = (Framer(FRAME, HOP), Framer(FRAME, HOP))
        self._pending = np.zeros((0, BINS, 2), np.float32)
        self._around = 0
        self._found: list[Floats] = []

    def add(self, block: Floats) -> None:
        """Hear a block; shape (n, 2)."""
        cut = [framer.add(side) for framer, side in zip(self._framers, block.T, strict=True)]
        if not cut[0][1]:
            return
        sides = [np.abs(fft.rfft(frames(s, FRAME, HOP, count) * WINDOW, axis=1)[:, :BINS]) for s, count in cut]
        self._pending = np.concatenate((self._pending, np.stack(sides, axis=2)))
        while len(self._pending) >= FRAMES:
            ends = FRAMES - AROUND
            self._found.append(_powers(self._pending[:FRAMES])[self._around : ends])
            self._pending, self._around = self._pending[ends - AROUND :], AROUND

    def result(self) -> Presence:
        """All that was heard so far."""
        found = list(self._found)
        left = len(self._pending) - self._around
        if left > 0:
            padded = np.pad(self._pending, ((0, FRAMES - len(self._pending)), (0, 0), (0, 0)))
            found.append(_powers(padded)[self._around : self._around + left])
        powers = np.concatenate(found) if found else np.zeros((0, 2), np.float32)
        voice, whole = powers[: len(powers) // A_CELL * A_CELL].reshape(-1, A_CELL, 2).sum(axis=1).T
        share_db = 10.0 * np.log10(np.maximum(voice, 1e-12) / (whole + SILENT))
        return Presence(np.clip(share_db, FAINT_DB, 0.0).astype(np.float32))


def _powers(levels: Floats) -> Floats:
    """The power of the voice, and that of all, in each frame of a patch; shape (FRAMES, 2)."""
    voice, band = voice_levels(levels), slice(LOWEST, HIGHEST)
    whole = np.sum(levels[:, band] ** 2, axis=(1, 2))
    alone = np.sum(voice[:, band] ** 2, axis=(1, 2))
    cells = len(levels) // A_CELL * A_CELL
    by_cell = alone[:cells].reshape(-1, A_CELL).sum(axis=1) / (whole[:cells].reshape(-1, A_CELL).sum(axis=1) + SILENT)
    if by_cell.max(initial=0.0) > 10.0 ** (MAYBE_DB / 10.0):
        alone = np.sum((share_of(voice, levels) * levels)[:, band] ** 2, axis=(1, 2))
    return np.stack((alone, whole), axis=1)
