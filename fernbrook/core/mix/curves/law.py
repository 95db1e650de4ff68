"""What the position of a control means: its law.

A fader's gain at position v is sin(pi v / 2), so that two straight lines which cross are an equal-power crossfade:
cos^2 + sin^2 = 1, which is right for two different pieces of music, whose sum of powers should stay level. A linear
fader's gain is its position.

A filter is open in the middle. Below, a low-pass comes down from the top of hearing; above, a high-pass comes up from
its bottom; both by the same number of octaves for each step of the way.

An edge is a frequency below which something is done to the sound: at 0 nothing is, from there it rises by octaves.
"""

from __future__ import annotations

from enum import StrEnum

import numpy as np
from numpy.typing import ArrayLike

from fernbrook.core.track import FloatArray

MIDDLE = 0.5
"""Where a filter leaves the sound as it is."""
LOW_PASS_HZ = (80.0, 20_000.0)
"""What a low-pass is swept between: at position 0, and just below the middle."""
HIGH_PASS_HZ = (30.0, 10_000.0)
"""What a high-pass is swept between: just above the middle, and at position 1."""
EDGE_HZ = (40.0, 10_240.0)
"""What an edge is moved between: just above position 0, and at 1; an octave is an eighth of the way."""
OPENING = 0.02
"""How far from its neutral position a filter is all in the way; nearer it is mixed in, so nothing clicks."""
FLOOR_DB = -48.0
"""Below this, differences are not heard beside music."""
DB_AN_OCTAVE = 6.0
"""A frequency that moves by an octave counts as much as so many dB."""


class Law(StrEnum):
    """What a position means: a fader of even power, a linear one, a filter swept from its middle both ways, an edge."""

    FADER = "fader"
    LINEAR = "linear"
    FILTER = "filter"
    EDGE = "edge"


def gain_of(values: ArrayLike, law: Law = Law.FADER) -> FloatArray:
    """Linear gain of the positions of a fader, with 0 and 1 exact; same shape.

    >>> gain_of([0.0, 0.5, 1.0]).round(4).tolist(), gain_of([0.5], Law.LINEAR).tolist()
    ([0.0, 0.7071, 1.0], [0.5])
    """
    positions = np.asarray(values, dtype=np.float64)
    return positions if law is Law.LINEAR else np.asarray(np.sin(positions * (np.pi / 2.0)))


def low_pass_hz(positions: ArrayLike) -> FloatArray:
    """The cut-off of the low-pass at positions of a filter; same shape. From the middle up it is at its top.

    >>> low_pass_hz([0.0, 0.25, 0.5, 1.0]).round().tolist()
    [80.0, 1265.0, 20000.0, 20000.0]
    """
    return _swept(LOW_PASS_HZ, np.minimum(np.asarray(positions, dtype=np.float64) / MIDDLE, 1.0))


def high_pass_hz(positions: ArrayLike) -> FloatArray:
    """The cut-off of the high-pass at positions of a filter; same shape. Up to the middle it is at its bottom.

    >>> high_pass_hz([0.0, 0.5, 0.75, 1.0]).round().tolist()
    [30.0, 30.0, 548.0, 10000.0]
    """
    return _swept(HIGH_PASS_HZ, np.maximum(np.asarray(positions, dtype=np.float64) / MIDDLE - 1.0, 0.0))


def edge_hz(positions: ArrayLike) -> FloatArray:
    """The frequency of an edge at its positions; same shape.

    >>> edge_hz([0.0, 0.25, 1.0]).round().tolist()
    [40.0, 160.0, 10240.0]
    """
    return _swept(EDGE_HZ, np.asarray(positions, dtype=np.float64))


def _swept(between: tuple[float, float], share: FloatArray) -> FloatArray:
    low, high = between
    return np.asarray(low * (high / low) ** share)


def turned_share(positions: ArrayLike, neutral: float) -> FloatArray:
    """How much of the sound goes through what is turned away from its neutral position: none there, all from
    ``OPENING`` on; same shape."""
    away = np.abs(np.asarray(positions, dtype=np.float64) - neutral) / OPENING
    return np.asarray(np.minimum(away, 1.0))


def heard_db(positions: ArrayLike, law: Law) -> FloatArray:
    """Positions in what is heard of them: dB of a fader, and as much of a frequency as its octaves are worth; same
    shape."""
    if law is Law.FILTER:
        return np.asarray(DB_AN_OCTAVE * (np.log2(low_pass_hz(positions)) + np.log2(high_pass_hz(positions))))
    if law is Law.EDGE:
        return np.asarray(DB_AN_OCTAVE * np.log2(edge_hz(positions)))
    return np.asarray(np.maximum(20.0 * np.log10(np.maximum(gain_of(positions, law), 1e-9)), FLOOR_DB))
