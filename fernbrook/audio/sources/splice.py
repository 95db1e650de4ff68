"""From one place of a sound on to another, so that the join is not heard: by how much the second is moved, and how the
one goes over into the other.

The second place is moved by at most five milliseconds to where it is most like the first, as is done when sound is cut
in the time domain (S. Roucos, A. Wilgus: High quality time-scale modification for speech, ICASSP 1985). Where a chord
goes on, what is most alike as a whole may put out a single note of it; so it counts as well how the note fares that
fares worst. Where nothing is alike, the place stays where it was.
"""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.fft import next_fast_len
from scipy.signal import correlate

from fernbrook.audio.sources.source import Sounding
from fernbrook.kept import KeptValues

LENGTH_S = 0.02
"""The one goes over into the other in so long."""
AHEAD_S = 0.003
"""And has done so by so long before the join, so that an attack on it is whole."""
COMPARED_S = 0.046
NOTES_S = 0.186
"""Notes that lie a third apart in the bass are told apart in so long."""
MOST_S = 0.005
LEAST_ALIKE = 0.5
WORTH = 0.05
"""By so much more must it be like the first somewhere else, or it is not moved."""
LEAST_COUNTS = 0.5
"""So much the note that fares worst counts against all of the sound."""
LOWEST_HZ, HIGHEST_HZ = 60.0, 5000.0
HEARD_DB, MOST_NOTES = -24.0, 16
"""A note that is softer than this against the loudest is covered by the others."""
HELD_DB = 12.0
"""A note goes on where it is as loud in both to within this."""
LEAST_OF_NOTES = 0.5
"""Where notes are a smaller share of the power than this, no phase of theirs counts."""

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Splice:
    """By how many samples of the source the second sound is read later, and how alike both are then, from 0 to 1."""

    lag: int
    alike: float


def shares(turn: Floats, alike: float) -> tuple[Floats, Floats]:
    """The gains of what leaves and of what arrives, where a turn of 0 to 1 has gone over; same shapes.

    With gains a and b of sounds whose correlation is r, the power is ``a² + b² + 2rab`` of that of one; both are
    divided by its root. So it is a fade of equal power for what has nothing in common, of equal gain for what is
    alike.
    """
    angle = np.clip(turn, 0.0, 1.0) * (np.pi / 2.0)
    out, into = np.cos(angle), np.sin(angle)
    level = np.sqrt(1.0 + 2.0 * alike * out * into)
    return out / level, into / level


def compared(leaving: NDArray[np.float32], arriving: NDArray[np.float32], rate: int) -> Splice:
    """The splice of what leaves, shape (n, 2), onto what arrives, (n + 2m, 2), which can be moved by ±m samples."""
    one, other = (np.asarray(s, dtype=np.float64).mean(axis=1) for s in (leaving, arriving))
    most = (len(other) - len(one)) // 2
    notes = _worst_note(one, other[most : most + len(one)], most, rate)
    count = min(len(one), round(COMPARED_S * rate))
    one, other = one[-count:], other[-count - 2 * most :]
    energies = np.convolve(other**2, np.ones(count), mode="valid")
    power = np.sqrt(np.maximum(energies * np.sum(one**2), 1e-20))
    alike = correlate(other, one, mode="valid") / power
    score = alike if notes is None else alike + LEAST_COUNTS * notes
    best = int(np.argmax(score))
    if (notes is None and alike[best] < LEAST_ALIKE) or score[best] - score[most] < WORTH:
        best = most
    return Splice(best - most, float(np.clip(alike[best], 0.0, 1.0)))


def _worst_note(one: Floats, other: Floats, most: int, rate: int) -> Floats | None:
    """How much the note that fares worst is in phase with itself, from -1 to 1, where the second sound is moved by each
    of ±most samples; shape (2 most + 1,). Notes are peaks of the spectrum in both; None where they are few."""
    window = np.hanning(len(one))
    count = next_fast_len(len(one), real=True)
    spectra = [np.fft.rfft(sound * window, count) for sound in (one, other)]
    sizes = [np.abs(x) for x in spectra]
    softer, louder = np.minimum(*sizes), np.maximum(*sizes)
    frequencies = np.fft.rfftfreq(count, 1.0 / rate)
    is_peak = np.zeros(len(softer), dtype=bool)
    is_peak[1:-1] = (softer[1:-1] > softer[:-2]) & (softer[1:-1] >= softer[2:])
    is_peak &= (frequencies >= LOWEST_HZ) & (frequencies <= HIGHEST_HZ) & (louder < softer * 10.0 ** (HELD_DB / 20.0))
    places = np.flatnonzero(is_peak)
    places = places[np.argsort(-softer[places])][:MOST_NOTES]
    if not len(places):
        return None
    places = places[softer[places] > softer[places[0]] * 10.0 ** (HEARD_DB / 20.0)]
    of_notes = np.sum(softer[places[:, None] + np.arange(-1, 2)] ** 2)
    if of_notes < LEAST_OF_NOTES * np.sum(louder**2):
        return None
    turned = np.angle(spectra[1][places] * np.conj(spectra[0][places]))
    moved = 2.0 * np.pi * frequencies[places, None] * np.arange(-most, most + 1) / rate
    return np.asarray(np.cos(turned[:, None] + moved).min(axis=0))


def splice(source: Sounding, leaves_at: int, arrives_at: int) -> Splice:
    """The splice of two places of a source, in samples; kept, for a mix is listened to again and again."""
    key = (source.identity, leaves_at, arrives_at)

    def found() -> Splice:
        count, most = round(NOTES_S * source.rate), round(MOST_S * source.rate)
        leaving = source.read(leaves_at - count, count)
        return compared(leaving, source.read(arrives_at - count - most, count + 2 * most), source.rate)

    return _kept.value(key, found)


_kept: KeptValues[tuple[Hashable, int, int], Splice] = KeptValues(20_000)
