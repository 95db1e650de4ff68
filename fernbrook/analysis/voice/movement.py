"""Where somebody sings or speaks.

A voice's pitch is hardly ever still, and all its partials move with it; the tones of most instruments stand still, and
the peaks of drums and noise move about without each other. What is measured is how much the spectral peaks that last
move together, in semitones. Vibrato and glides of partials as the mark of a voice: L. Regnier and G. Peeters, "Singing
voice detection in music tracks using direct voice vibrato detection", ICASSP 2009. Peaks and their linking follow
R. McAulay and T. Quatieri, IEEE Trans. ASSP 34 (1986).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft
from scipy.signal import firwin, upfirdn

from fernbrook.analysis.framing import Framer, frames

FEWER = 4
"""Read at a quarter of the rate: partials above 4 kHz are not looked at."""
FRAME, HOP = 1024, 256
HALF_FIR = 24
LOW_HZ, HIGH_HZ = 180.0, 4000.0
MOST_PEAKS = 64
FAINT = 0.01
"""Peaks this much below the strongest of their frame are left out."""
DIP = 0.35
"""A peak stands out when the spectrum falls to this share of it on both sides."""
REACH = 0.75
"""How far a partial moves from frame to frame, in semitones."""
JERK = 0.3
"""How much its speed changes from frame to frame; peaks of noise change theirs more."""
LOUDER = 4.0
"""How much a partial's strength changes from frame to frame, as a ratio."""
MOST = 0.001
"""More movement in common than this counts no more: a drum's pitch falls fast, but in few frames."""
OVER_S = 2.0
SOUNDS, CERTAIN = 0.00007, 0.00017
"""A voice is heard as long as the movement stays above the first, if it reaches the second."""
SHORTEST_S, BREATH_S = 1.0, 2.0
"""What is shorter is no span; a pause that is shorter does not end one."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Movement:
    """How much partials move together around ``i / rate`` seconds, squared semitones a frame; shape (frames,).

    Below zero where they move against each other.
    """

    together: NDArray[np.float32]
    rate: float


class MovementMeter:
    """Takes mono blocks in order; gives the movement of their partials."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._framer = Framer(FRAME * FEWER, HOP * FEWER, HALF_FIR)
        self._fir = firwin(2 * HALF_FIR + 1, 0.9 / FEWER).astype(np.float32)
        self._window = np.hanning(FRAME).astype(np.float32)
        self._low, self._high = (round(hz * FRAME * FEWER / rate) for hz in (LOW_HZ, HIGH_HZ))
        self._last = np.zeros((3, MOST_PEAKS))
        self._found: list[NDArray[np.float32]] = []

    def add(self, mono: NDArray[np.float32]) -> None:
        """Hear a block; shape (n,)."""
        signal, count = self._framer.add(mono)
        if count:
            slow = upfirdn(self._fir, signal, 1, FEWER)[2 * HALF_FIR // FEWER :]
            spectra = np.abs(fft.rfft(frames(slow, FRAME, HOP, count) * self._window, axis=1))
            self._found.append(_together(spectra, self._low, self._high, self._last))

    def result(self) -> Movement:
        """The movement in all frames heard so far."""
        together = np.concatenate(self._found) if self._found else np.zeros(0, dtype=np.float32)
        return Movement(together, self._rate / FEWER / HOP)


def moving_spans(movement: Movement) -> list[tuple[float, float]]:
    """Where a voice is heard: first and last second of each span."""
    if not len(movement.together):
        return []
    bell = np.hanning(round(OVER_S * movement.rate) + 2)[1:-1]
    strength = np.convolve(np.clip(movement.together, -MOST, MOST), bell / bell.sum(), mode="same")
    edges = np.flatnonzero(np.diff(np.concatenate(([False], strength > SOUNDS, [False])).astype(int)))
    spans: list[tuple[float, float]] = []
    for begin, end in edges.reshape(-1, 2):
        if strength[begin:end].max() < CERTAIN:
            continue
        start_s, end_s = float(begin / movement.rate), float(end / movement.rate)
        if spans and start_s - spans[-1][1] < BREATH_S:
            spans[-1] = (spans[-1][0], end_s)
        else:
            spans.append((start_s, end_s))
    return [(start, end) for start, end in spans if end - start >= SHORTEST_S]


@njit(cache=True)
def _together(spectra: NDArray[np.float32], low: int, high: int, last: Array) -> NDArray[np.float32]:
    """The movement that peaks have in common, for each frame; shape (frames,).

    ``last`` holds semitones, strength and last step of the peaks of the frame before, and is carried on; shape
    (3, MOST_PEAKS). Steps are NaN where a peak is new.
    """
    out = np.zeros(len(spectra), dtype=np.float32)
    now = np.zeros_like(last)
    for t in range(len(spectra)):
        _peaks(spectra[t], low, high, now)
        total = now[1].sum()
        moved, alone = 0.0, 0.0
        for i in range(MOST_PEAKS):
            if now[1, i] == 0.0:
                break
            before = _same_partial(now, i, last)
            if before < 0:
                continue
            step = now[0, i] - last[0, before]
            now[2, i] = step
            if abs(step - last[2, before]) <= JERK:
                share = now[1, i] / total * step
                moved += share
                alone += share * share
        out[t] = moved * moved - alone
        last[:] = now
    return out


@njit(cache=True)
def _peaks(spectrum: NDArray[np.float32], low: int, high: int, peaks: Array) -> None:
    """Fill in the spectrum's peaks, lowest first, each placed by a parabola through the logarithms around it."""
    peaks[:2] = 0.0
    peaks[2] = np.nan
    faint = max(FAINT * spectrum[low:high].max(), 1e-3)
    count = 0
    for i in range(low, high):
        top = spectrum[i]
        if top < faint or top <= spectrum[i - 1] or top < spectrum[i + 1]:
            continue
        if max(spectrum[max(low, i - 4) : i + 1].min(), spectrum[i : min(high, i + 5)].min()) > DIP * top:
            continue
        left, middle, right = np.log(spectrum[i - 1] + 1e-9), np.log(top), np.log(spectrum[i + 1] + 1e-9)
        place = i + 0.5 * (left - right) / (left - 2.0 * middle + right)
        peaks[0, count] = 12.0 * np.log2(place)
        peaks[1, count] = top
        count += 1
        if count == MOST_PEAKS:
            return


@njit(cache=True)
def _same_partial(now: Array, i: int, last: Array) -> int:
    """The peak of the frame before that peak ``i`` continues, or -1: each must be the other's nearest."""
    best, near = -1, REACH
    for j in range(MOST_PEAKS):
        if last[1, j] == 0.0:
            break
        if abs(now[0, i] - last[0, j]) < near:
            best, near = j, abs(now[0, i] - last[0, j])
    if best < 0 or not 1.0 / LOUDER < now[1, i] / last[1, best] < LOUDER:
        return -1
    for k in range(MOST_PEAKS):
        if now[1, k] == 0.0:
            break
        if k != i and abs(now[0, k] - last[0, best]) < near:
            return -1
    return best
