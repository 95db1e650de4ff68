"""One control over the time of a transition.

A curve's values are positions within the control's range; for faders from 0 to 1. The gain of a fader position v is
sin(pi v / 2), so that two straight lines which cross are an equal-power crossfade: cos^2 + sin^2 = 1, which is right
for two different pieces of music, whose sum of powers should stay level.
"""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from pydantic import ConfigDict, Field, RootModel, model_validator

from fernbrook.core.track.grid import FloatArray

NEUTRAL = 1.0
"""Where a fader leaves the sound as it is."""
MIN_GAP = 1e-4
"""Points lie at least this far apart, so that no control jumps within a sample."""


Share = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]


class CurvePoint(NamedTuple):
    """A position at a place in the overlap: 0 is its start, 1 its end. A pair of numbers in JSON."""

    at: Share
    value: Share


Points = Annotated[tuple[CurvePoint, ...], Field(min_length=1, max_length=64)]


class Curve(RootModel[Points]):
    """Straight lines through points that rise in place; level before the first and after the last.

    In JSON a list of pairs, for a long mix holds thousands: ``[[0.0, 1.0], [1.0, 0.0]]``.
    """

    model_config = ConfigDict(frozen=True)

    @property
    def points(self) -> tuple[CurvePoint, ...]:
        """The points in order."""
        return self.root

    @model_validator(mode="after")
    def _rising(self) -> Curve:
        for earlier, later in pairwise(self.points):
            if later.at - earlier.at < MIN_GAP:
                raise ValueError(f"curve points must rise in place by at least {MIN_GAP:g} of the overlap")
        return self

    @classmethod
    def of(cls, *pairs: tuple[float, float]) -> Curve:
        """A curve from ``(at, value)`` pairs."""
        return cls(tuple(CurvePoint(at, value) for at, value in pairs))

    @classmethod
    def flat(cls, value: float = NEUTRAL) -> Curve:
        """A control that stays where it is."""
        return cls.of((0.0, value), (1.0, value))

    def stays_at(self, value: float) -> bool:
        """Whether the control is at one position all the way."""
        return all(p.value == value for p in self.points)

    def value_at(self, places: ArrayLike) -> FloatArray:
        """Positions at places in the overlap (0..1, held beyond); same shape.

        >>> Curve.of((0.0, 1.0), (0.5, 0.0)).value_at([0.25, 0.75]).tolist()
        [0.5, 0.0]
        """
        x = [p.at for p in self.points]
        y = [p.value for p in self.points]
        return np.asarray(np.interp(np.asarray(places, dtype=np.float64), x, y))

    def gain_at(self, places: ArrayLike) -> FloatArray:
        """Linear gains of a fader at places in the overlap, which rise; exactly 1 where it is neutral."""
        x = np.asarray(places, dtype=np.float64)
        level = self._level_between(float(x.flat[0]), float(x.flat[-1]))
        return gain_of(self.value_at(x)) if level is None else np.full(x.shape, gain_of(level))

    def _level_between(self, first: float, last: float) -> float | None:
        """The one value that the control has all the way between two places, or None where it moves."""
        before = [p.value for p in self.points if p.at <= first][-1:] or [self.points[0].value]
        inside = [p.value for p in self.points if first < p.at < last]
        after = [p.value for p in self.points if p.at >= last][:1] or [self.points[-1].value]
        values = {*before, *inside, *after}
        return values.pop() if len(values) == 1 else None


def gain_of(values: ArrayLike) -> FloatArray:
    """Linear gain of fader positions: sin(pi v / 2), with 0 and 1 exact.

    >>> gain_of([0.0, 0.5, 1.0]).round(4).tolist()
    [0.0, 0.7071, 1.0]
    """
    return np.asarray(np.sin(np.asarray(values, dtype=np.float64) * (np.pi / 2.0)))
