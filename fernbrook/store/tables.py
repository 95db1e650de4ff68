"""The tables of the database."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    JSON,
    BigInteger,
    DateTime,
    Dialect,
    ForeignKey,
    Index,
    LargeBinary,
    String,
    Text,
    TypeDecorator,
    false,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def now() -> datetime:
    """The present moment, in UTC."""
    return datetime.now(UTC)


class UtcDateTime(TypeDecorator[datetime]):
    """A moment in UTC. SQLite forgets time zones; without this a moment would come back as local time."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """What is stored: the time in UTC, without a zone."""
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """What is read: the time with its zone."""
        return value.replace(tzinfo=UTC) if value else None


class Base(DeclarativeBase):
    """The base of all tables."""


class TrackRow(Base):
    """A track of the library.

    ``path`` is relative to the data folder, or absolute where the file stayed in place. ``bpm``, ``steady`` and
    ``checked`` follow from the markup; they are kept so that a long list need not read ten thousand grids. ``head`` is
    the revision of the markup that counts, ``findings`` what the last analysis found and no one changes by hand.
    ``version`` counts every change of what is known of it. ``kept_bytes``, ``kept_mtime_ns`` and ``kept_hash`` are the
    size, time and content of the file that is played, when it was last seen to be the one that was analysed;
    ``next_hash`` what it is about to become, or became, by tags that are written into it. ``stamp``
    rises with every change of any row, so that what has changed since can be asked for. ``cue_marks`` are the moments
    of its cues, and what stands on them; ``offered`` is a document that came in its file and differs from what is here;
    ``stems`` what is known of those that were made.
    """

    __tablename__ = "tracks"

    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    content_hash: Mapped[str] = mapped_column(String(64), unique=True)
    file_name: Mapped[str] = mapped_column(Text)
    path: Mapped[str] = mapped_column(Text)
    title: Mapped[str] = mapped_column(Text)
    artist: Mapped[str] = mapped_column(Text, default="")
    key_tag: Mapped[str | None] = mapped_column(String(16))
    bpm_tag: Mapped[float | None]
    format: Mapped[str] = mapped_column(String(16))
    coding: Mapped[str] = mapped_column(Text)
    rate: Mapped[int]
    channels: Mapped[int]
    duration_s: Mapped[float]
    bytes: Mapped[int]
    added_at: Mapped[datetime] = mapped_column(UtcDateTime, default=now, index=True)
    hidden: Mapped[bool] = mapped_column(default=False)
    grid: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    bpm: Mapped[float | None]
    comes_bpm: Mapped[float | None]
    leaves_bpm: Mapped[float | None]
    steady: Mapped[bool] = mapped_column(default=False)
    grid_by_hand: Mapped[bool] = mapped_column(default=False)
    checked: Mapped[bool] = mapped_column(default=False)
    version: Mapped[int] = mapped_column("markup_version", default=0)
    head: Mapped[int | None] = mapped_column(ForeignKey("track_revisions.id", use_alter=True, ondelete="SET NULL"))
    doubts: Mapped[list[dict[str, Any]] | None] = mapped_column(JSON)
    key: Mapped[str | None] = mapped_column(String(4))
    findings: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    tempo_low: Mapped[float | None]
    tempo_high: Mapped[float | None]
    clarity: Mapped[float | None]
    loudness_lufs: Mapped[float | None]
    true_peak_dbtp: Mapped[float | None]
    sound_start_s: Mapped[float] = mapped_column(default=0.0)
    sound_end_s: Mapped[float | None]
    analysis_version: Mapped[int | None]
    album: Mapped[str] = mapped_column(Text, default="", server_default="")
    genre: Mapped[str] = mapped_column(Text, default="", server_default="")
    comment: Mapped[str] = mapped_column(Text, default="", server_default="")
    year: Mapped[int | None]
    bit_rate: Mapped[int | None]
    tags: Mapped[list[str] | None] = mapped_column(JSON)
    energy: Mapped[float | None]
    voice_share: Mapped[float | None]
    cue_marks: Mapped[list[tuple[float, str]] | None] = mapped_column(JSON)
    offered: Mapped[str | None] = mapped_column(Text, deferred=True)
    stamp: Mapped[int] = mapped_column(default=0, server_default="0", index=True)
    kept_bytes: Mapped[int | None]
    kept_mtime_ns: Mapped[int | None] = mapped_column(BigInteger)
    kept_hash: Mapped[str | None] = mapped_column(String(64))
    next_hash: Mapped[str | None] = mapped_column(String(64))
    stems: Mapped[dict[str, Any] | None] = mapped_column(JSON)


class Revision(Base):
    """A state of something, what made it, and the revision before it. ``state`` is as ``stored.py`` writes it; one
    without a ``label`` was only passed through."""

    __abstract__ = True

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    subject: Mapped[str]
    parent: Mapped[int | None]
    label: Mapped[str] = mapped_column(Text)
    state: Mapped[bytes] = mapped_column(LargeBinary)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime, default=now)


class TrackRevisionRow(Revision):
    """A state of a track's markup."""

    __tablename__ = "track_revisions"
    __table_args__ = (Index("ix_track_revisions_track_parent", "track_id", "parent"),)

    subject: Mapped[str] = mapped_column("track_id", ForeignKey("tracks.id", ondelete="CASCADE"))
    parent: Mapped[int | None] = mapped_column(ForeignKey("track_revisions.id", ondelete="CASCADE"))


class MixRow(Base):
    """A mix. ``version`` counts every change, undo and redo included; ``head`` is the revision that it is at.
    ``is_try`` is one of two tracks, made to hear how they go together. ``entries`` and ``duration_s`` are what came of
    it when it was planned last, of the states of it and its tracks that ``planned_of`` stands for. ``heard`` is it then
    with all its transitions as they came out by the rules of placing ``heard_rules``, counted by ``heard_by``."""

    __tablename__ = "mixes"

    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    version: Mapped[int] = mapped_column(default=1)
    head: Mapped[int | None] = mapped_column(ForeignKey("revisions.id", use_alter=True, ondelete="SET NULL"))
    is_try: Mapped[bool] = mapped_column(default=False, server_default=false())
    entries: Mapped[int | None]
    duration_s: Mapped[float | None]
    planned_of: Mapped[str | None] = mapped_column(String(32))
    heard: Mapped[bytes | None] = mapped_column(LargeBinary)
    heard_by: Mapped[dict[str, int] | None] = mapped_column(JSON)
    heard_rules: Mapped[int | None]
    created_at: Mapped[datetime] = mapped_column(UtcDateTime, default=now)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime, default=now)


class RevisionRow(Revision):
    """A state of a mix, and the command that made it.

    ``counted_by`` has, for each of its tracks, the revision of the track whose grid its beats are of. ``name`` is that
    of a point in the history which somebody wants to find again.
    """

    __tablename__ = "revisions"
    __table_args__ = (Index("ix_revisions_mix_parent", "mix_id", "parent"),)

    subject: Mapped[str] = mapped_column("mix_id", ForeignKey("mixes.id", ondelete="CASCADE"))
    parent: Mapped[int | None] = mapped_column(ForeignKey("revisions.id", ondelete="CASCADE"))
    command: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    track_ids: Mapped[str] = mapped_column(Text, default="")
    counted_by: Mapped[dict[str, int] | None] = mapped_column(JSON)
    name: Mapped[str] = mapped_column(Text, default="", server_default="")


class ListRow(Base):
    """A list of tracks, made by hand, in its own order."""

    __tablename__ = "lists"

    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    place: Mapped[int]
    track_ids: Mapped[list[str]] = mapped_column(JSON)


class FilterRow(Base):
    """A search that was given a name."""

    __tablename__ = "filters"

    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    place: Mapped[int]
    search: Mapped[str] = mapped_column(Text)


class PairingRow(Base):
    """Two tracks, in that order, that go well together."""

    __tablename__ = "pairings"

    first: Mapped[str] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True)
    second: Mapped[str] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True)
    note: Mapped[str] = mapped_column(Text)


class ShapeRow(Base):
    """A shape that was saved, as ``store/shapes.py`` has it."""

    __tablename__ = "shapes"

    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    state: Mapped[bytes] = mapped_column(LargeBinary)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime, default=now)


class FileFieldsRow(Base):
    """What the fields in a track's file were before anything was written into it."""

    __tablename__ = "file_fields"

    track_id: Mapped[str] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True)
    before: Mapped[dict[str, str | None]] = mapped_column(JSON)


class SettingRow(Base):
    """A setting of the application, by its name."""

    __tablename__ = "settings"

    name: Mapped[str] = mapped_column(String(60), primary_key=True)
    value: Mapped[str] = mapped_column(JSON)


class LibraryStepRow(Base):
    """A change of many things in the library at once: what they were, and what they are."""

    __tablename__ = "library_steps"

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    label: Mapped[str] = mapped_column(Text)
    before: Mapped[dict[str, Any]] = mapped_column(JSON)
    after: Mapped[dict[str, Any]] = mapped_column(JSON)
    undone: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime, default=now)


class JobRow(Base):
    """A piece of long work: its order, how far it is, what came of it."""

    __tablename__ = "jobs"

    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    kind: Mapped[str] = mapped_column(String(16), index=True)
    subject: Mapped[str] = mapped_column(String(16), index=True)
    title: Mapped[str] = mapped_column(Text)
    order: Mapped[dict[str, Any]] = mapped_column(JSON)
    state: Mapped[str] = mapped_column(String(16), index=True)
    progress: Mapped[float] = mapped_column(default=0.0)
    error: Mapped[str | None] = mapped_column(Text)
    result: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime, default=now)
    started_at: Mapped[datetime | None] = mapped_column(UtcDateTime)
    finished_at: Mapped[datetime | None] = mapped_column(UtcDateTime)
