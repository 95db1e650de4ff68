"""Stems of tracks: made once as a job, kept beside the track, thrown away."""

from __future__ import annotations

from sqlalchemy.orm import Session

from fernbrook.core.track.stems import KEPT, StemsFact
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.events import Events
from fernbrook.service.ids import new_id
from fernbrook.service.jobs import Job, JobKind, Jobs
from fernbrook.service.library import Library
from fernbrook.service.sound_files import SoundFiles
from fernbrook.service.work.separate import SeparateOrder, separate_track
from fernbrook.service.work.worker import Result
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import unfinished_by_subject
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow, TrackRow

NAME = "separate"
ORDER = Stored(SeparateOrder, {})
LONGEST_S = 20 * 60.0
"""What is longer would take more memory than a laptop has to spare."""


class Stems:
    """All use cases that concern stems."""

    def __init__(
        self, folders: Folders, database: Database, events: Events, jobs: Jobs, files: SoundFiles, library: Library
    ) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._jobs = jobs
        self._files = files
        self._library = library
        self._kind = JobKind(NAME, ORDER, separate_track, self._made, again=True)
        jobs.register(self._kind)

    def state(self, track_id: str) -> tuple[StemsFact | None, Job | None]:
        """What is known of a track's stems, and the job that makes them while it has not ended well."""
        facts = self._library.facts(track_id)
        with self._database.read() as session:
            row = unfinished_by_subject(session, NAME, track_id).get(track_id)
            job = self._jobs.view(row) if row else None
        return facts.stems, job

    def start(self, track_id: str) -> Job:
        """Queue the making of a track's stems.

        Raises
        ------
        RefusedError
            When it has no grid, is too long, or its stems are being made already.
        AudioFileError
            When its file is missing or was changed.
        """
        facts = self._library.facts(track_id)
        if facts.grid is None:
            raise RefusedError(f"‘{facts.title}’ has no beat grid, by which it would be taken apart. Set one first.")
        if facts.duration_s > LONGEST_S:
            raise RefusedError(f"‘{facts.title}’ is longer than {LONGEST_S / 60:.0f} minutes: too long for stems.")
        path = self._files.checked([track_id])[track_id]
        with self._database.write() as session:
            track = session.get(TrackRow, track_id)
            running = unfinished_by_subject(session, NAME, track_id).get(track_id)
            if track is None:
                raise NotFoundError("That track is not in the library any more.")
            if running is not None and self._jobs.view(running).is_open:
                raise RefusedError(f"The stems of ‘{facts.title}’ are being made already.")
            order = SeparateOrder(track=facts, path=self._folders.stored(path), content_hash=track.content_hash)
            row = self._jobs.add(session, self._kind, track_id, f"Stems of {facts.title}", order, {}, new_id())
        self._jobs.announce(row)
        return self._jobs.view(row)

    def remove(self, track_id: str) -> None:
        """Throw the stems of a track away; what turns them in mixes waits until they are made again."""
        with self._database.write() as session:
            track = session.get(TrackRow, track_id)
            if track is None:
                raise NotFoundError("That track is not in the library any more.")
            track.stems = None
            track.version += 1
            version, content = track.version, track.content_hash
        for stem in KEPT:
            self._folders.stem_file(content, stem.value).unlink(missing_ok=True)
        self._events.tell({"type": "track", "id": track_id, "version": version})

    def _made(self, session: Session, job: JobRow, result: Result) -> None:
        track = session.get(TrackRow, job.subject)
        if track is None:
            return
        track.stems = result["stems"]
        track.version += 1
        self._events.tell({"type": "track", "id": track.id, "version": track.version})
