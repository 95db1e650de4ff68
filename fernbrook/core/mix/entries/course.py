"""The tempo of an entry over its beats as played: where it leads, the tempo of the mix is this one."""

from __future__ import annotations

import math

from fernbrook.core.mix.entries.arrangement import CLOSE, Arrangement, Piece
from fernbrook.core.mix.entries.entry import Entry, Follows
from fernbrook.core.remembered import remembered
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import TrackFacts


def course_of(entry: Entry, track: TrackFacts) -> TempoMap:
    """The tempo of an entry: one, or that of what is heard of its track times one factor. Of an entry that goes by the
    mix it is the one that it would have by itself."""
    home = entry.home_bpm(track)
    if entry.goes_by(track) is not Follows.OWN:
        return _steady(home)
    return _own(Arrangement.of(entry, track), home / entry.own_bpm(track))


@remembered
def _steady(bpm: float) -> TempoMap:
    return TempoMap.steady(bpm)


@remembered
def _own(heard: Arrangement, factor: float) -> TempoMap:
    points: list[tuple[float, float]] = []
    for piece in heard.pieces:
        own = _piece_course(piece, factor)
        if points:
            points.append((piece.start, points[-1][1]))
        points += own
    return TempoMap.of(points)


def _piece_course(piece: Piece, factor: float) -> list[tuple[float, float]]:
    """The tempo over a piece, from its start to its end where it has any."""
    played = piece.played
    of_grid = [(played.of_grid(beat), bpm * played.count * factor) for beat, bpm in played.grid.course]
    whole = TempoMap.of(of_grid)
    inside = [(b, v) for b, v in of_grid if piece.start + CLOSE < b < piece.end - CLOSE]
    first = [] if math.isinf(piece.start) else [(piece.start, float(whole.bpm_at(piece.start)))]
    last = [] if math.isinf(piece.end) else [(piece.end, whole.bpm_before(piece.end))]
    return [*first, *inside, *last] or of_grid[:1]
