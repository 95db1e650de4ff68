"""The library: bringing tracks in, having them analysed, looking at them, taking them out."""

from __future__ import annotations

import hashlib
import shutil
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

from sqlalchemy.orm import Session

from fernbrook.analysis.analyse import VERSION
from fernbrook.analysis.peaks import BUCKETS
from fernbrook.audio.errors import AudioFileError
from fernbrook.audio.file import AudioInfo, check_usable, decodes, probe
from fernbrook.audio.transcode import transcode
from fernbrook.core.markup import Markup, analysed_again
from fernbrook.service.errors import InUseError, NotFoundError
from fernbrook.service.events import Events
from fernbrook.service.ids import new_id
from fernbrook.service.jobs import Jobs
from fernbrook.service.tags import read_tags
from fernbrook.store import markup
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import OPEN, JobKind, JobState, forget_jobs, unfinished_by_subject
from fernbrook.store.mixes import all_mixes, head_of, state_of
from fernbrook.store.tables import JobRow, TrackRow
from fernbrook.store.tracks import by_hash, is_in_history, listing

CURRENT_ANALYSIS = VERSION
"""Tracks that an older analysis has seen may be analysed again."""
DECODED_ONCE = {".m4a", ".mp4", ".aac"}
AUDIO_SUFFIXES = DECODED_ONCE | {".wav", ".flac", ".mp3", ".ogg", ".oga", ".opus", ".aif", ".aiff"}


@dataclass(frozen=True)
class Imported:
    """What came of a file: its track, and whether the library had it already."""

    track: TrackRow
    known: bool


@dataclass(frozen=True)
class Listed:
    """What a list shows of a track, and its analysis job while that has not ended well."""

    track: dict[str, Any]
    job: JobRow | None

    @property
    def is_waiting(self) -> bool:
        """Whether its analysis is still to come."""
        return self.job is not None and JobState(self.job.state) in OPEN


class Library:
    """All use cases that concern tracks."""

    def __init__(self, folders: Folders, database: Database, events: Events, jobs: Jobs) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._jobs = jobs
        jobs.finish[JobKind.ANALYSE] = self._analysed

    def list(self) -> list[Listed]:
        """All tracks, newest first."""
        with self._database.read() as session:
            jobs = unfinished_by_subject(session, JobKind.ANALYSE)
            return [Listed(track, jobs.get(track["id"])) for track in listing(session)]

    def get(self, track_id: str) -> tuple[TrackRow, JobRow | None]:
        """One track, and its analysis job while that has not ended well."""
        with self._database.read() as session:
            track = _get(session, track_id)
            return track, unfinished_by_subject(session, JobKind.ANALYSE, track_id).get(track_id)

    def bring_in(self, stream: BinaryIO, file_name: str, tempo_range: tuple[float, float] | None = None) -> Imported:
        """Take a file's content into the library; its tempo is looked for within a range where one is given.

        Raises
        ------
        AudioFileError
            When it cannot be used; nothing of it is kept.
        """
        name = Path(file_name).name or "unnamed"
        arriving = self._folders.incoming / f"{new_id()}{Path(name).suffix.lower()}"
        try:
            with arriving.open("wb") as file:
                shutil.copyfileobj(stream, file, 1 << 20)
            return self._take(arriving, name, in_place=False, tempo_range=tempo_range)
        except AudioFileError as error:
            raise AudioFileError(str(error).replace(arriving.name, name)) from error
        finally:
            arriving.unlink(missing_ok=True)

    def bring_in_path(self, path: Path, in_place: bool = False) -> Imported:
        """Take a file of this machine into the library, or only note where it lies."""
        if in_place:
            return self._take(path.resolve(), path.name, in_place=True)
        try:
            with path.open("rb") as file:
                return self.bring_in(file, path.name)
        except OSError as error:
            raise AudioFileError(f"‘{path.name}’ cannot be opened: {error.strerror}.") from error

    def _take(self, path: Path, name: str, in_place: bool, tempo_range: tuple[float, float] | None = None) -> Imported:
        content_hash = _hash(path)
        with self._database.write() as session:
            known = by_hash(session, content_hash)
            if known is not None:
                was_hidden, known.hidden = known.hidden, False
                return Imported(known, not was_hidden)
        tags = read_tags(path, name)
        audio, info = self._kept(path, content_hash, in_place)
        with self._database.write() as session:
            track = TrackRow(
                id=new_id(),
                content_hash=content_hash,
                file_name=name,
                path=self._folders.stored(audio),
                title=tags.title,
                artist=tags.artist,
                key_tag=tags.key,
                bpm_tag=tags.bpm,
                format=path.suffix.lstrip(".").upper() if audio.suffix.lower() != path.suffix.lower() else info.format,
                coding=info.subtype,
                rate=info.rate,
                channels=info.channels,
                duration_s=info.duration_s,
                bytes=path.stat().st_size if path.exists() else audio.stat().st_size,
                tempo_low=min(tempo_range) if tempo_range else None,
                tempo_high=max(tempo_range) if tempo_range else None,
            )
            session.add(track)
            session.flush()
            self._queue_analysis(session, track)
        self._jobs.wake()
        self._events.tell({"type": "tracks"})
        return Imported(track, known=False)

    def _kept(self, path: Path, content_hash: str, in_place: bool) -> tuple[Path, AudioInfo]:
        """Check the file and bring it to where it stays."""
        folder = self._folders.audio / content_hash[:2]
        folder.mkdir(parents=True, exist_ok=True)
        if path.suffix.lower() in DECODED_ONCE and path.is_file() and path.stat().st_size and not decodes(path):
            decoded = self._folders.incoming / f"{new_id()}.flac"
            transcode(path, decoded)
            try:
                info = probe(decoded)
                check_usable(path.name, info)
                kept = folder / f"{content_hash}.flac"
                decoded.replace(kept)
            finally:
                decoded.unlink(missing_ok=True)
            return kept, info
        info = probe(path)
        if in_place:
            return path, info
        kept = folder / f"{content_hash}{path.suffix.lower()}"
        path.replace(kept)
        return kept, info

    def analyse_again(self, track_id: str, tempo_range: tuple[float, float] | None = None) -> None:
        """Queue another analysis, within a range of tempi where one is given.

        A grid that was set by hand or marked as checked stays.
        """
        with self._database.write() as session:
            track = _get(session, track_id)
            if tempo_range is not None:
                track.tempo_low, track.tempo_high = tempo_range
            job = unfinished_by_subject(session, JobKind.ANALYSE, track_id).get(track_id)
            if job is None or job.state not in OPEN:
                self._queue_analysis(session, track)
        self._jobs.wake()
        self._events.tell({"type": "tracks"})

    def _queue_analysis(self, session: Session, track: TrackRow) -> None:
        order: dict[str, Any] = {
            "root": str(self._folders.root),
            "path": str(self._folders.audio_file(track.path)),
            "name": track.file_name,
            "content_hash": track.content_hash,
        }
        if track.tempo_low and track.tempo_high:
            order["tempo_range"] = [track.tempo_low, track.tempo_high]
        forget_jobs(session, JobKind.ANALYSE, track.id)
        self._jobs.add(session, JobKind.ANALYSE, track.id, track.title, order)

    def _analysed(self, session: Session, job: JobRow, result: dict[str, Any]) -> None:
        """Write down an analysis."""
        track = session.get(TrackRow, job.subject)
        if track is None:
            return
        columns = dict(result)
        found = Markup.model_validate(columns.pop("markup"))
        before = Markup.model_validate(track.findings["markup"]) if track.findings else Markup()
        for column, value in columns.items():
            setattr(track, column, value)
        track.findings = {**columns["findings"], "markup": result["markup"]}
        if track.head is None and not track.grid_by_hand:
            markup.begin(session, track, found)
        else:
            now = markup.markup_of(session, track)
            again = analysed_again(now, before, found)
            if again != now:
                markup.advance(session, track, again, "analyse again")
        self._events.tell({"type": "tracks"})
        self._events.tell({"type": "track", "id": track.id, "version": track.version})

    def remove(self, track_id: str) -> None:
        """Take a track out of the library.

        Raises
        ------
        InUseError
            While a mix has it. A track that only past states of a mix have is hidden, so that undo still works.
        """
        with self._database.write() as session:
            track = _get(session, track_id)
            using = [m.name for m in all_mixes(session) if _uses(session, m, track_id)]
            if using:
                names = ", ".join(f"‘{name}’" for name in using)
                raise InUseError(f"‘{track.title}’ is part of {names}. Take it out there first, then remove it.")
            if is_in_history(session, track_id):
                track.hidden = True
                kept = True
            else:
                session.delete(track)
                kept = False
        if not kept:
            self._delete_files(track)
        self._events.tell({"type": "tracks"})

    def _delete_files(self, track: TrackRow) -> None:
        """Delete what the library keeps of a track; a file that stayed in place is not ours."""
        if not Path(track.path).is_absolute():
            self._folders.audio_file(track.path).unlink(missing_ok=True)
        for bucket in BUCKETS:
            self._folders.peaks_file(track.content_hash, bucket).unlink(missing_ok=True)
        self._folders.features_file(track.content_hash).unlink(missing_ok=True)
        self._folders.onsets_file(track.content_hash).unlink(missing_ok=True)

    def peaks(self, track_id: str, bucket: int) -> Path:
        """The file with a track's peaks at one resolution."""
        with self._database.read() as session:
            path = self._folders.peaks_file(_get(session, track_id).content_hash, bucket)
        if bucket not in BUCKETS or not path.is_file():
            raise NotFoundError("The waveform of this track is not made yet.")
        return path


def find_audio(paths: list[Path]) -> list[Path]:
    """The audio files among paths, folders searched through, in order of name."""
    found: list[Path] = []
    for path in paths:
        if path.is_dir():
            found += sorted(p for p in path.rglob("*") if p.suffix.lower() in AUDIO_SUFFIXES and p.is_file())
        else:
            found.append(path)
    return found


def _get(session: Session, track_id: str) -> TrackRow:
    track = session.get(TrackRow, track_id)
    if track is None:
        raise NotFoundError("That track is not in the library any more.")
    return track


def _uses(session: Session, mix: Any, track_id: str) -> bool:
    return any(e.track_id == track_id for e in state_of(head_of(session, mix)).entries)


def _hash(path: Path) -> str:
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError as error:
        raise AudioFileError(f"‘{path.name}’ cannot be opened: {error.strerror}.") from error
