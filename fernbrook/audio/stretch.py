"""Time stretch driven by a time map.

A phase vocoder (Laroche and Dolson, "Improved phase vocoder time-scale modification of audio", IEEE Trans. Speech and
Audio Processing 7(3), 1999, with identity phase locking) in which output frame k, centred at k H, reads the source
centred where the map says. It cannot drift, because every frame asks the map anew. Three things are our own: the
advance of a phase is measured between the frame and one exactly H earlier in the source, so any map may be followed;
left and right share one rotation, so the stereo image stands; peaks that rise steeply take the source's phases, so
attacks stay sharp. Single precision is ample: each rotation is measured anew, so rounding does not pile up.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft
from scipy.signal import get_window

FRAME = 4096
HOP = 1024
ATTACK = 1.5
"""A peak that grows by this factor within one hop is an attack."""
_OVERLAP_GAIN = 1.5
"""Sum of the squared Hann windows at three-quarters overlap."""

Read = Callable[[int, int], NDArray[np.float32]]
MapTimes = Callable[[NDArray[np.float64]], NDArray[np.float64]]


class Stretcher:
    """Plays a source along a time map.

    Frames lie at whole multiples of ``HOP`` samples of the mix. At ``resets`` (frame numbers, the first of them where
    the stretch begins) all phases are the source's; between resets they are carried from frame to frame. Reading
    on costs nothing extra; reading elsewhere begins at the last reset before it, so the result is always the same.
    """

    def __init__(self, read: Read, source_at: MapTimes, resets: NDArray[np.int64], rate: int) -> None:
        if not len(resets) or np.any(np.diff(resets) < 0):
            raise ValueError("a stretch needs resets in rising order, the first where it begins")
        self._read = read
        self._source_at = source_at
        self._resets = resets
        self._rate = rate
        self._window = get_window("hann", FRAME, fftbins=True).astype(np.float32)
        self._fade = self._window / np.float32(_OVERLAP_GAIN)
        self._last = np.zeros((2, FRAME // 2 + 1), dtype=np.complex64)
        self._next = int(resets[0])
        self._tail = np.zeros((FRAME, 2))
        self._tail_from = self._next * HOP - FRAME // 2

    def render(self, start: int, end: int) -> NDArray[np.float64]:
        """Samples [start, end) of the mix, both multiples of ``HOP``; shape (end - start, 2)."""
        if start % HOP or end % HOP or end <= start:
            raise ValueError(f"a stretch renders whole hops of {HOP} samples, not {start}..{end}")
        if self._tail_from != start:
            self._restart(start)
        stop = (end + FRAME // 2 - 1) // HOP + 1
        length = max(end, stop * HOP + FRAME // 2) - self._tail_from
        buffer = np.zeros((length, 2))
        buffer[: len(self._tail)] = self._tail
        if stop > self._next:
            numbers = np.arange(self._next, stop)
            _overlap_add(self._synthesised(numbers), self._fade, numbers * HOP - FRAME // 2 - self._tail_from, buffer)
        out = buffer[start - self._tail_from : end - self._tail_from]
        self._tail = buffer[end - self._tail_from :]
        self._tail_from = end
        self._next = max(stop, self._next)
        return out

    def _restart(self, start: int) -> None:
        """Begin anew at the last reset that comes before all frames which reach ``start``."""
        first_needed = (start - FRAME // 2) // HOP + 1
        index = max(int(np.searchsorted(self._resets, first_needed, side="right")) - 1, 0)
        self._next = int(self._resets[index])
        self._tail = np.zeros((0, 2))
        self._tail_from = min(start, self._next * HOP - FRAME // 2)
        if self._tail_from < start:
            self.render(self._tail_from, start)

    def _synthesised(self, numbers: NDArray[np.int64]) -> NDArray[np.float32]:
        """Output frames before their window; shape (frames, 2, FRAME)."""
        centres = np.rint(self._source_at(numbers * HOP / self._rate) * self._rate).astype(np.int64)
        now, before = self._spectra(centres)
        reset = np.isin(numbers, self._resets)
        _rotate(now, before, reset, self._last, ATTACK**2)
        return np.asarray(fft.irfft(now, FRAME, axis=2, overwrite_x=True))

    def _spectra(self, centres: NDArray[np.int64]) -> tuple[NDArray[np.complex64], NDArray[np.complex64]]:
        """Spectra around each centre and one hop before it; each of shape (frames, 2, FRAME // 2 + 1)."""
        first = int(centres.min()) - HOP - FRAME // 2
        signal = self._read(first, int(centres.max()) + FRAME // 2 - first)
        at = centres - FRAME // 2 - first
        frames = np.empty((2 * len(at), 2, FRAME), dtype=np.float32)
        _windowed(signal, np.concatenate((at, at - HOP)), self._window, frames)
        spectra = fft.rfft(frames, axis=2, overwrite_x=True)
        return spectra[: len(at)], spectra[len(at) :]


@njit(cache=True, nogil=True)
def _windowed(
    signal: NDArray[np.float32], at: NDArray[np.int64], window: NDArray[np.float32], out: NDArray[np.float32]
) -> None:
    """Frames of a signal of shape (n, 2) from the given places, windowed, channel by channel."""
    for f in range(len(at)):
        for i in range(len(window)):
            out[f, 0, i] = signal[at[f] + i, 0] * window[i]
            out[f, 1, i] = signal[at[f] + i, 1] * window[i]


@njit(cache=True, nogil=True)
def _overlap_add(
    frames: NDArray[np.float32], fade: NDArray[np.float32], at: NDArray[np.int64], out: NDArray[np.float64]
) -> None:
    """Add windowed frames to a buffer of shape (n, 2); what would lie before its start is left out."""
    for f in range(len(at)):
        for i in range(max(0, -at[f]), len(fade)):
            out[at[f] + i, 0] += frames[f, 0, i] * fade[i]
            out[at[f] + i, 1] += frames[f, 1, i] * fade[i]


@njit(cache=True, nogil=True)
def _rotate(
    now: NDArray[np.complex64],
    before: NDArray[np.complex64],
    reset: NDArray[np.bool_],
    last: NDArray[np.complex64],
    attack_power: float,
) -> None:
    """Turn each frame's spectrum, in place, to go on from the one before; ``last`` is carried from call to call.

    The rotation of a peak takes the output's last phase there plus the advance from ``before`` to ``now``. All bins up
    to half-way to the next peak turn with it.
    """
    frames, _, bins = now.shape
    power = np.empty(bins)
    peaks = np.empty(bins, dtype=np.int64)
    for f in range(frames):
        if reset[f]:
            last[:] = now[f]
            continue
        for b in range(bins):
            left, right = now[f, 0, b], now[f, 1, b]
            power[b] = left.real**2 + left.imag**2 + right.real**2 + right.imag**2
        count = 0
        for b in range(bins):
            p = power[b]
            if p <= 0.0:
                continue
            if (b > 0 and power[b - 1] >= p) or (b > 1 and power[b - 2] >= p):
                continue
            if (b < bins - 1 and power[b + 1] > p) or (b < bins - 2 and power[b + 2] > p):
                continue
            peaks[count] = b
            count += 1
        if count == 0:
            last[:] = now[f]
            continue
        begin = 0
        for i in range(count):
            peak = peaks[i]
            end = bins if i == count - 1 else (peak + peaks[i + 1] + 1) // 2
            earlier = 0.0
            turn = 0.0 + 0.0j
            for c in range(2):
                old = before[f, c, peak]
                earlier += old.real**2 + old.imag**2
                turn += last[c, peak] * np.conj(old)
            size = abs(turn)
            if size > 0.0 and power[peak] <= attack_power * earlier:
                turn /= size
                for b in range(begin, end):
                    now[f, 0, b] *= turn
                    now[f, 1, b] *= turn
            begin = end
        last[:] = now[f]
