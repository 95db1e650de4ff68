"""How far each spectral peak of a stretched frame is turned against its source.

A peak goes on from frame to frame at its own frequency (J. Laroche and M. Dolson, "Improved phase vocoder time-scale
modification of audio", IEEE Trans. Speech and Audio Processing 7(3), 1999, with identity phase locking: the bins around
a peak turn with it). That alone leaves it turned by anything at the end of a block, where the next one begins with the
source's phases: two frames that add up there may cancel. So rotations are carried **from both ends**: forwards from
the block's start, where they are zero, and backwards from its end, where they are zero as well. Going forwards, each
peak is steered, over the frames that are left, towards its backward rotation. A partial that lasts a block of T
seconds is off by 1 / (2 T) Hz at most, which nobody hears, and arrives in phase.

All channels share a rotation, so that the stereo image stands.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

ATTACK_POWER = 1.5**2
"""A bin that grows by this factor from frame to frame rises."""
ATTACK_SHARE = 0.5
"""A frame in which more of the sounding bins than this share rise is an attack: those take the source's phases."""
SOUNDING = 1e-8
"""Bins below the strongest by more than this factor of power do not count."""
LASTING = 1.0 / 16.0
"""A peak whose surroundings fall below this share of its power in the next frame ends there."""
_FREE = 1e9
"""Stands for a rotation that nothing asks for."""

Spectra = NDArray[np.complex64]
Turns = NDArray[np.float32]
Places = NDArray[np.int16]


class _Block(NamedTuple):
    """A block's frames, and what was found in them before anything is turned; a tuple, as compiled code takes it."""

    spectra: Spectra
    power: Turns
    earlier: Turns
    """The power of a quarter of a frame before, against which something rises."""
    attack: NDArray[np.bool_]
    peaks: Places
    ends: Places
    counts: NDArray[np.int64]
    steps: NDArray[np.float64]
    hop: int
    frame: int


@dataclass(frozen=True)
class Lower:
    """A lower band that shares frames: its rotations, shape (frames, n), the bin below which they hold for the higher
    band too, and how many of its bins are one of the higher band's."""

    turns: Turns
    until: int
    finer: int


_NO_LOWER = Lower(np.zeros((1, 1), np.float32), 0, 1)


def rotate(
    spectra: Spectra,
    centres: NDArray[np.int64],
    hop: int,
    frame: int,
    near_attack: NDArray[np.bool_],
    lower: Lower = _NO_LOWER,
) -> Turns:
    """Turn the frames of a block, in place, so that they sound one hop apart.

    Parameters
    ----------
    spectra : shape (frames, 2, bins), taken around ``centres``, phases counted from a fixed place within the frame
    centres : samples of the source, rising; the first and the last frame keep their phases
    hop, frame : samples between two frames of the output; length of a frame
    near_attack : the frames in which something may begin
    lower : what a lower band has found for the peaks that both hear

    Returns
    -------
    the rotation of each bin in radians, shape (frames, bins)
    """
    steps = np.diff(centres, prepend=centres[0] - hop).astype(np.float64)
    power, floor = _powers(spectra)
    back = max(1, frame // (4 * hop))
    earlier = power[np.maximum(np.arange(len(power)) - back, 0)]
    attack = near_attack & _attacks(power, earlier, floor)
    block = _Block(spectra, power, earlier, attack, *_peaks(power, floor), steps, hop, frame)
    return np.asarray(_forwards(block, _backwards(block), lower.turns, lower.until, lower.finer))


@njit(cache=True, nogil=True, fastmath=True)
def _powers(spectra: Spectra) -> tuple[Turns, NDArray[np.float32]]:
    """The power of each bin, both channels together, and the power in each frame below which nothing counts."""
    frames, _, bins = spectra.shape
    power = np.empty((frames, bins), np.float32)
    floor = np.empty(frames, np.float32)
    for f in range(frames):
        left, right, row = spectra[f, 0], spectra[f, 1], power[f]
        top = np.float32(0.0)
        for b in range(bins):
            x, y = left[b], right[b]
            row[b] = x.real * x.real + x.imag * x.imag + y.real * y.real + y.imag * y.imag
            top = max(top, row[b])
        floor[f] = max(top * np.float32(SOUNDING), np.float32(1e-20))
    return power, floor


@njit(cache=True, nogil=True)
def _attacks(power: Turns, earlier: Turns, floor: NDArray[np.float32]) -> NDArray[np.bool_]:
    """The frames in which most of what sounds has risen."""
    frames, bins = power.shape
    attack = np.zeros(frames, np.bool_)
    for f in range(1, frames):
        now, before, least = power[f], earlier[f], floor[f]
        sounding = rising = 0
        for b in range(bins):
            sounds = now[b] > least
            sounding += sounds
            rising += sounds & (now[b] > np.float32(ATTACK_POWER) * before[b])
        attack[f] = rising > ATTACK_SHARE * sounding
    return attack


@njit(cache=True, nogil=True)
def _peaks(power: Turns, floor: NDArray[np.float32]) -> tuple[Places, Places, NDArray[np.int64]]:
    """Bins larger than two on each side, where the region of each ends, and how many a frame has."""
    frames, bins = power.shape
    peaks = np.empty((frames, bins // 3 + 2), np.int16)
    ends = np.empty((frames, bins // 3 + 2), np.int16)
    counts = np.zeros(frames, np.int64)
    padded = np.zeros(bins + 4, np.float32)
    for f in range(frames):
        padded[2:-2] = power[f]
        least = floor[f]
        count = 0
        for b in range(bins):
            p = padded[b + 2]
            highest = (p > least) & (p > padded[b + 1]) & (p >= padded[b + 3]) & (p > padded[b]) & (p >= padded[b + 4])
            peaks[f, count] = b
            count += highest
        for i in range(count - 1):
            ends[f, i] = (peaks[f, i] + peaks[f, i + 1] + 1) // 2
        ends[f, count - 1 if count else 0] = bins
        counts[f] = count
    return peaks, ends, counts


@njit(cache=True, nogil=True)
def _wrapped(angle: float) -> float:
    return angle - 2.0 * np.pi * np.floor(angle / (2.0 * np.pi) + 0.5)


@njit(cache=True, nogil=True)
def _angle(re: float, im: float) -> float:
    """The angle of a complex number to 2e-8.

    By the series 4.4.49 of M. Abramowitz and I. Stegun, "Handbook of Mathematical Functions": a third of the time of
    the library's, and a stretch asks for some ten thousand a second of music.
    """
    x, y = abs(re), abs(im)
    larger = max(x, y)
    if larger == 0.0:
        return 0.0
    z = min(x, y) / larger
    q = z * z
    series = 0.0429096138 + q * (-0.0161657367 + q * 0.0028662257)
    series = 0.1999355085 + q * (-0.1420889944 + q * (0.1065626393 + q * (-0.0752896400 + q * series)))
    angle = z * (1.0 + q * (-0.3333314528 + q * series))
    if y > x:
        angle = np.pi / 2 - angle
    if re < 0.0:
        angle = np.pi - angle
    return -angle if im < 0.0 else angle


@njit(cache=True, nogil=True)
def _rotor(angle: float) -> complex:
    """exp(i angle) for angles from -pi to pi, to 1e-8: Taylor's series of a quarter of the angle, squared twice."""
    x = 0.25 * angle
    q = x * x
    sine = x * (1.0 - q / 6.0 * (1.0 - q / 20.0 * (1.0 - q / 42.0 * (1.0 - q / 72.0))))
    cosine = 1.0 - q / 2.0 * (1.0 - q / 12.0 * (1.0 - q / 30.0 * (1.0 - q / 56.0 * (1.0 - q / 90.0))))
    half = complex(cosine * cosine - sine * sine, 2.0 * sine * cosine)
    return complex(half.real * half.real - half.imag * half.imag, 2.0 * half.real * half.imag)


@njit(cache=True, nogil=True)
def _extra(earlier: Spectra, later: Spectra, b: int, step: float, hop: int, frame: int) -> float:
    """How much further a bin turns in one hop of the output than in one step of the source, in radians."""
    if step == hop:
        return 0.0
    omega = 2.0 * np.pi * b / frame
    x, y = earlier[0, b], later[0, b]
    u, v = earlier[1, b], later[1, b]
    re = x.real * y.real + x.imag * y.imag + u.real * v.real + u.imag * v.imag
    im = x.real * y.imag - x.imag * y.real + u.real * v.imag - u.imag * v.real
    turned = _wrapped(_angle(re, im) - omega * step)
    return float(omega * (hop - step) + turned * (hop / step - 1.0))


@njit(cache=True, nogil=True)
def _backwards(block: _Block) -> Turns:
    """The rotation of each peak that leads to none at the last frame; shape (frames, most peaks)."""
    spectra, power, earlier, attack, peaks, ends, counts, steps, hop, frame = block
    frames, bins = power.shape
    wanted = np.full(peaks.shape, _FREE, np.float32)
    later = np.zeros(bins, np.float32)
    for f in range(frames - 2, -1, -1):
        now, then = power[f], power[f + 1]
        here, there = spectra[f], spectra[f + 1]
        for i in range(counts[f]):
            peak = peaks[f, i]
            lasts = max(then[max(0, peak - 1)], then[peak], then[min(bins - 1, peak + 1)])
            fresh = attack[f + 1] and then[peak] > ATTACK_POWER * earlier[f + 1, peak]
            if lasts > LASTING * now[peak] and not fresh and later[peak] < _FREE:
                extra = _extra(here, there, peak, steps[f + 1], hop, frame)
                wanted[f, i] = _wrapped(later[peak] - extra)
        begin = 0
        for i in range(counts[f]):
            for b in range(begin, ends[f, i]):
                later[b] = wanted[f, i]
            begin = ends[f, i]
        later[begin:] = _FREE
    return wanted


@njit(cache=True, nogil=True)
def _forwards(block: _Block, wanted: Turns, lower: Turns, lower_bins: int, finer: int) -> Turns:
    """Turn the frames, each peak led towards what is wanted of it; the rotations, shape (frames, bins)."""
    spectra, power, earlier, attack, peaks, ends, counts, steps, hop, frame = block
    frames, bins = power.shape
    turns = np.zeros((frames, bins), np.float32)
    miss = np.full(bins, _FREE, np.float32)
    next_miss = np.empty(bins, np.float32)
    rotors = np.ones((2, bins), np.complex64)
    for f in range(1, frames - 1):
        left = frames - f
        now, before = power[f], earlier[f]
        here, there = spectra[f - 1], spectra[f]
        turn_before, turn_now, rotor = turns[f - 1], turns[f], rotors[f % 2]
        begin = 0
        for i in range(counts[f]):
            peak, end = peaks[f, i], ends[f, i]
            missing = _FREE
            if peak < lower_bins:
                turn = float(lower[f, finer * peak])
            else:
                known = miss[peak]
                if attack[f] and now[peak] > ATTACK_POWER * before[peak]:
                    turn = 0.0
                    known = _FREE
                else:
                    turn = turn_before[peak] + _extra(here, there, peak, steps[f], hop, frame)
                if wanted[f, i] < _FREE:
                    missing = _wrapped(wanted[f, i] - turn)
                    if known < _FREE:
                        missing = known + _wrapped(missing - known)
                    turn += missing / left
                    missing -= missing / left
            turn = _wrapped(turn)
            turned = _rotor(turn)
            for b in range(begin, end):
                turn_now[b] = turn
                next_miss[b] = missing
                rotor[b] = turned
            begin = end
        for b in range(begin, bins):
            next_miss[b] = _FREE
            rotor[b] = 1.0
        _turn(here, rotors[(f - 1) % 2])
        miss, next_miss = next_miss, miss
    _turn(spectra[frames - 2], rotors[frames % 2])
    return turns


@njit(cache=True, nogil=True, fastmath=True)
def _turn(spectrum: Spectra, rotors: NDArray[np.complex64]) -> None:
    """Multiply each bin of both channels by its rotor, in place. Real and imaginary parts by hand: twice as fast."""
    turned = rotors.view(np.float32)
    for c in range(2):
        row = spectrum[c].view(np.float32)
        for b in range(len(rotors)):
            x, y = row[2 * b], row[2 * b + 1]
            r, i = turned[2 * b], turned[2 * b + 1]
            row[2 * b] = x * r - y * i
            row[2 * b + 1] = x * i + y * r
