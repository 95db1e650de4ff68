"""What a player changed and played on a stick, shown beside what the library has before it is taken."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from fernbrook.core.track import MarkFacet, told, with_changes
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.formats.stick import MANIFEST, StickTrack, read_document, read_manifest, read_played
from fernbrook.formats.track_document import document_text
from fernbrook.service.exporting import MARKED, OnTheStick, stick_at
from fernbrook.service.files import document_of
from fernbrook.service.importing.mark_files import FacetRead
from fernbrook.service.tracks import Collection, Marking
from fernbrook.service.work.stick import put_text, stick_error
from fernbrook.store.database import Database
from fernbrook.store.markup import markup_of
from fernbrook.store.tables import TrackRow
from fernbrook.store.tracks import by_hash


@dataclass(frozen=True)
class Changed:
    """A track of a stick whose markup a player changed: what the library has, and what it would have."""

    track_id: str
    title: str
    artist: str
    parts: tuple[FacetRead, ...]


@dataclass(frozen=True)
class Heard:
    """A track that was played from a stick; no id where the library has it no more."""

    track_id: str | None
    name: str
    at: datetime
    seconds: float


@dataclass(frozen=True)
class StickRead:
    """What a stick says: when it was filled, what was changed on it, what was played, and what cannot be read."""

    exported_at: datetime | None
    changed: tuple[Changed, ...]
    played: tuple[Heard, ...]
    notes: tuple[str, ...] = ()


class StickReading:
    """All use cases that concern what comes back on a stick."""

    def __init__(self, database: Database, marking: Marking, collection: Collection) -> None:
        self._database = database
        self._marking = marking
        self._collection = collection

    def read(self, path: str) -> StickRead:
        """What a player changed and played on a stick.

        Raises
        ------
        RefusedError
            When the stick is not there, or what was put on it cannot be told.
        """
        root = stick_at(path)
        manifest = read_manifest(root)
        if manifest is None:
            return StickRead(None, (), ())
        there = OnTheStick.of(root)
        try:
            noted = read_played(root)
        except RefusedError as error:
            noted = ()
            there.notes.append(str(error))
        with self._database.read() as session:
            changed = [c for t in manifest.tracks if (c := self._changed(session, there, t)) is not None]
            by_file = {t.file: t for t in manifest.tracks}
            played = []
            for x in noted:
                track = by_file.get(x.file)
                row = by_hash(session, track.of) if track else None
                name = f"{row.artist} – {row.title}" if row and row.artist else row.title if row else x.file
                played.append(Heard(row.id if row else None, name, x.at, x.seconds))
        return StickRead(manifest.exported_at, tuple(changed), tuple(played), tuple(there.notes))

    def take(self, path: str, track_id: str, facets: Iterable[MarkFacet]) -> None:
        """Take what a player changed on a track, as one change that can be undone.

        Raises
        ------
        RefusedError
            When nothing was changed on it, or the stick is gone.
        """
        root, wanted = stick_at(path), tuple(facets)
        manifest = read_manifest(root)
        with self._database.read() as session:
            row = session.get(TrackRow, track_id)
            if row is None:
                raise NotFoundError("That track is not in the library any more.")
            track = next((t for t in (manifest.tracks if manifest else ()) if t.of == row.content_hash), None)
            version = row.version
        theirs = read_document(root, track.markup) if track else None
        if track is None or theirs is None:
            raise RefusedError(f"Nothing is marked on ‘{row.title}’ on that stick.")
        base, now_is = track.document.markup, theirs.markup
        self._marking.put(track_id, version, "from the stick", lambda m: with_changes(m, base, now_is, wanted))

    def leave(self, path: str, track_id: str) -> None:
        """Have a stick say of a track what the library says: what a player changed on it is thrown away.

        Raises
        ------
        RefusedError
            When the track is not on the stick, or that cannot be written to.
        """
        root = stick_at(path)
        manifest = read_manifest(root)
        with self._database.read() as session:
            row = session.get(TrackRow, track_id)
            if row is None:
                raise NotFoundError("That track is not in the library any more.")
            document = document_of(session, row)
        track = next((t for t in (manifest.tracks if manifest else ()) if t.of == row.content_hash), None)
        if manifest is None or track is None:
            raise RefusedError(f"‘{row.title}’ is not on that stick.")
        tracks = tuple(t.model_copy(update={"document": document}) if t is track else t for t in manifest.tracks)
        try:
            put_text(root, MANIFEST, manifest.model_copy(update={"tracks": tracks}).model_dump_json(indent=1))
            put_text(root, track.markup, document_text(document))
        except OSError as error:
            raise stick_error(root, error) from error

    def list_of_played(self, path: str) -> str:
        """Make a list of what was played from a stick, in order, each once; its id.

        Raises
        ------
        RefusedError
            When nothing was.
        """
        played = self.read(path).played
        ids = [x.track_id for x in played if x.track_id]
        if not ids:
            raise RefusedError("Nothing that is in the library was played from that stick.")
        name = f"Played {played[0].at.astimezone():%d %b %Y}"
        return self._collection.make_list(name, list(dict.fromkeys(ids)))

    @staticmethod
    def _changed(session: Session, there: OnTheStick, track: StickTrack) -> Changed | None:
        theirs = there.document(track)
        row = by_hash(session, track.of)
        if theirs is None or row is None or theirs.markup == track.document.markup:
            return None
        mine = markup_of(session, row)
        made = with_changes(mine, track.document.markup, theirs.markup, MARKED)
        parts = [FacetRead(f, tuple(told(mine, None, f)), tuple(told(made, None, f))) for f in MARKED]
        differing = tuple(p for p in parts if p.differs)
        return Changed(row.id, row.title, row.artist, differing) if differing else None
