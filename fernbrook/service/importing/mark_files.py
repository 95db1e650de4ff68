"""What is known of tracks and mixes, as files that other programs read, and what such files say of a track."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise

import numpy as np
from sqlalchemy.orm import Session

from fernbrook.core.plan import MarkerKind, Plan, markers
from fernbrook.core.track import Grid, Key, MarkFacet, Marks, told, with_marks
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.formats.jams_file import Annotated, cue_words, write_jams
from fernbrook.formats.mark_files import read_marks
from fernbrook.formats.track_document import document_text
from fernbrook.service.files import document_of, file_name
from fernbrook.service.ground import Events
from fernbrook.service.mixes import Mixes
from fernbrook.service.tracks import Marking, OpenTrack
from fernbrook.store import markup as kept
from fernbrook.store.database import Database
from fernbrook.store.tables import TrackRow

SHORTEST_PIECE_S = 1e-3
"""Of a piece with a tempo of its own; what is shorter is a step."""


class MarkForm(StrEnum):
    """A form in which what is known of a track is written, by the suffix of its file."""

    JAMS = "jams"
    JSON = "json"


@dataclass(frozen=True)
class FacetRead:
    """A part of what was read: what the track has of it, and what it would have."""

    facet: MarkFacet
    here: tuple[str, ...]
    there: tuple[str, ...]

    @property
    def differs(self) -> bool:
        """Whether taking it changes anything."""
        return self.here != self.there


class MarkFiles:
    """All use cases that concern such files."""

    def __init__(self, database: Database, events: Events, marking: Marking, mixes: Mixes) -> None:
        self._database = database
        self._events = events
        self._marking = marking
        self._mixes = mixes

    def read(self, track_id: str, name: str, content: bytes) -> list[FacetRead]:
        """What a file says of a track, beside what the track has; nothing is changed.

        Raises
        ------
        RefusedError
            When the file cannot be read, or what it says makes no markup.
        """
        marks = read_marks(name, content)
        with self._database.read() as session:
            row = _track(session, track_id)
            here, key = kept.markup_of(session, row), row.key
        there = with_marks(here, marks, marks.facets)
        return [
            FacetRead(f, tuple(told(here, key, f)), tuple(told(there, _key(marks) or key, f))) for f in marks.facets
        ]

    def take(self, track_id: str, version: int, name: str, content: bytes, facets: Iterable[MarkFacet]) -> OpenTrack:
        """Take parts of what a file says of a track, as one change that can be undone; a key is not undone.

        Raises
        ------
        RefusedError
            As above, or when nothing was chosen.
        StaleError
            When the track has moved on since.
        """
        marks, wanted = read_marks(name, content), set(facets)
        if not wanted & set(marks.facets):
            raise RefusedError("Nothing was chosen of what that file says.")
        opened = self._marking.put(track_id, version, f"from ‘{name[:60]}’", lambda m: with_marks(m, marks, wanted))
        key = _key(marks)
        if MarkFacet.KEY in wanted and key is not None:
            with self._database.write() as session:
                _track(session, track_id).key = key
            self._events.tell({"type": "tracks"})
        return opened

    def written(self, track_id: str, form: MarkForm) -> tuple[str, str]:
        """What is known of a track, and the name of its file."""
        with self._database.read() as session:
            row = _track(session, track_id)
            name = file_name(f"{row.artist} - {row.title}" if row.artist else row.title)
            if form is MarkForm.JSON:
                return document_text(document_of(session, row)) + "\n", f"{name}.json"
            return write_jams(annotated_track(session, row)), f"{name}.jams"

    def of_mix(self, mix_id: str) -> tuple[str, str]:
        """All of a mix as JAMS: its beats, its tracks as sections, their keys, cues and tempi."""
        plan = self._mixes.open(mix_id).plan
        return write_jams(_annotated_mix(plan)), f"{file_name(plan.mix.name)}.jams"

    def of_tracks(self, mix_id: str) -> tuple[bytes, str]:
        """A ZIP with the JAMS file of each track of a mix."""
        plan = self._mixes.open(mix_id).plan
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            for number, track in enumerate(plan.tracks, 1):
                content, name = self.written(track.id, MarkForm.JAMS)
                archive.writestr(f"{number:02} {name}", content)
        return out.getvalue(), f"{file_name(plan.mix.name)} tracks jams.zip"


def annotated_track(session: Session, row: TrackRow) -> Annotated:
    """What is known of a track, by its moments."""
    markup = kept.markup_of(session, row)
    grid, key = markup.grid, Key.parse(row.key or "")
    keys = ((0.0, row.duration_s, key),) if key else ()
    plain = Annotated(row.title, row.artist, row.album, row.duration_s, keys=keys, document=document_of(session, row))
    if grid is None:
        return plain
    moments, _ = grid.ticks(0.0, row.duration_s)
    first = float(np.rint(grid.beat_at(moments[0]))) if len(moments) else 0.0
    places = grid.bar_lines.within(first + np.arange(len(moments)))

    def span(start: float, end: float) -> tuple[float, float]:
        a, b = (min(max(float(t), 0.0), row.duration_s) for t in grid.time_at([start, end]))
        return a, b

    return replace(
        plain,
        beats=tuple((float(t), round(float(place)) + 1) for t, place in zip(moments, places, strict=True)),
        sections=tuple((*span(s.start, s.end), s.name or s.kind.value) for s in markup.sections),
        voice=tuple(span(v.start, v.end) for v in markup.voice),
        cues=tuple((max(float(grid.time_at(c.at)), 0.0), cue_words(c.role, c.name)) for c in markup.cues),
        tempi=_tempi_of(grid, row.duration_s),
    )


def _annotated_mix(plan: Plan) -> Annotated:
    moments, firsts = plan.bars.ticks(0.0, plan.duration_s)
    places = np.zeros(len(moments), dtype=np.int64)
    for n in range(len(moments)):
        places[n] = 1 if firsts[n] or n == 0 else places[n - 1] + 1
    spans = [(max(e.start_s, 0.0), min(e.end_s, plan.duration_s), e) for e in plan.entries]
    keys = [(a, b, e.entry.key_of(e.track)) for a, b, e in spans]
    turns = plan.tempo.time_at([p.beat for p in plan.tempo.points])
    return Annotated(
        title=plan.mix.name,
        artist="",
        album="",
        duration_s=plan.duration_s,
        beats=tuple((float(t), int(p)) for t, p in zip(moments, places, strict=True)),
        sections=tuple((a, b, e.track.title) for a, b, e in spans),
        voice=(),
        cues=tuple((m.at_s, m.name) for m in markers(plan) if m.kind is not MarkerKind.GONE),
        keys=tuple((a, b, k.key) for a, b, k in keys if k is not None),
        tempi=tuple(_pieces(turns, plan.duration_s, plan.tempo.mean_bpm)),
    )


def _tempi_of(grid: Grid, duration_s: float) -> tuple[tuple[float, float, float], ...]:
    """The tempo of each stretch of a track that means its changes; the mean of any other."""
    turns = [a.time_s for a in grid.anchors] if grid.means_its_changes else []
    return tuple(_pieces(turns, duration_s, grid.mean_bpm))


def _pieces(
    turns: Iterable[float], duration_s: float, mean_bpm: Callable[[float, float], float]
) -> Iterator[tuple[float, float, float]]:
    """Spans of a sound between the moments at which its tempo turns, and the mean tempo of each."""
    inside = sorted({float(t) for t in turns if SHORTEST_PIECE_S < t < duration_s - SHORTEST_PIECE_S})
    edges = [t for before, t in pairwise([0.0, *inside]) if t - before > SHORTEST_PIECE_S]
    for start, end in pairwise([0.0, *edges, duration_s]):
        if end > start:
            yield start, end, mean_bpm(start, end)


def _key(marks: Marks) -> str | None:
    key = Key.parse(marks.key or "")
    return key.name if key else None


def _track(session: Session, track_id: str) -> TrackRow:
    row = session.get(TrackRow, track_id)
    if row is None:
        raise NotFoundError("That track is not in the library any more.")
    return row
