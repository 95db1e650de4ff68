"""The tempo and phase of steady material, from its onset strength.

Candidates come from the autocorrelation (as in D. Ellis, "Beat tracking by dynamic programming", JNMR 36(1), 2007, with
his log-normal weighting of tempi); the winner is then refined on the whole track at once: the frequency at which the
onsets' Fourier sums at the beat and its subdivisions are largest explains the end of the track as well as its start.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.onsets import Onsets

MIN_BPM, MAX_BPM = 60.0, 190.0
CENTRE_BPM = 122.0
OCTAVES_WIDE = 0.9
HARMONICS = (1, 2, 4)
EIGHTHS_PREVAIL = 1.2
WHOLE_TOLERANCE_S = 0.006
"""A whole or tenth tempo is preferred where it parts from the measured one by less than this at the track's ends."""


@dataclass(frozen=True)
class Pulse:
    """A steady beat: the time of one beat, and the share (0..1) of the onsets that fall on its sixteenths."""

    bpm: float
    phase_s: float
    clarity: float


def find_pulse(onsets: Onsets) -> Pulse | None:
    """The steady beat that explains the onsets best, or None where there is hardly any."""
    raw = onsets.full
    if len(raw) < 6 * onsets.rate or float(raw.max(initial=0.0)) <= 0.0:
        return None
    strength = _flattened(raw, onsets.rate)
    rough = _rough_tempo(strength, onsets.rate)
    bpm = _octave(strength, onsets.rate, _refined(strength, onsets.rate, rough))
    bpm = _preferring_whole(bpm, len(strength) / onsets.rate)
    phase = _phase(onsets, bpm)
    return Pulse(bpm, phase, _clarity(strength, onsets.rate, bpm, phase))


def _flattened(strength: NDArray[np.float32], rate: float) -> NDArray[np.float64]:
    """Onsets with loud and quiet parts evened out, peaks above their surroundings only."""
    width = round(rate * 0.4)
    kernel = np.hanning(width * 2 + 1)
    kernel /= kernel.sum()
    around = np.convolve(strength, kernel, mode="same")
    return np.asarray(np.sqrt(np.maximum(strength - around, 0.0) / (around + 0.05 * strength.mean())))


def _rough_tempo(strength: NDArray[np.float64], rate: float) -> float:
    """The lag whose multiples the autocorrelation supports best, under the weighting of tempi."""
    n = 1 << int(np.ceil(np.log2(2 * len(strength))))
    spectrum = np.fft.rfft(strength - strength.mean(), n)
    correlation = np.fft.irfft(np.abs(spectrum) ** 2, n)[: len(strength)]
    correlation /= correlation[0]
    bpms = np.exp(np.arange(np.log(MIN_BPM), np.log(MAX_BPM), 0.002))
    lags = 60.0 / bpms * rate
    places = np.arange(len(correlation))
    support = sum(
        np.interp(lags * k, places, correlation, right=0.0) / w for k, w in ((1, 1), (2, 1.5), (4, 2), (8, 4))
    )
    weight = np.exp(-0.5 * (np.log2(bpms / CENTRE_BPM) / OCTAVES_WIDE) ** 2)
    return float(bpms[np.argmax(np.maximum(support, 0.0) * weight)])


def _refined(strength: NDArray[np.float64], rate: float, rough: float) -> float:
    """Tempo near the rough one at which the Fourier sums are largest, to about a thousandth of a BPM."""
    times = np.arange(len(strength)) / rate
    hit = strength > 0
    times, weight = times[hit], strength[hit]
    span, step = 0.02 * rough, 60.0 / (times[-1] - times[0]) / 8
    bpm = rough
    while step > 0.0002:
        tried = np.arange(bpm - span, bpm + span + step / 2, step)
        scores = [_comb_energy(times, weight, b) for b in tried]
        best = int(np.argmax(scores))
        bpm = float(tried[best])
        span, step = 2 * step, step / 4
    return bpm


def _octave(strength: NDArray[np.float64], rate: float, bpm: float) -> float:
    """The tempo, or its double where the smallest regular step is an eighth of the beat rather than a quarter.

    Music divides its beat in four; where eighths of a supposed beat are the stronger pulse, that beat is two.
    """
    times = np.arange(len(strength)) / rate

    def at(steps: int) -> float:
        return float(np.abs(strength @ np.exp(-2j * np.pi * bpm / 60.0 * steps * times)))

    return bpm * 2 if bpm * 2 <= MAX_BPM and at(8) > EIGHTHS_PREVAIL * at(4) else bpm


def _comb_energy(times: NDArray[np.float64], weight: NDArray[np.float64], bpm: float) -> float:
    """Sum of magnitudes of the onsets' Fourier sums at the beat, the half and the quarter."""
    base = np.exp(-2j * np.pi * bpm / 60.0 * times)
    total, power, at = 0.0, base, 1
    for harmonic in HARMONICS:
        while at < harmonic:
            power, at = power * power, at * 2
        total += float(np.abs(weight @ power))
    return total


def _preferring_whole(bpm: float, length_s: float) -> float:
    """The whole, half or tenth tempo that explains the track just as well, if there is one."""
    for parts in (1, 2, 10):
        near = round(bpm * parts) / parts
        drift = abs(bpm / near - 1.0) * length_s / 2
        if drift < WHOLE_TOLERANCE_S * (1.0 if parts < 10 else 0.5):
            return near
    return bpm


def _phase(onsets: Onsets, bpm: float) -> float:
    """Time of one beat: where the onsets, folded at the beat, begin most strongly, low sounds counting most.

    Folding puts all beats of the track on each other; the place is then refined by a parabola through the peak.
    """
    rate = onsets.rate
    period = 60.0 / bpm
    low, mid, high = (band / max(float(band.mean()), 1e-9) for band in onsets.bands)
    strength = 1.5 * low + mid + 0.7 * high
    bins = round(period * rate)
    place = (np.arange(len(strength)) / rate / period) % 1.0 * bins
    folded = np.zeros(bins)
    base = np.floor(place).astype(int)
    part = place - base
    np.add.at(folded, base % bins, strength * (1 - part))
    np.add.at(folded, (base + 1) % bins, strength * part)
    smooth = np.convolve(np.concatenate((folded[-3:], folded, folded[:3])), [0.25, 0.5, 0.25], mode="same")[3:-3]
    best = int(np.argmax(smooth))
    left, middle, right = smooth[best - 1], smooth[best], smooth[(best + 1) % bins]
    bend = left - 2 * middle + right
    shift = 0.5 * (left - right) / bend if bend < 0 else 0.0
    return float((best + shift) / bins * period)


def _clarity(strength: NDArray[np.float64], rate: float, bpm: float, phase_s: float) -> float:
    """Share of the onset strength within 20 ms of a sixteenth of the beat, beyond what chance would put there."""
    sixteenth = 60.0 / bpm / 4
    off = (np.arange(len(strength)) / rate - phase_s + sixteenth / 2) % sixteenth - sixteenth / 2
    near = np.abs(off) < 0.020
    chance = float(near.mean())
    share = float(strength[near].sum() / max(float(strength.sum()), 1e-9))
    return float(np.clip((share - chance) / (1.0 - chance), 0.0, 1.0))
