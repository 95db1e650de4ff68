"""Time stretch driven by a time map.

A phase vocoder in two bands: output frame k, centred at k ``HOP``, reads the source centred where the map says, so it
cannot drift. It works in **blocks** between fixed frames of the mix, at which all phases are the source's; within a
block, ``rotation.py`` leads every partial from one end to the other. A block depends on nothing but itself. So the
same samples come out wherever a render begins.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft
from scipy.signal import get_window

from fernbrook.audio.stretch import attacks, bands
from fernbrook.audio.stretch.held_map import HeldMap, Join, Warp
from fernbrook.audio.stretch.rotation import rotate

HOP = 512
LOW_FRAME = 6144
HIGH_FRAME = 2048
SHARED_HZ = bands.CROSSOVER_HZ + bands.WIDTH_HZ / 2
REACH = LOW_FRAME // 2 + bands.STEP * bands.fill_reach()
"""Samples around its centre that a frame sounds."""
LOW_HOLD_S = 0.030
HIGH_HOLD_S = 0.016
KEPT_BLOCKS = 3
_SPARE = attacks.CONTEXT + LOW_FRAME // 2 + bands.CONTEXT
Read = Callable[[int, int], NDArray[np.float32]]


class Stretcher:
    """Plays a source along a time map.

    Parameters
    ----------
    read : gives samples of the source from a place on, shape (n, 2)
    warp : the map
    borders : the frames at which blocks begin and end, rising; before the first there is silence, after the last the
        source goes on at its own speed
    joins : where the stretch meets what is played in another way
    rate : samples a second
    """

    def __init__(self, read: Read, warp: Warp, borders: NDArray[np.int64], joins: Sequence[Join], rate: int) -> None:
        if len(borders) < 2 or np.any(np.diff(borders) < 1):
            raise ValueError("a stretch needs two borders or more, in rising order")
        self._read = read
        self._warp = warp
        self._borders = borders
        self._joins = tuple(joins)
        self._rate = rate
        self._blocks: OrderedDict[int, tuple[int, NDArray[np.float32]]] = OrderedDict()

    def render(self, start: int, end: int) -> NDArray[np.float64]:
        """Samples [start, end) of the mix; shape (end - start, 2)."""
        out = np.zeros((end - start, 2))
        first = int(np.searchsorted(self._borders * HOP + REACH, start, side="right")) - 1
        for number in range(max(first, 0), len(self._borders) - 1):
            if self._borders[number] * HOP - REACH >= end:
                break
            begin, sound = self._block(number)
            lo, hi = max(start, begin), min(end, begin + sound.shape[1])
            if hi > lo:
                out[lo - start : hi - start] += sound[:, lo - begin : hi - begin].T
        return out

    def _block(self, number: int) -> tuple[int, NDArray[np.float32]]:
        """All that the frames of a block sound: where it begins, and its samples, shape (2, n)."""
        known = self._blocks.get(number)
        if known is None:
            known = self._blocks[number] = self._made(number)
            if len(self._blocks) > KEPT_BLOCKS:
                self._blocks.popitem(last=False)
        return known

    def _made(self, number: int) -> tuple[int, NDArray[np.float32]]:
        numbers = np.arange(self._borders[number], self._borders[number + 1] + 1)
        mix_s = numbers * HOP / self._rate
        rough = self._warp.source_at(mix_s[[0, -1]]) * self._rate
        first = int(rough[0]) - _SPARE - HIGH_FRAME
        signal = np.ascontiguousarray(self._read(first, int(rough[1]) + _SPARE + HIGH_FRAME - first).T)
        found = attacks.find_attacks(signal, first)
        low_centres, high_centres = (np.rint(HeldMap(self._warp, found / self._rate, self._joins, hold).source_at(mix_s) * self._rate).astype(np.int64) for hold in (LOW_HOLD_S, HIGH_HOLD_S))
        begin = -(-(first + bands.CONTEXT) // bands.STEP)
        end = (first + signal.shape[1] - bands.CONTEXT) // bands.STEP
        low = bands.low_band(signal, first, begin, end - begin)
        spare = bands.fill_reach()
        inner = bands.full_rate(low, spare, end - begin - 2 * spare)
        high_first = (begin + spare) * bands.STEP
        high = signal[:, high_first - first :][:, : inner.shape[1]] - inner
        low_spectra = _low_spectra(low, begin, low_centres)
        nothing = np.zeros((1, 1), np.float32)
        turns = rotate(low_spectra, low_centres, HOP, LOW_FRAME, nothing, 0, 1, _near(found, low_centres, LOW_FRAME))
        turns += (low_centres - high_centres)[:, None] * (2 * np.pi / LOW_FRAME) * np.arange(turns.shape[1])
        high_spectra = _spectra(high, high_centres - HIGH_FRAME // 2 - high_first, _HIGH_WINDOW)
        rotate(high_spectra, high_centres, HOP, HIGH_FRAME, turns, int(SHARED_HZ * HIGH_FRAME / self._rate), LOW_FRAME // HIGH_FRAME, _near(found, high_centres, HIGH_FRAME))
        last = number == len(self._borders) - 2
        used = len(numbers) if last else len(numbers) - 1
        low_out = np.zeros((2, (used - 1) * HOP // bands.STEP + _LOW_LENGTH + 2 * spare), np.float32)
        _overlap_add(fft.irfft(low_spectra[:used], _LOW_LENGTH, axis=2), _LOW_FADE, HOP // bands.STEP, low_out[:, spare:])
        sound_begin = int(numbers[0]) * HOP - LOW_FRAME // 2 - 0
        padded = np.pad(low_out, ((0, 0), (spare, spare)))
        sound = bands.full_rate(padded, spare, low_out.shape[1])
        sound_begin -= spare * bands.STEP
        offset = LOW_FRAME // 2 - HIGH_FRAME // 2 + spare * bands.STEP
        _overlap_add(fft.irfft(high_spectra[:used], HIGH_FRAME, axis=2), _HIGH_FADE, HOP, sound[:, offset:])
        return sound_begin, sound


def _near(found, centres, frame):
    """Which frames hear an attack."""
    return np.searchsorted(found, centres + frame // 2) > np.searchsorted(found, centres - frame // 2)


_LOW_LENGTH = LOW_FRAME // bands.STEP


def _window(length: int, hop: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """The window before, and the one after, in sum 1."""
    hann = get_window("hann", length, fftbins=True)
    return hann.astype(np.float32), (hann / (0.375 * length / hop)).astype(np.float32)


_HIGH_WINDOW, _HIGH_FADE = _window(HIGH_FRAME, HOP)
_, _LOW_FADE = _window(_LOW_LENGTH, HOP // bands.STEP)
_LOW_WINDOWS = np.stack(
    [0.5 + 0.5 * np.cos(2 * np.pi * ((np.arange(_LOW_LENGTH) - _LOW_LENGTH // 2) * bands.STEP - r) / LOW_FRAME) for r in range(bands.STEP)]
).astype(np.float32)
_LOW_SHIFTS = np.exp(
    2j * np.pi * np.arange(_LOW_LENGTH // 2 + 1)[None, :] * np.arange(bands.STEP)[:, None] / LOW_FRAME
).astype(np.complex64)


def _low_spectra(low: NDArray[np.float32], begin: int, centres: NDArray[np.int64]) -> NDArray[np.complex64]:
    """Spectra of the low band around samples of the full rate, which mostly lie between two of its own."""
    whole, rest = np.divmod(centres, bands.STEP)
    frames = np.empty((len(centres), 2, _LOW_LENGTH), np.float32)
    _low_windowed(low, whole - _LOW_LENGTH // 2 - begin, rest, _LOW_WINDOWS, frames)
    spectra = fft.rfft(frames, axis=2, overwrite_x=True)
    spectra *= _LOW_SHIFTS[rest][:, None, :]
    return np.asarray(spectra)


def _spectra(signal: NDArray[np.float32], at: NDArray[np.int64], window: NDArray[np.float32]) -> NDArray[np.complex64]:
    frames = np.empty((len(at), 2, len(window)), np.float32)
    _low_windowed(signal, at, np.zeros(len(at), np.int64), window[None, :], frames)
    return np.asarray(fft.rfft(frames, axis=2, overwrite_x=True))


@njit(cache=True, nogil=True)
def _low_windowed(signal, at, which, windows, out):
    for f in range(len(at)):
        for c in range(2):
            for i in range(windows.shape[1]):
                out[f, c, i] = signal[c, at[f] + i] * windows[which[f], i]


@njit(cache=True, nogil=True)
def _overlap_add(frames, fade, hop, out):
    for f in range(len(frames)):
        for c in range(2):
            for i in range(len(fade)):
                out[c, f * hop + i] += frames[f, c, i] * fade[i]
