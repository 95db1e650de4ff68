"""Shapes that a person has saved: curves that fit any length.

A curve's points are kept by what they are near: so many beats from the start of the overlap, from its middle phrase
line or from its end, or else a share of the way between two of these lines. So a bass that falls in the last half beat
before the phrase line does so in an overlap of any length.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from fernbrook.core.mix.curves import MIN_GAP, MOST_POINTS, Control, Curve, CurvePoint, Onward, Share
from fernbrook.core.mix.transitions.shape import Manner, Shape, manner_of, middle_phrase
from fernbrook.core.mix.transitions.transition import Kind, Side, SideCurves, Transition
from fernbrook.core.value import MOST_BEATS, Value

NEAR_BEATS = 2.0
"""A point that lies within so many beats of a line belongs to it."""


class Line(StrEnum):
    """What a point of a saved curve is placed by."""

    START = "start"
    MIDDLE = "middle"
    END = "end"
    FIRST_HALF = "first_half"
    SECOND_HALF = "second_half"


class SavedPoint(Value):
    """A position ``by`` beats after a line, or by a share of the way through the overlap before or after its middle."""

    line: Line
    by: float = Field(ge=-NEAR_BEATS, le=NEAR_BEATS)
    value: Share
    onward: Onward = Onward.STRAIGHT


SavedCurve = Annotated[tuple[SavedPoint, ...], Field(min_length=1, max_length=MOST_POINTS)]


class SavedLane(Value):
    """A curve of a saved shape, and whose it is."""

    side: Side
    control: Control
    points: SavedCurve


class SavedShape(Value):
    """A shape under a name. ``length`` is that of the overlap, or of a cut's lead, that it was made in, in beats.

    ``manner`` holds what does not depend on the length; its curves are in ``lanes``.
    """

    name: str = Field(min_length=1, max_length=60)
    length: float = Field(ge=0.0, le=MOST_BEATS)
    manner: Manner
    lanes: tuple[SavedLane, ...] = ()

    @classmethod
    def of(cls, name: str, transition: Transition, bar: float) -> SavedShape:
        """The shape of a transition in bars of ``bar`` beats.

        A fade has no phrases: its curves are kept by their shares.
        """
        beats = _length(transition)
        return cls(
            name=name,
            length=beats,
            manner=manner_of(transition),
            lanes=tuple(
                SavedLane(side=side, control=control, points=_saved(curve, beats, bar))
                for side in Side
                for control, curve in transition.curves(side).root.items()
            ),
        )

    def fitted(self, beats: float, bar: float) -> Shape:
        """The shape for an overlap of ``beats`` beats; that of a cut or a fade brings its own length."""
        length = beats if self.manner.kind is Kind.BLEND else self.length
        curves = {
            side.value: SideCurves(
                {lane.control: _restored(lane.points, length, bar) for lane in self.lanes if lane.side is side}
            )
            for side in Side
        }
        return Shape(**dict(self.manner), **curves)


def _length(transition: Transition) -> float:
    return transition.beats if transition.kind is Kind.BLEND else transition.lead


def _saved(curve: Curve, beats: float, bar: float) -> SavedCurve:
    middle = middle_phrase(beats, bar)
    lines = {Line.START: 0.0, Line.MIDDLE: middle, Line.END: beats}
    middle_share = _middle_share(beats, bar)

    def saved(point: CurvePoint) -> SavedPoint:
        beat = point.at * beats
        near = min(lines, key=lambda line: abs(beat - lines[line]))
        if beats > 0 and abs(beat - lines[near]) <= min(NEAR_BEATS, beats / 8):
            line, by = near, beat - lines[near]
        elif point.at < middle_share:
            line, by = Line.FIRST_HALF, point.at / middle_share
        else:
            line, by = Line.SECOND_HALF, (point.at - middle_share) / (1.0 - middle_share)
        return SavedPoint(line=line, by=by, value=point.value, onward=point.onward)

    return tuple(saved(point) for point in curve.points)


def _restored(points: SavedCurve, beats: float, bar: float) -> Curve:
    """The curve in an overlap of another length; points that would come to lie on each other are moved on a little."""
    middle = _middle_share(beats, bar)
    unit = 1.0 / beats if beats > 0 else 0.0
    places = {Line.START: 0.0, Line.MIDDLE: middle, Line.END: 1.0}
    placed: list[float] = []
    for point in points:
        if point.line is Line.FIRST_HALF:
            at = point.by * middle
        elif point.line is Line.SECOND_HALF:
            at = middle + point.by * (1.0 - middle)
        else:
            at = places[point.line] + point.by * unit
        floor = placed[-1] + 2 * MIN_GAP if placed else 0.0
        placed.append(max(min(at, 1.0), floor))
    for i in range(len(placed) - 1, -1, -1):
        ceiling = placed[i + 1] - 2 * MIN_GAP if i + 1 < len(placed) else 1.0
        placed[i] = min(placed[i], ceiling)
    return Curve(tuple(CurvePoint(at, p.value, p.onward) for at, p in zip(placed, points, strict=True)))


def _middle_share(beats: float, bar: float) -> float:
    return middle_phrase(beats, bar) / beats if beats > 0 else 0.5
