"""A ride: fader moves made while listening, as a curve of few points.

Points are left out by the method of Douglas and Peucker ("Algorithms for the reduction of the number of points required
to represent a digitized line", Cartographica 10(2), 1973), with the distance measured in what is heard: decibels for a
fader, parts of an octave for a filter.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fernbrook.core.mix.curves import (
    MIN_GAP,
    MOST_POINTS,
    ControlSpec,
    Curve,
    CurvePoint,
    Law,
    heard_db,
)
from fernbrook.core.mix.transitions.transition import Side
from fernbrook.core.track import FloatArray

WITHIN_DB = 0.4
"""How far from the moves the curve may be: what is moved and what is kept differ by less than half a dB."""
BACK_S = 0.01
"""Where a ride ends within an overlap, the curve is back in so many seconds."""


def ridden(curve: Curve, moves: Sequence[tuple[float, float]], spec: ControlSpec, side: Side, length_s: float) -> Curve:
    """A curve over which a control was moved by hand.

    Parameters
    ----------
    curve : what was there
    moves : places in the overlap (0..1, rising) and the positions at them; between them the control went straight
    spec : the control
    side : whose curve it is: the outgoing starts neutral, the incoming ends so
    length_s : length of the overlap in seconds

    Returns
    -------
    the curve with what lies between the first and the last move replaced; as it was where these lie at the very edge
    that must be neutral
    """
    back = max(BACK_S / max(length_s, BACK_S), 2 * MIN_GAP)
    places, positions = (np.array(column, dtype=np.float64) for column in zip(*moves, strict=True))
    places, positions = _within_edges(places, np.clip(positions, spec.low, spec.high), side, min(back, 0.25))
    if not len(places):
        return curve
    kept = _thinned(places, heard_db(positions, spec.law), positions, spec.law)
    new = [CurvePoint(float(places[i]), float(positions[i])) for i in kept]
    first, last = new[0].at, new[-1].at
    # Points that lie too close to where the ride leaves the curve, or comes back to it, give way to those.
    before = [p for p in curve.points if p.at <= first - back - MIN_GAP]
    after = [p for p in curve.points if p.at >= last + back + MIN_GAP]
    if first > back:
        before.append(CurvePoint(first - back, float(curve.value_at(first - back))))
    if last < 1.0 - back:
        after.insert(0, CurvePoint(last + back, float(curve.value_at(last + back))))
    return Curve(tuple(_held([*before, *new, *after], spec, side)[:MOST_POINTS]))


def _within_edges(places: FloatArray, positions: FloatArray, side: Side, edge: float) -> tuple[FloatArray, FloatArray]:
    """Moves that are a little apart, and away from the edge at which the control must be neutral."""
    low, high = (edge, 1.0) if side is Side.OUTGOING else (0.0, 1.0 - edge)
    inside = (places > low) & (places < high)
    borders = [b for b in (low, high) if places[0] <= b <= places[-1]]
    there = np.interp(borders, places, positions)
    order = np.argsort(np.concatenate((places[inside], borders)), kind="stable")
    positions = np.concatenate((positions[inside], there))[order]
    places = np.concatenate((places[inside], borders))[order]
    apart: list[int] = []
    for i, place in enumerate(places):
        if not apart or place - places[apart[-1]] >= MIN_GAP:
            apart.append(i)
    return places[apart], positions[apart]


def _thinned(places: FloatArray, levels: FloatArray, positions: FloatArray, law: Law) -> list[int]:
    """Which moves are needed, so that straight lines between them are within ``WITHIN_DB`` of all."""
    kept = {0, len(places) - 1}
    spans = [(0, len(places) - 1)]
    while spans:
        a, b = spans.pop()
        if b - a < 2:
            continue
        between = np.interp(places[a + 1 : b], places[[a, b]], positions[[a, b]])
        off = np.abs(heard_db(between, law) - levels[a + 1 : b])
        worst = int(np.argmax(off))
        if off[worst] > WITHIN_DB:
            middle = a + 1 + worst
            kept.add(middle)
            spans += [(a, middle), (middle, b)]
    return sorted(kept)


def _held(points: list[CurvePoint], spec: ControlSpec, side: Side) -> list[CurvePoint]:
    """The points with the end neutral at which nothing may jump."""
    if side is Side.OUTGOING:
        return [CurvePoint(0.0, spec.neutral), *(p for p in points if p.at >= MIN_GAP)]
    return [*(p for p in points if p.at <= 1.0 - MIN_GAP), CurvePoint(1.0, spec.neutral)]
