"""What of a track is heard in an entry, and in which order: the map between its beats as played and those of its grid.

An entry without edits plays its track as recorded: one piece. Edits cut it into pieces, each a span of the track that
is read forwards; between them the music goes on with the next piece on the very beat. Within a piece the map is a line,
so it is exact and can be inverted on whatever sounds; a place of the track that is left out has no place in the entry,
and one that is repeated has several.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from fernbrook.core.mix.entries.entry import Entry
from fernbrook.core.mix.entries.played import Played
from fernbrook.core.remembered import remembered
from fernbrook.core.track import BarLines, DropOut, Edit, Repeat, Section, Skip, Stem, Swap, TrackFacts, VoiceSpan

UNTIL_LEFT = 1024.0
"""A span that is repeated until the entry has left is there for so many beats at most."""
CLOSE = 1e-6

GridSpan = tuple[float, float]


@dataclass(frozen=True)
class Piece:
    """A span of the entry, in its beats as played, and how those lie in the track. The first piece begins, and the last
    one ends, at infinity: there the file has no sound."""

    start: float
    end: float
    played: Played

    @property
    def grid_span(self) -> GridSpan:
        """The span of the track that is heard, in beats of its grid."""
        return (self.played.to_grid(self.start), self.played.to_grid(self.end))

    @property
    def runs(self) -> list[tuple[float, float]]:
        """The bar lines heard in it from which bars of one length run on, each with that length, in beats as played."""
        lines = self.played.grid.bar_lines.moved(self.played.count, self.played.shift)
        begins = [lines.up(self.start)] if math.isfinite(self.start) else [float(lines.knots[0])]
        begins += [float(knot) for knot in lines.knots if knot > begins[0] + CLOSE]
        return [(at, lines.length_at(at)) for at in begins if at < self.end - CLOSE]

    def place_of(self, grid_beat: float) -> float | None:
        """Where a beat of the grid is heard in this piece; None where it is not."""
        at = self.played.of_grid(grid_beat)
        return at if self.start - CLOSE <= at < self.end - CLOSE else None


@dataclass(frozen=True)
class Dropped:
    """A span of the entry, in its beats as played, in which some stems are silent; all of it where none is named."""

    start: float
    end: float
    stems: tuple[Stem, ...]


@dataclass(frozen=True)
class Arrangement:
    """An entry's pieces in the order in which they are heard. ``natural_end`` is where it would end if nothing were
    repeated until it has left; infinite where nothing is."""

    pieces: tuple[Piece, ...]
    dropped: tuple[Dropped, ...] = ()
    natural_end: float = math.inf

    @classmethod
    def of(cls, entry: Entry, track: TrackFacts) -> Arrangement:
        """The arrangement of an entry of a track."""
        return _arrangement_of(entry.edits, entry.as_recorded, Played.of(entry, track))

    @property
    def is_whole(self) -> bool:
        """Whether the track is heard from its start to its end, as recorded."""
        return len(self.pieces) == 1

    @cached_property
    def bar(self) -> float:
        """Beats as played in a bar; where bars differ, in those at beat 0 of the grid."""
        return self.pieces[0].played.bar

    @cached_property
    def bar_lines(self) -> BarLines:
        """Which beats as played begin a bar, as each piece has it."""
        played = self.pieces[0].played
        if self.is_whole:
            return played.grid.bar_lines.moved(played.count, played.shift)
        runs = [run for piece in self.pieces for run in piece.runs]
        return BarLines.of(runs, runs[0][1]) if runs else BarLines.of([(0.0, self.bar)], self.bar)

    def piece_at(self, beat: float) -> Piece:
        """The piece in which a beat of the entry lies."""
        return next((p for p in self.pieces if beat < p.end - CLOSE), self.pieces[-1])

    def places_of(self, grid_beat: float) -> list[float]:
        """All beats of the entry on which a beat of the grid is heard, in order."""
        return [at for p in self.pieces if (at := p.place_of(grid_beat)) is not None]

    def place_of(self, grid_beat: float) -> float | None:
        """The first beat of the entry on which a beat of the grid is heard; None where it is left out."""
        return next(iter(self.places_of(grid_beat)), None)

    def spans_of(self, start: float, end: float) -> Iterator[GridSpan]:
        """The spans of the entry in which a span of the grid is heard, in order; neighbours are joined."""
        last: GridSpan | None = None
        for p in self.pieces:
            a, b = max(p.played.of_grid(start), p.start), min(p.played.of_grid(end), p.end)
            if b - a < CLOSE:
                continue
            if last is not None and abs(last[1] - a) < CLOSE:
                last = (last[0], b)
                continue
            if last is not None:
                yield last
            last = (a, b)
        if last is not None:
            yield last

    def extent_of(self, start_s: float, end_s: float) -> GridSpan:
        """The first and the last beat of the entry at which anything between two moments of the track is heard."""
        return _extent_of(self, start_s, end_s)

    def sections(self, sections: Sequence[Section]) -> tuple[Section, ...]:
        """What the entry consists of, in its beats, in order."""
        found = [
            s.model_copy(update={"start": a, "end": b}) for s in sections for a, b in self.spans_of(s.start, s.end)
        ]
        return tuple(sorted(found, key=lambda s: s.start))

    def voice(self, voice: Sequence[VoiceSpan]) -> tuple[VoiceSpan, ...]:
        """Where somebody sings, in the entry's beats, in order; not where the voice is kept silent."""
        spans = sorted(span for v in voice for span in self.spans_of(v.start, v.end))
        for one in self.dropped:
            if not one.stems or Stem.VOICE in one.stems:
                spans = [part for span in spans for part in _without(span, (one.start, one.end))]
        return tuple(VoiceSpan(start=a, end=b) for a, b in spans)


@remembered
def _extent_of(heard: Arrangement, start_s: float, end_s: float) -> GridSpan:
    start, end = (float(b) for b in heard.pieces[0].played.grid.beat_at([start_s, end_s]))
    spans = list(heard.spans_of(start, end))
    if spans:
        return (spans[0][0], spans[-1][1])
    # Nothing of it is heard, as of a file that is silent: it has a place all the same.
    here = next((p.start for p in heard.pieces if math.isfinite(p.start)), heard.pieces[0].played.of_grid(start))
    return (here, here)


@remembered
def _arrangement_of(edits: tuple[Edit, ...], as_recorded: bool, whole: Played) -> Arrangement:
    return arranged([] if as_recorded else [e for e in edits if e.on], whole)


def arranged(edits: Sequence[Edit], played: Played) -> Arrangement:
    """The arrangement that follows from edits; ``played`` is how the entry counts.

    Spans change places first, then spans are left out, then spans are repeated: each where it is last heard.
    """
    spans: list[GridSpan] = [(-math.inf, math.inf)]
    for swap in (e for e in edits if isinstance(e, Swap)):
        spans = _swapped(spans, swap)
    for skip in (e for e in edits if isinstance(e, Skip)):
        spans = [part for span in spans for part in _without(span, (skip.start, skip.end))]
    repeats = sorted((e for e in edits if isinstance(e, Repeat)), key=lambda e: (e.times is None, e.start))
    natural = math.inf
    for repeat in repeats:
        before = len(spans)
        spans, after = _repeated(spans, repeat)
        if repeat.times is None and len(spans) > before:
            natural = sum((b - a) * played.count for a, b in spans[1:after]) + spans[0][1] * played.count
    pieces = tuple(_pieces(spans or [(0.0, 0.0)], played))
    whole = Arrangement(pieces)
    drops = [e for e in edits if isinstance(e, DropOut)]
    dropped = tuple(Dropped(a, b, d.stems) for d in drops for a, b in whole.spans_of(d.start, d.end))
    return Arrangement(pieces, dropped, natural)


def _pieces(spans: Sequence[GridSpan], played: Played) -> Iterator[Piece]:
    """Spans of the grid as pieces one after the other; those that follow each other in the track too are one."""
    joined: list[GridSpan] = []
    for start, end in spans:
        if joined and abs(joined[-1][1] - start) < CLOSE:
            joined[-1] = (joined[-1][0], end)
        else:
            joined.append((start, end))
    at = -math.inf if math.isinf(joined[0][0]) else joined[0][0] * played.count
    for start, end in joined:
        shift = played.shift if math.isinf(start) else at - start * played.count
        begins, ends = at, end * played.count + shift
        yield Piece(begins, ends, played.shifted(shift))
        at = ends


def _cut(spans: Sequence[GridSpan], at: float) -> list[GridSpan]:
    """Spans with borders at a beat of the grid."""
    cut: list[GridSpan] = []
    for start, end in spans:
        cut += [(start, at), (at, end)] if start + CLOSE < at < end - CLOSE else [(start, end)]
    return cut


def _swapped(spans: Sequence[GridSpan], swap: Swap) -> list[GridSpan]:
    parts = list(spans)
    for border in (swap.start, swap.end, swap.other_start, swap.other_end):
        parts = _cut(parts, border)
    first = [p for p in parts if _is_within(p, swap.start, swap.end)]
    second = [p for p in parts if _is_within(p, swap.other_start, swap.other_end)]
    if not first or not second:
        return parts
    result: list[GridSpan] = []
    for part in parts:
        if part == first[0]:
            result += second
        elif part == second[0]:
            result += first
        elif part not in first and part not in second:
            result.append(part)
    return result


def _repeated(spans: Sequence[GridSpan], repeat: Repeat) -> tuple[list[GridSpan], int]:
    """Spans with one of them heard more often, after where it was heard last; and how many of them come up to there."""
    parts = _cut(_cut(spans, repeat.start), repeat.end)
    inside = [i for i, p in enumerate(parts) if _is_within(p, repeat.start, repeat.end)]
    if not inside:
        return list(spans), len(spans)
    last = first = inside[-1]
    while first - 1 in inside and parts[first - 1][1] <= parts[first][0] + CLOSE:
        first -= 1
    run = parts[first : last + 1]
    length = sum(b - a for a, b in run)
    more = repeat.times - 1 if repeat.times is not None else math.ceil(UNTIL_LEFT / length)
    return [*parts[: last + 1], *(run * more), *parts[last + 1 :]], last + 1


def _without(span: GridSpan, gone: GridSpan) -> list[GridSpan]:
    """What is left of a span without another."""
    (start, end), (a, b) = span, gone
    if b <= start or a >= end:
        return [span]
    return [(s, e) for s, e in ((start, a), (b, end)) if e - s > CLOSE]


def _is_within(span: GridSpan, start: float, end: float) -> bool:
    return start - CLOSE <= span[0] and span[1] <= end + CLOSE
