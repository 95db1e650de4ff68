"""What the position of a control means: its law.

A fader's gain at position v is sin(pi v / 2), so that two straight lines which cross are an equal-power crossfade:
cos^2 + sin^2 = 1, which is right for two different pieces of music, whose sum of powers should stay level. A linear
fader's gain is its position.

A filter is open in the middle. Below, a low-pass comes down from the top of hearing; above, a high-pass comes up from
its bottom; both by the same number of octaves for each step of the way.
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
OPENING = 0.02
"""How far from the middle a filter is wholly in the way of the sound; nearer it is mixed in, so that nothing clicks."""


class Law(StrEnum):
    """What a position means: a fader of even power, a linear one, a filter swept from its middle both ways."""

    FADER = "fader"
    LINEAR = "linear"
    FILTER = "filter"


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


def _swept(between: tuple[float, float], share: FloatArray) -> FloatArray:
    low, high = between
    return np.asarray(low * (high / low) ** share)


def filtered_share(positions: ArrayLike) -> FloatArray:
    """How much of the sound goes through the filter at its positions: 0 in the middle, 1 from ``OPENING`` on."""
    away = np.abs(np.asarray(positions, dtype=np.float64) - MIDDLE) / OPENING
    return np.asarray(np.minimum(away, 1.0))
