"""The library: bringing tracks in, having them analysed, looking at them, taking them out."""

from __future__ import annotations

import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from fernbrook.analysis.beat.grid_search import DEFAULT_RANGE
from fernbrook.analysis.peaks import BUCKETS
from fernbrook.audio.files import AudioInfo, check_usable, check_whole, decodes, probe, transcode
from fernbrook.core.track import KEPT, Doubt, DoubtKind, TrackFacts, analysed_again, differences
from fernbrook.disk import writing
from fernbrook.enclosed import open_regular
from fernbrook.errors import AudioFileError, InUseError, NotFoundError, RefusedError
from fernbrook.formats.track_document import TrackDocument, document_text, read_document
from fernbrook.service.files import (
    SoundFiles,
    content_hash,
    display_name,
    document_in,
    document_of,
    known_suffix,
    note_kept,
    read_tags,
    take_document,
)
from fernbrook.service.ground import Events, new_id
from fernbrook.service.jobs import JobKind, Jobs
from fernbrook.service.tracks.track import Track
from fernbrook.service.work.analyse import AnalyseOrder, analyse_track
from fernbrook.store import markup
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import OPEN, forget_jobs, unfinished_by_subject
from fernbrook.store.mixes import all_mixes, head_of, state_of
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow, TrackRow
from fernbrook.store.tracks import by_hash, facts_of, is_in_history
from fernbrook.store.upgrades import analyse_order_1_to_2

ANALYSE = "analyse"
ANALYSE_ORDER = Stored(AnalyseOrder, {1: analyse_order_1_to_2})
PART = 1 << 20
SAME_SOUND_S = 0.1
"""What travels in a file is of another one where the lengths differ by more."""

TempoRange = tuple[float, float]
TEMPO_RANGE: TempoRange = DEFAULT_RANGE
"""Where the beat of a file is looked for when nothing is said."""


class Brought(StrEnum):
    """What a file brought of what was once set by hand: taken at once for a new track, proposed for a known one."""

    NOTHING = "nothing"
    TAKEN = "taken"
    NEWER = "newer"
    OLDER = "older"


@dataclass(frozen=True)
class Imported:
    """What came of a file: its track, and whether the library had it already. ``restored`` where it had lost it.

    ``brought`` tells of the markup that travelled in the file.
    """

    track: Track
    known: bool
    restored: bool = False
    brought: Brought = Brought.NOTHING


class Library:
    """All use cases that concern tracks."""

    def __init__(self, folders: Folders, database: Database, events: Events, jobs: Jobs, files: SoundFiles) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._jobs = jobs
        self._files = files
        self._kind = JobKind(
            name=ANALYSE,
            order=ANALYSE_ORDER,
            run=analyse_track,
            finish=self._analysed,
            again=True,
        )
        jobs.register(self._kind)

    def get(self, track_id: str) -> Track:
        """One track, and its analysis job while that has not ended well."""
        with self._database.read() as session:
            return self._track(session, _get(session, track_id))

    def facts(self, track_id: str) -> TrackFacts:
        """What the rules know of a track."""
        with self._database.read() as session:
            found = facts_of(session, [track_id]).get(track_id)
        if found is None:
            raise NotFoundError("That track is not in the library any more.")
        return found

    def bring_in(self, stream: BinaryIO, file_name: str, tempo_range: TempoRange = TEMPO_RANGE) -> Imported:
        """Take a file's content into the library; its tempo is looked for within a range.

        Raises
        ------
        AudioFileError
            When it cannot be used; nothing of it is kept.
        DiskFullError
            When there is no room for it.
        """
        name = display_name(file_name)
        arriving = self._folders.incoming / f"{new_id()}{known_suffix(name)}"
        try:
            with writing(f"‘{name}’ was not imported", arriving), arriving.open("wb") as file:
                shutil.copyfileobj(stream, file, PART)
            with writing(f"‘{name}’ was not imported", arriving):
                return self._take(arriving, name, in_place=False, tempo_range=tempo_range)
        except AudioFileError as error:
            raise AudioFileError(str(error).replace(arriving.name, name)) from error
        finally:
            arriving.unlink(missing_ok=True)

    def bring_in_path(self, path: Path, in_place: bool = False) -> Imported:
        """Take a file of this machine into the library, or only note where it lies."""
        name = display_name(path.name)
        try:
            if in_place:
                return self._take(path.resolve(), name, in_place=True)
            with open_regular(path) as file:
                return self.bring_in(file, path.name)
        except OSError as error:
            raise AudioFileError(f"‘{name}’ cannot be opened: {error.strerror or error}.") from error

    def _take(self, path: Path, name: str, in_place: bool, tempo_range: TempoRange = TEMPO_RANGE) -> Imported:
        content = content_hash(path)
        document = document_in(path)
        known = self._known(path, content, in_place, document)
        if known is not None:
            return known
        shelf = self._folders.audio / content[:2]
        may_come = [shelf / f"{content}{suffix}" for suffix in {path.suffix.lower(), ".flac"}]
        with self._folders.pending(() if in_place else may_come):
            try:
                return self._take_new(path, name, content, document, in_place=in_place, tempo_range=tempo_range)
            except BaseException:
                self._delete_unused(() if in_place else may_come)
                raise

    def _take_new(
        self,
        path: Path,
        name: str,
        content: str,
        document: TrackDocument | None,
        *,
        in_place: bool,
        tempo_range: TempoRange,
    ) -> Imported:
        """Take a file that the library does not have."""
        tags = read_tags(path, name)
        audio, info = self._kept(path, content, in_place)
        row = TrackRow(
            id=new_id(),
            content_hash=content,
            file_name=name,
            path=self._folders.stored(audio),
            title=tags.title,
            artist=tags.artist,
            key_tag=tags.key,
            bpm_tag=tags.bpm,
            album=tags.album,
            genre=tags.genre,
            comment=tags.comment,
            year=tags.year,
            bit_rate=tags.bit_rate,
            format=path.suffix.lstrip(".").upper() if audio.suffix.lower() != path.suffix.lower() else info.format,
            coding=info.subtype,
            rate=info.rate,
            channels=info.channels,
            duration_s=info.duration_s,
            bytes=path.stat().st_size if path.exists() else audio.stat().st_size,
            tempo_low=min(tempo_range),
            tempo_high=max(tempo_range),
        )
        try:
            with self._database.write() as session:
                session.add(row)
                session.flush()
                note_kept(session, row, audio)
                fits = document is not None and abs(document.duration_s - row.duration_s) < SAME_SOUND_S
                if document is not None and fits:
                    take_document(session, row, document)
                self._queue_analysis(session, row)
                track = self._track(session, row)
        except IntegrityError:
            # The same content came in twice at once: the other one was first.
            other = self._known(audio, content, in_place, document)
            if other is None:
                raise
            return other
        self._jobs.wake()
        self._events.tell({"type": "tracks"})
        return Imported(track, known=False, brought=Brought.TAKEN if fits else Brought.NOTHING)

    def _known(self, path: Path, content: str, in_place: bool, came: TrackDocument | None) -> Imported | None:
        """The track that has this content already. What it has lost, its file or its analysis, is put back.

        A file into which another library has written since is known by what travels in it.
        """
        with self._database.read() as session:
            row = by_hash(session, content)
            if row is None and came is not None and came.of:
                row = by_hash(session, came.of)
                if row is not None and abs(probe(path).duration_s - row.duration_s) > SAME_SOUND_S:
                    row = None
        if row is None:
            return None
        restored = not self._files.is_there(row)
        kept = self._kept(path, content, in_place)[0] if restored else None
        with self._database.write() as session:
            row = _get(session, row.id)
            was_hidden, row.hidden = row.hidden, False
            if kept is not None:
                row.path = self._folders.stored(kept)
                note_kept(session, row, kept)
            job = unfinished_by_subject(session, ANALYSE, row.id).get(row.id)
            if job is None and not self._has_pictures(row):
                self._queue_analysis(session, row)
            brought = _compared(came, document_of(session, row))
            if came is not None and brought is not Brought.NOTHING:
                row.offered = document_text(came)
            track = self._track(session, row)
        self._jobs.wake()
        self._events.tell({"type": "tracks"})
        return Imported(track, known=not was_hidden, restored=restored, brought=brought)

    def file_of(self, track_id: str) -> Path:
        """The file of a track, known to be the one that was analysed; raises as ``SoundFiles.checked`` does."""
        path = self._files.checked([track_id]).get(track_id)
        if path is None:
            raise NotFoundError("That track is not in the library any more.")
        return path

    def take_from_file(self, track_id: str) -> None:
        """Give a track what travels in its file, in place of what the library has; undo brings that back.

        Raises
        ------
        RefusedError
            When nothing travels in it.
        """
        with self._database.write() as session:
            row = _get(session, track_id)
            document = read_document(row.offered) or document_in(self._folders.audio_file(row.path))
            if document is None:
                raise RefusedError("Nothing that was set by hand travels in the file of this track.")
            take_document(session, row, document)
            version = row.version
        self._events.tell({"type": "tracks"})
        self._events.tell({"type": "track", "id": track_id, "version": version})

    def _has_pictures(self, row: TrackRow) -> bool:
        """Whether all that an analysis writes beside the database is there."""
        files = [self._folders.peaks_file(row.content_hash, bucket) for bucket in BUCKETS]
        return all(f.is_file() for f in (*files, self._folders.features_file(row.content_hash)))

    def _kept(self, path: Path, content: str, in_place: bool) -> tuple[Path, AudioInfo]:
        """Check the file and bring it to where it stays."""
        folder = self._folders.audio / content[:2]
        folder.mkdir(parents=True, exist_ok=True)
        if _is_decoded_once(path):
            decoded = self._folders.incoming / f"{new_id()}.flac"
            transcode(path, decoded)
            try:
                info = probe(decoded)
                check_whole(decoded, path.name, info)
                check_usable(path.name, info)
                kept = folder / f"{content}.flac"
                decoded.replace(kept)
            finally:
                decoded.unlink(missing_ok=True)
            return kept, info
        info = probe(path)
        check_whole(path, path.name, info)
        if in_place:
            return path, info
        kept = folder / f"{content}{path.suffix.lower()}"
        path.replace(kept)
        return kept, info

    def analyse_again(self, track_id: str, tempo_range: TempoRange | None = None) -> None:
        """Queue another analysis, within a range of tempi where one is given.

        A grid that was set by hand or marked as checked stays.
        """
        with self._database.write() as session:
            track = _get(session, track_id)
            if tempo_range is not None:
                track.tempo_low, track.tempo_high = tempo_range
            job = unfinished_by_subject(session, ANALYSE, track_id).get(track_id)
            if job is None or job.state not in OPEN:
                self._queue_analysis(session, track)
        self._jobs.wake()
        self._events.tell({"type": "tracks"})

    def _queue_analysis(self, session: Session, row: TrackRow) -> None:
        tempi = (row.tempo_low, row.tempo_high) if row.tempo_low and row.tempo_high else None
        order = AnalyseOrder(path=row.path, name=row.file_name, content_hash=row.content_hash, tempo_range=tempi)
        forget_jobs(session, ANALYSE, row.id)
        self._jobs.add(session, self._kind, row.id, row.title, order)

    def _analysed(self, session: Session, job: JobRow, result: dict[str, Any]) -> None:
        """Write down an analysis."""
        row = session.get(TrackRow, job.subject)
        if row is None:
            return
        columns = dict(result)
        found = markup.MARKUP.model.model_validate(columns.pop("markup"))
        before, key_before, analysed_by = markup.found_markup(row), row.key, row.analysis_version
        for column, value in columns.items():
            setattr(row, column, value)
        self._read_more(row)
        energy = columns["findings"]["energy"]
        row.energy = round(float(np.mean(energy)), 4) if energy else None
        row.findings = {**columns["findings"], "markup": markup.MARKUP.to_json(found)}
        row.version += 1
        if row.head is None and not row.grid_by_hand:
            markup.begin(session, row, found)
        else:
            now = markup.markup_of(session, row)
            again = analysed_again(now, before, found)
            if again != now:
                markup.advance(session, row, again, "analyse again")
            text = differences(now, again, key_before, row.key) if analysed_by != row.analysis_version else None
            if text is not None:
                row.doubts = [*(row.doubts or []), Doubt(kind=DoubtKind.CHANGED, text=text).model_dump(mode="json")]
        self._events.tell({"type": "tracks"})
        self._events.tell({"type": "track", "id": row.id, "version": row.version})

    def _read_more(self, row: TrackRow) -> None:
        """Take from the file's tags what an older version did not read."""
        if row.bit_rate is not None:
            return
        tags = read_tags(self._folders.audio_file(row.path), row.file_name)
        for name in ("album", "genre", "comment", "year", "bit_rate"):
            if not getattr(row, name):
                setattr(row, name, getattr(tags, name))

    def remove(self, track_id: str) -> None:
        """Take a track out of the library.

        Raises
        ------
        InUseError
            While a mix has it. A track that only past states of a mix have is hidden, so that undo still works.
        """
        with self._database.read() as session:
            files = self._files_of(_get(session, track_id))
        with self._folders.pending(files):
            self._remove(track_id)
            self._delete_unused(files)
        self._events.tell({"type": "tracks"})

    def _remove(self, track_id: str) -> None:
        with self._database.write() as session:
            track = _get(session, track_id)
            using = [m.name for m in all_mixes(session) if _uses(session, m, track_id)]
            if using:
                names = ", ".join(f"‘{name}’" for name in using)
                raise InUseError(f"‘{track.title}’ is part of {names}. Take it out there first, then remove it.")
            if is_in_history(session, track_id):
                track.hidden = True
            else:
                session.delete(track)

    def clear(self) -> None:
        """Delete the files of changes that were cut off, as far as they belong to no track."""
        for paths in self._folders.left_pending():
            self._delete_unused(paths)

    def _files_of(self, track: TrackRow) -> list[Path]:
        """What the library keeps of a track; a file that stayed in its own place is not ours."""
        sound = [self._folders.audio_file(track.path)] if self._folders.is_ours(track.path) else []
        stems = (self._folders.stem_file(track.content_hash, stem.value) for stem in KEPT)
        beside = self._folders.pictures_of(track.content_hash)
        return [*sound, *beside, *stems, self._folders.tag_block(track.id)]

    def _delete_unused(self, paths: Iterable[Path]) -> None:
        """Delete those of some files of the data folder that no track has."""
        with self._database.read() as session:
            known = session.execute(select(TrackRow.path, TrackRow.content_hash, TrackRow.id)).all()
        used = {path for path, *_ in known}
        names = {name for _, *named in known for name in named}
        for path in paths:
            if path.is_relative_to(self._folders.audio):
                is_used = self._folders.stored(path) in used
            else:
                is_used = path.name.partition(".")[0] in names
            if not is_used:
                path.unlink(missing_ok=True)

    def peaks(self, track_id: str, bucket: int) -> Path:
        """The file with a track's peaks at one resolution."""
        with self._database.read() as session:
            path = self._folders.peaks_file(_get(session, track_id).content_hash, bucket)
        if bucket not in BUCKETS or not path.is_file():
            raise NotFoundError("The waveform of this track is not made yet.")
        return path

    def _track(self, session: Session, row: TrackRow) -> Track:
        job = unfinished_by_subject(session, ANALYSE, row.id).get(row.id)
        return Track.of_row(row, self._jobs.view(job) if job else None)


def _compared(came: TrackDocument | None, have: TrackDocument) -> Brought:
    """Whether what a file brings is newer or older than what the library has; nothing where it is the same."""
    if came is None or abs(came.duration_s - have.duration_s) > SAME_SOUND_S:
        return Brought.NOTHING
    if (came.markup, came.tags) == (have.markup, have.tags):
        return Brought.NOTHING
    return Brought.NEWER if came.changed_at > have.changed_at else Brought.OLDER


def _is_decoded_once(path: Path) -> bool:
    """Whether a file is decoded at import, by its content, as names deceive: what libsndfile does not read."""
    return path.is_file() and path.stat().st_size > 0 and not decodes(path)


def _get(session: Session, track_id: str) -> TrackRow:
    track = session.get(TrackRow, track_id)
    if track is None:
        raise NotFoundError("That track is not in the library any more.")
    return track


def _uses(session: Session, mix: Any, track_id: str) -> bool:
    return any(e.track_id == track_id for e in state_of(head_of(session, mix)).entries)
