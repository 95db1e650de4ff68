"""From one place of a sound on to another, so that the join is not heard: by how much the second is moved, and how the
one goes over into the other.

The second place is moved by at most five milliseconds to where it is most like the first, as is done when sound is cut
in the time domain (S. Roucos, A. Wilgus: High quality time-scale modification for speech, ICASSP 1985). A sustained
chord goes on in phase; where nothing is alike, it stays where it was.
"""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import correlate

from fernbrook.audio.source import Sounding
from fernbrook.kept import KeptValues

LENGTH_S = 0.02
"""The one goes over into the other in so long."""
AHEAD_S = 0.003
"""And has done so by so long before the join, so that an attack on it is whole."""
COMPARED_S = 0.046
MOST_S = 0.005
LEAST_ALIKE = 0.5
WORTH = 0.05
"""By so much more must it be like the first somewhere else, or it is not moved."""

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


def compared(leaving: NDArray[np.float32], arriving: NDArray[np.float32]) -> Splice:
    """The splice of what leaves, shape (n, 2), onto what arrives, (n + 2m, 2), which can be moved by ±m samples."""
    one, other = (np.asarray(s, dtype=np.float64).mean(axis=1) for s in (leaving, arriving))
    most = (len(other) - len(one)) // 2
    energies = np.convolve(other**2, np.ones(len(one)), mode="valid")
    power = np.sqrt(np.maximum(energies * np.sum(one**2), 1e-20))
    alike = correlate(other, one, mode="valid") / power
    best = int(np.argmax(alike))
    if alike[best] < LEAST_ALIKE or alike[best] - alike[most] < WORTH:
        best = most
    return Splice(best - most, float(np.clip(alike[best], 0.0, 1.0)))


def splice(source: Sounding, leaves_at: int, arrives_at: int) -> Splice:
    """The splice of two places of a source, in samples; kept, for a mix is listened to again and again."""
    key = (source.identity, leaves_at, arrives_at)

    def found() -> Splice:
        count, most = round(COMPARED_S * source.rate), round(MOST_S * source.rate)
        leaving = source.read(leaves_at - count, count)
        return compared(leaving, source.read(arrives_at - count - most, count + 2 * most))

    return _kept.value(key, found)


_kept: KeptValues[tuple[Hashable, int, int], Splice] = KeptValues(20_000)
