"""Tracks in the database."""

from __future__ import annotations

import logging
from collections.abc import Iterable
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from fernbrook.core.track import Doubt, Key, KeyFact, StemsFact, TrackFacts
from fernbrook.kept import KeptValues
from fernbrook.store.markup import found_energy, markup_of
from fernbrook.store.tables import RevisionRow, TrackRow

LISTED = (
    "id", "title", "artist", "album", "genre", "comment", "year", "file_name", "key_tag", "bpm", "comes_bpm",
    "leaves_bpm", "steady", "clarity", "energy", "voice_share", "format", "coding", "bit_rate", "rate", "channels",
    "duration_s", "loudness_lufs", "true_peak_dbtp", "added_at", "analysis_version", "key", "tags", "cue_marks",
    "checked", "grid_by_hand", "doubts", "version",
)  # fmt: skip
"""The columns that a list of tracks shows; the others, grids above all, would make it slow."""
MAY_LACK = tuple(name for name in LISTED if getattr(TrackRow, name).nullable)
"""Those of them that a row need not have."""
LOOKED_AT = (*LISTED, "path", "sound_start_s", "sound_end_s", "stamp")
"""And those that are looked at besides."""
MEASURES = func.json_extract(TrackRow.findings, "$.file")
UNREADABLE = "unreadable"
"""Among the columns of a row of which something could not be read."""
STANDING_IN: dict[str, Any] = {"added_at": datetime(2000, 1, 1, tzinfo=UTC)}
"""What stands in for what cannot be read and has to be there."""

log = logging.getLogger(__name__)


def changed_since(session: Session, stamp: int) -> list[dict[str, Any]]:
    """What is looked at of each track that was changed after a stamp, hidden ones left out.

    ``measures`` is what the analysis measured of the file, as JSON, or None.
    """
    query = select(*(getattr(TrackRow, name) for name in LOOKED_AT), MEASURES).where(TrackRow.stamp > stamp)
    names = (*LOOKED_AT, "measures")
    shown = query.where(TrackRow.hidden.is_(False))
    try:
        return [dict(zip(names, row, strict=True)) for row in session.execute(shown)]
    except (ValueError, TypeError, SQLAlchemyError):  # one row that cannot be read: it is told from the others
        log.exception("a track cannot be read")
    ids = session.scalars(select(TrackRow.id).where(TrackRow.stamp > stamp, TrackRow.hidden.is_(False)))
    return [_row_as_it_can_be_read(session, track_id) for track_id in ids]


def _row_as_it_can_be_read(session: Session, track_id: str) -> dict[str, Any]:
    """What is looked at of one track; None in each place where nothing can be made of what is kept."""
    found: dict[str, Any] = {}
    columns = {**{name: getattr(TrackRow, name) for name in LOOKED_AT}, "measures": MEASURES}
    for name, column in columns.items():
        try:
            found[name] = session.scalar(select(column).where(TrackRow.id == track_id))
        except (ValueError, TypeError, SQLAlchemyError):
            found[name] = STANDING_IN.get(name)
            found[UNREADABLE] = True
    return found


def visible_ids(session: Session) -> set[str]:
    """The ids of all tracks that are not hidden."""
    return set(session.scalars(select(TrackRow.id).where(TrackRow.hidden.is_(False))))


def by_hash(session: Session, content_hash: str) -> TrackRow | None:
    """The track with that content, hidden or not: as it was imported, or as its file is since tags were written."""
    as_imported = session.scalar(select(TrackRow).where(TrackRow.content_hash == content_hash))
    return as_imported or session.scalar(select(TrackRow).where(TrackRow.kept_hash == content_hash).limit(1))


def facts_of(session: Session, ids: Iterable[str]) -> dict[str, TrackFacts]:
    """What the rules need to know of some tracks, by id; unknown ids are left out.

    Facts are kept by the version of their track. So this is not for a session that changes tracks itself and might be
    taken back.
    """
    known = {}
    wanted = select(TrackRow.id, TrackRow.version).where(TrackRow.id.in_(list(ids)))
    for track_id, version in session.execute(wanted).all():
        facts = _facts.get((track_id, version))
        if facts is None:
            row = session.get(TrackRow, track_id)
            if row is None:
                continue
            facts = as_facts(session, row)
            _facts.put((track_id, row.version), facts)
        known[track_id] = facts
    return known


_facts: KeptValues[tuple[str, int], TrackFacts] = KeptValues(2000)


def as_facts(session: Session, row: TrackRow) -> TrackFacts:
    """A row as the rules see it."""
    markup = markup_of(session, row)
    found = row.findings or {}
    return TrackFacts(
        id=row.id,
        version=row.version,
        title=row.title,
        artist=row.artist,
        duration_s=row.duration_s,
        grid=markup.grid,
        loudness_lufs=row.loudness_lufs,
        true_peak_dbtp=row.true_peak_dbtp,
        short_term_max_lufs=found.get("short_term_max_lufs"),
        trim_db=markup.trim_db,
        sound_start_s=row.sound_start_s,
        sound_end_s=row.sound_end_s,
        key=_key_of(row.key, found.get("key_confidence"), row.key_tag),
        sections=markup.sections,
        voice=markup.voice,
        cues=markup.cues,
        loops=markup.loops,
        energy=found_energy(row, markup.grid),
        stems=StemsFact.model_validate(row.stems) if row.stems else None,
        checked=row.checked,
        doubts=tuple(Doubt.model_validate(d) for d in row.doubts or ()),
    )


def _key_of(found: str | None, confidence: float | None, tag: str | None) -> KeyFact | None:
    """The key that was found, else the one of the file's tags."""
    key = Key.parse(found or tag or "")
    return KeyFact(key=key, confidence=confidence if found else None) if key else None


def is_in_history(session: Session, track_id: str) -> bool:
    """Whether any state of any mix, past ones included, uses the track."""
    query = select(RevisionRow.id).where(RevisionRow.track_ids.contains(track_id)).limit(1)
    return session.scalar(query) is not None
