"""Listening with code: where something sounds, how loud a band is, whether anything clicks."""

from __future__ import annotations

import numpy as np
from scipy.signal import butter, sosfiltfilt

RATE = 44_100
BEFORE, LENGTH, REACH = 400, 2400, 700


def mono(sound: np.ndarray) -> np.ndarray:
    """The mean of both sides as float64."""
    return np.asarray(np.asarray(sound, dtype=np.float64).mean(axis=1))


def offset_ms(source: np.ndarray, source_s: float, heard: np.ndarray, heard_s: float) -> float:
    """How many ms after ``heard_s`` the attack sounds that lies at ``source_s`` in the source.

    The attack and its surroundings are looked for by cross-correlation, to a fraction of a sample.
    """
    at = round(source_s * RATE) - BEFORE
    attack = source[at : at + LENGTH]
    begin = round(heard_s * RATE) - BEFORE - REACH
    around = heard[begin : begin + LENGTH + 2 * REACH]
    energy = np.sqrt(np.convolve(around**2, np.ones(LENGTH), "valid")) + 1e-9
    match = np.correlate(around, attack, "valid") / energy
    best = int(np.argmax(match))
    if 0 < best < len(match) - 1:
        left, middle, right = match[best - 1 : best + 2]
        best = best + 0.5 * (left - right) / (left - 2 * middle + right)
    rounding = (round(heard_s * RATE) - heard_s * RATE) - (round(source_s * RATE) - source_s * RATE)
    return float((best - REACH + rounding) / RATE * 1000.0)


def level_db(sound: np.ndarray) -> float:
    """RMS level in dB full scale."""
    return float(10.0 * np.log10(np.mean(np.square(sound, dtype=np.float64)) + 1e-20))


def band(sound: np.ndarray, low: float, high: float) -> np.ndarray:
    """A band of a signal, without delay."""
    return np.asarray(sosfiltfilt(butter(4, [low, high], "bandpass", fs=RATE, output="sos"), sound, axis=0))


def pitch_hz(sound: np.ndarray) -> float:
    """The frequency that a short sound has most of."""
    heard = mono(sound)
    return float(np.argmax(np.abs(np.fft.rfft(heard, 8 * len(heard)))) / (8 * len(heard)) * RATE)


def click(sound: np.ndarray) -> np.ndarray:
    """How much each sample departs from what its neighbours foretell: large where the signal jumps."""
    return np.abs(np.diff(mono(sound), n=3))


def onsets_ms(sound: np.ndarray, times_s: np.ndarray) -> np.ndarray:
    """How many ms after each moment a hit begins to sound: where its envelope reaches a fifth of its height."""
    high = sosfiltfilt(butter(4, 1500, "highpass", fs=RATE, output="sos"), mono(sound))
    envelope = np.sqrt(np.convolve(high**2, np.ones(22) / 22, "same"))
    off = []
    for at in np.rint(np.asarray(times_s) * RATE).astype(int):
        piece = envelope[at - 700 : at + 700]
        top = int(np.argmax(piece))
        below = np.flatnonzero(piece[:top] < 0.2 * piece[top])
        off.append(((below[-1] if len(below) else 0) - 700) / RATE * 1000.0)
    return np.array(off)
