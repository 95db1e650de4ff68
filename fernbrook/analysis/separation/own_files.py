"""Stems that somebody has as files: laid on the track to the sample, and checked to be of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy import fft

from fernbrook.analysis.separation.bands import Sound
from fernbrook.core.track import Stem

MOST_S = 2.0
"""By so much may a stem begin earlier or later than the track."""
LOOKED_AT_S = 60.0
LEAST_ALIKE = 0.1
"""A stem that has less in common with the track than this is not of it."""
SUMS_UP_DB = -20.0
"""Four stems add up to the track when what is left of it is below this."""
SILENT = 1e-9


class NotItsStemsError(ValueError):
    """A file is no stem of the track; the message says which, and why."""


@dataclass(frozen=True)
class Laid:
    """Stems of the length of the track, and how far what they leave of it lies below it, in dB, where there are all."""

    stems: dict[Stem, Sound]
    residual_db: float | None


def laid(track: Sound, stems: Mapping[Stem, Sound], rate: int) -> Laid:
    """Lay stems on a track; shape (n, 2) each, all moved by the same number of samples.

    Raises
    ------
    NotItsStemsError
        When one has nothing in common with the track, or all four do not add up to it.
    """
    longest = max(len(s) for s in stems.values())
    whole = np.zeros((longest, 2), np.float32)
    for stem in stems.values():
        whole[: len(stem)] += stem
    lag = _lag(track, whole, rate)
    found = {name: _moved(sound, lag, len(track)) for name, sound in stems.items()}
    for name, sound in found.items():
        power = float(np.sum(sound.astype(np.float64) ** 2))
        both = float(np.sum(sound.astype(np.float64) * track))
        total = float(np.sum(track.astype(np.float64) ** 2))
        if power > SILENT and both / np.sqrt(power * total) < LEAST_ALIKE and both / power < LEAST_ALIKE:
            raise NotItsStemsError(f"the {name.value} have nothing in common with the track")
    if set(found) != set(Stem):
        return Laid(found, None)
    left = track - sum(found.values())
    residual = 10.0 * np.log10(max(float(np.mean(left**2)), SILENT) / max(float(np.mean(track**2)), SILENT))
    if residual > SUMS_UP_DB:
        raise NotItsStemsError(f"together they are not the track: what is left of it is only {-residual:.0f} dB softer")
    return Laid(found, residual)


def _lag(track: Sound, whole: Sound, rate: int) -> int:
    """By how many samples the stems begin later than they lie in the track; from the loudest minute."""
    n = min(len(track), len(whole), round(LOOKED_AT_S * rate))
    power = np.convolve((track**2).sum(axis=1)[:: rate // 10], np.ones(max(1, n * 10 // rate)), mode="valid")
    begin = min(int(np.argmax(power)) * (rate // 10), max(0, min(len(track), len(whole)) - n))
    one, other = (s[begin : begin + n].mean(axis=1) for s in (track, whole))
    size = fft.next_fast_len(2 * n, real=True)
    alike = fft.irfft(np.conj(fft.rfft(one, size)) * fft.rfft(other, size), size)
    most = min(round(MOST_S * rate), n - 1)
    lags = np.concatenate((np.arange(most + 1), np.arange(-most, 0)))
    return int(lags[np.argmax(alike[lags])])


def _moved(sound: Sound, lag: int, length: int) -> Sound:
    """A sound that begins ``lag`` samples later, laid where it belongs; of a given length."""
    out = np.zeros((length, 2), np.float32)
    begin = max(lag, 0)
    piece = sound[begin : begin + length - max(-lag, 0)]
    out[max(-lag, 0) : max(-lag, 0) + len(piece)] = piece
    return out
