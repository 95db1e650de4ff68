"""Proposals for edits: where an entry, or a whole mix, is made shorter or longer so that it is least noticed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.features import Features
from fernbrook.analysis.structure.likeness import bar_vectors
from fernbrook.core.mix.commands import EditEntries, EntryEdits
from fernbrook.core.mix.entries import Fold, folds
from fernbrook.core.plan import Plan, PlannedEntry
from fernbrook.core.track import BarLines, Repeat, Skip, TrackFacts
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.ground import new_id
from fernbrook.service.mixes.mixes import Mixes
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow

Vectors = NDArray[np.float32]
Candidate = tuple[Fold, PlannedEntry, float]
"""A cut of an entry, and how many seconds it takes out."""

MOST_PROPOSED = 8
PHRASE_BARS = 8
SEARCHED = 3
"""So many cuts more or fewer than reckoned are tried."""
LEAST_ALIKE = 0.35
"""What is less alike is not cut without being asked for."""


@dataclass(frozen=True)
class FoldProposal:
    """A way to make an entry shorter or longer: what it is, in words and as a command."""

    fold: Fold
    words: str
    seconds: float
    command: EditEntries


@dataclass(frozen=True)
class LengthProposal:
    """Cuts that bring a mix near a length: how long it would be, how many there are, and how alike the worst is."""

    duration_s: float
    cuts: int
    likeness: float
    command: EditEntries | None


class Editing:
    """Looks for places to fold in the tracks of a mix."""

    def __init__(self, folders: Folders, database: Database, mixes: Mixes) -> None:
        self._folders = folders
        self._database = database
        self._mixes = mixes

    def folds(self, mix_id: str, entry_id: str, bars: int, longer: bool) -> list[FoldProposal]:
        """The places where an entry is best made shorter, or longer, by so many bars of its track; the best first.

        Raises
        ------
        NotFoundError
            When the mix or the entry is not there.
        RefusedError
            When the track has no grid, or was analysed too long ago.
        """
        planned = self._mixes.open(mix_id).plan
        entry = next((e for e in planned.entries if e.entry.id == entry_id), None)
        if entry is None:
            raise NotFoundError("That entry is not in the mix any more.")
        return [self._proposal(entry, f, longer) for f in self._folds(entry, bars)[:MOST_PROPOSED]]

    def to_length(self, mix_id: str, duration_s: float) -> LengthProposal:
        """Cuts of whole phrases that bring a mix near a length; the least noticeable of all its entries."""
        planned = self._mixes.open(mix_id).plan
        candidates = self._candidates(planned)
        best = LengthProposal(planned.duration_s, 0, 1.0, None)
        cuts = 0
        spare_s = planned.duration_s - duration_s
        while cuts < len(candidates) and spare_s >= candidates[cuts][2] / 2.0:
            spare_s -= candidates[cuts][2]
            cuts += 1
        # Transitions that nobody has placed may find other places in shorter tracks: what counts is what comes of it.
        for count in range(max(cuts - SEARCHED, 1), min(cuts + SEARCHED, len(candidates)) + 1 if cuts else 0):
            tried = self._with_cuts(mix_id, candidates[:count])
            if abs(tried.duration_s - duration_s) < abs(best.duration_s - duration_s):
                best = tried
        return best

    def _with_cuts(self, mix_id: str, cuts: Sequence[Candidate]) -> LengthProposal:
        """What some cuts would make of a mix."""
        edits: dict[str, list[Skip]] = {}
        for fold, entry, _ in cuts:
            edits.setdefault(entry.entry.id, []).append(_skip(fold, entry.track.riding_grid.bar_lines))
        command = EditEntries(entries=tuple(EntryEdits(entry_id=i, edits=tuple(e)) for i, e in edits.items()))
        duration_s = self._mixes.trial(mix_id, command).plan.duration_s
        return LengthProposal(duration_s, len(cuts), min(fold.likeness for fold, _, _ in cuts), command)

    def _candidates(self, planned: Plan) -> list[Candidate]:
        """All cuts of a phrase that would hardly be noticed, the least noticeable first, and how long each is."""
        found = []
        for entry in planned.entries:
            try:
                ways = self._folds(entry, PHRASE_BARS)
            except RefusedError:
                continue
            found += [(f, entry, _seconds_of(f, entry)) for f in ways if f.likeness >= LEAST_ALIKE]
        return sorted(found, key=lambda c: -c[0].likeness)

    def _folds(self, entry: PlannedEntry, bars: int) -> list[Fold]:
        """The places to fold between where an entry has arrived and where it begins to leave, that are heard once."""
        track = entry.track
        if track.grid is None:
            raise RefusedError(f"‘{track.title}’ has no beat grid yet. Wait for its analysis, or tap one.")
        begin = entry.arrival.transition.in_at + entry.arrival.transition.beats if entry.arrival else entry.span.start
        stop = entry.departure.transition.out_at if entry.departure else entry.span.end
        lines = track.grid.bar_lines
        first, last = lines.at([entry.heard.piece_at(b).played.to_grid(b) for b in (begin, stop)])
        vectors, from_bar = self._vectors(track)
        found = folds(vectors, from_bar, track.bars, bars, (math.ceil(first - 1e-6), math.floor(last + 1e-6)))
        return [f for f in found if _is_heard_whole(entry, f, lines)]

    def _vectors(self, track: TrackFacts) -> tuple[Vectors, int]:
        with self._database.read() as session:
            row = session.get(TrackRow, track.id)
            path = self._folders.features_file(row.content_hash) if row else None
        if path is None or not path.is_file():
            raise RefusedError(f"‘{track.title}’ was analysed by an older version. Analyse it again first.")
        return _vectors_of(path, path.stat().st_mtime_ns, _Track(track))

    @staticmethod
    def _proposal(entry: PlannedEntry, fold: Fold, longer: bool) -> FoldProposal:
        lines = entry.track.riding_grid.bar_lines
        edit = _repeat(fold, lines) if longer else _skip(fold, lines)
        what = "heard twice" if longer else "left out"
        words = f"Bars {fold.start + 1} to {fold.end} {what}; both sides are {fold.likeness:.0%} alike"
        seconds = _seconds_of(fold, entry)
        command = EditEntries(entries=(EntryEdits(entry_id=entry.entry.id, edits=(edit,)),))
        return FoldProposal(fold, words, seconds if longer else -seconds, command)


def _skip(fold: Fold, lines: BarLines) -> Skip:
    start, end = lines.beat_of([fold.start, fold.end]).tolist()
    return Skip(id=new_id(), start=start, end=end)


def _repeat(fold: Fold, lines: BarLines) -> Repeat:
    start, end = lines.beat_of([fold.start, fold.end]).tolist()
    return Repeat(id=new_id(), start=start, end=end, times=2)


def _is_heard_whole(entry: PlannedEntry, fold: Fold, lines: BarLines) -> bool:
    """Whether all of a fold, and the bars on both sides of it, are heard in one go."""
    start, end = lines.beat_of([fold.start - 1, fold.end + 1]).tolist()
    spans = list(entry.heard.spans_of(start, end))
    return len(spans) == 1 and spans[0][1] - spans[0][0] > (end - start) * entry.entry.count - 1e-6


class _Track:
    """A track as a key: by its id and version, which say all of it."""

    def __init__(self, facts: TrackFacts) -> None:
        self.facts = facts

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Track) and self._key == other._key

    def __hash__(self) -> int:
        return hash(self._key)

    @property
    def _key(self) -> tuple[str, int]:
        return (self.facts.id, self.facts.version)


@lru_cache(maxsize=64)
def _vectors_of(path: Path, _written: int, track: _Track) -> tuple[Vectors, int]:
    """The bars of a track as vectors, and the number of the first; the last ones are kept."""
    bars = track.facts.bars
    vectors = bar_vectors(
        Features.from_bytes(path.read_bytes()).harmony, track.facts.riding_grid, bars.first, bars.first + len(bars.line)
    )
    return vectors, bars.first


def _seconds_of(fold: Fold, entry: PlannedEntry) -> float:
    """How long the bars of a fold take where they are first heard."""
    start, end = entry.track.riding_grid.bar_lines.beat_of([fold.start, fold.end]).tolist()
    at = entry.heard.place_of(start) or 0.0
    return entry.span.seconds_between(at, at + (end - start) * entry.entry.count)
