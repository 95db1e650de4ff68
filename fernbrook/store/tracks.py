"""Tracks in the database."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.core.grid import Grid
from fernbrook.core.section import VoiceSpan
from fernbrook.core.track import TrackFacts
from fernbrook.store.tables import RevisionRow, TrackRow

LISTED = tuple(
    getattr(TrackRow, name)
    for name in (
        "id", "title", "artist", "file_name", "key_tag", "bpm", "steady", "clarity", "format", "coding", "rate",
        "channels", "duration_s", "loudness_lufs", "true_peak_dbtp", "added_at", "analysis_version", "key", "checked",
        "grid_by_hand", "doubts",
    )
)  # fmt: skip
"""The columns that a list of tracks shows; the others, grids above all, would make it slow."""


def listing(session: Session) -> list[dict[str, Any]]:
    """What a list shows of each track of the library, newest first."""
    names = [column.key for column in LISTED]
    query = select(*LISTED).where(TrackRow.hidden.is_(False)).order_by(TrackRow.added_at.desc(), TrackRow.id)
    return [dict(zip(names, row, strict=True)) for row in session.execute(query)]


def by_hash(session: Session, content_hash: str) -> TrackRow | None:
    """The track with that content, hidden or not."""
    return session.scalar(select(TrackRow).where(TrackRow.content_hash == content_hash))


def facts_of(session: Session, ids: Iterable[str]) -> dict[str, TrackFacts]:
    """What the rules need to know of some tracks, by id; unknown ids are left out."""
    rows = session.scalars(select(TrackRow).where(TrackRow.id.in_(list(ids))))
    return {row.id: as_facts(row) for row in rows}


def as_facts(row: TrackRow) -> TrackFacts:
    """A row as the rules see it."""
    return TrackFacts(
        id=row.id,
        title=row.title,
        artist=row.artist,
        duration_s=row.duration_s,
        grid=Grid.model_validate(row.grid) if row.grid else None,
        loudness_lufs=row.loudness_lufs,
        true_peak_dbtp=row.true_peak_dbtp,
        sound_start_s=row.sound_start_s,
        sound_end_s=row.sound_end_s,
        voice=tuple(VoiceSpan(start=start, end=end) for start, end in row.voice or ()),
    )


def is_in_history(session: Session, track_id: str) -> bool:
    """Whether any state of any mix, past ones included, uses the track."""
    query = select(RevisionRow.id).where(RevisionRow.track_ids.contains(track_id)).limit(1)
    return session.scalar(query) is not None
