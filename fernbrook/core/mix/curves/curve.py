"""One control over the time of a transition.

A curve's values are positions within the control's range, from 0 to 1; what a position means is the control's law.
"""

from __future__ import annotations

from enum import StrEnum
from itertools import pairwise
from typing import Annotated, NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from pydantic import ConfigDict, Field, RootModel, model_validator

from fernbrook.core.track import FloatArray

NEUTRAL = 1.0
"""Where a fader leaves the sound as it is."""
MIN_GAP = 1e-4
"""Points lie at least this far apart, so that no control jumps within a sample."""
MOST_POINTS = 256


Share = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]


class Onward(StrEnum):
    """How a curve goes on from a point to the next: in a straight line, in an S, or it stays and then steps."""

    STRAIGHT = "straight"
    SMOOTH = "smooth"
    STEP = "step"


class CurvePoint(NamedTuple):
    """A position at a place in the overlap: 0 is its start, 1 its end. Two numbers in JSON, and how it goes on."""

    at: Share
    value: Share
    onward: Onward = Onward.STRAIGHT


Points = Annotated[tuple[CurvePoint, ...], Field(min_length=1, max_length=MOST_POINTS)]


class Curve(RootModel[Points]):
    """Lines through points that rise in place; level before the first and after the last.

    In JSON a list of lists, for a long mix holds thousands: ``[[0.0, 1.0, "smooth"], [1.0, 0.0]]``.
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
    def of(cls, *points: tuple[float, float] | tuple[float, float, Onward]) -> Curve:
        """A curve from ``(at, value)``, or ``(at, value, onward)``."""
        return cls(tuple(CurvePoint(*point) for point in points))

    @classmethod
    def flat(cls, value: float = NEUTRAL) -> Curve:
        """A control that stays where it is."""
        return cls.of((0.0, value), (1.0, value))

    def stays_at(self, value: float) -> bool:
        """Whether the control is at one position all the way."""
        return all(p.value == value for p in self.points)

    def value_at(self, places: ArrayLike, step: float = MIN_GAP) -> FloatArray:
        """Positions at places in the overlap (0..1, held beyond); same shape.

        A smooth stretch is 3 t^2 - 2 t^3 of the way. One that steps does so over the last ``step`` of the overlap
        before the next point, so that no control jumps within a sample.

        >>> Curve.of((0.0, 1.0), (0.5, 0.0)).value_at([0.25, 0.75]).tolist()
        [0.5, 0.0]
        >>> Curve.of((0.0, 1.0, Onward.SMOOTH), (1.0, 0.0)).value_at([0.25, 0.5]).tolist()
        [0.84375, 0.5]
        >>> Curve.of((0.0, 1.0, Onward.STEP), (1.0, 0.0)).value_at([0.9, 1.0]).tolist()
        [1.0, 0.0]
        """
        at = np.asarray(places, dtype=np.float64)
        straight = np.asarray(np.interp(at, [p.at for p in self.points], [p.value for p in self.points]))
        if not at.size:
            return straight
        first, last = at.min(), at.max()
        for here, there in pairwise(self.points):
            # Of many points few lie in the span that is asked for.
            if here.onward is Onward.STRAIGHT or there.at <= first or here.at > last:
                continue
            within = (here.at <= at) & (at < there.at)
            t = (at[within] - here.at) / (there.at - here.at)
            way = _in_an_s(t) if here.onward is Onward.SMOOTH else _late(t, step / (there.at - here.at))
            straight[within] = here.value + way * (there.value - here.value)
        return straight

    def level_between(self, first: float, last: float) -> float | None:
        """The one value that the control has all the way between two places, or None where it moves."""
        before = [p.value for p in self.points if p.at <= first][-1:] or [self.points[0].value]
        inside = [p.value for p in self.points if first < p.at < last]
        after = [p.value for p in self.points if p.at >= last][:1] or [self.points[-1].value]
        values = {*before, *inside, *after}
        return values.pop() if len(values) == 1 else None


def _in_an_s(t: FloatArray) -> FloatArray:
    """How much of a way is done at its shares ``t``, in an S."""
    return t * t * (3.0 - 2.0 * t)


def _late(t: FloatArray, step: float) -> FloatArray:
    """How much of a way is done at its shares ``t``, all of it in the last ``step`` of it."""
    return np.maximum((t - 1.0) / min(step, 1.0) + 1.0, 0.0)
