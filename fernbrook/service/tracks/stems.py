"""Stems of tracks: made once as a job, kept beside the track, thrown away."""

from __future__ import annotations

import shutil
from collections.abc import Mapping
from pathlib import Path
from typing import BinaryIO

import numpy as np
from sqlalchemy.orm import Session

from fernbrook.analysis.separation.bands import Sound
from fernbrook.analysis.separation.own_files import NotItsStemsError, laid
from fernbrook.audio.sources import Source, write_stem
from fernbrook.core.plan import RATE
from fernbrook.core.track import KEPT, Stem, StemsFact
from fernbrook.disk import writing
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.files import SoundFiles, display_name
from fernbrook.service.ground import Events, Settings, new_id
from fernbrook.service.jobs import Job, JobKind, Jobs
from fernbrook.service.tracks.library import Library
from fernbrook.service.work.separate import SeparateOrder, separate_track
from fernbrook.service.work.worker import Result
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import forget_jobs, unfinished_by_subject
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow, TrackRow
from fernbrook.store.upgrades import as_it_was, with_plain_words

NAME = "separate"
ORDER = Stored(SeparateOrder, {1: as_it_was, 2: with_plain_words, 3: as_it_was, 4: as_it_was})
LONGEST_S = 20 * 60.0
"""What is longer would take more memory than a laptop has to spare."""


class Stems:
    """All use cases that concern stems."""

    def __init__(
        self,
        folders: Folders,
        database: Database,
        events: Events,
        jobs: Jobs,
        files: SoundFiles,
        library: Library,
        settings: Settings,
    ) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._jobs = jobs
        self._files = files
        self._library = library
        self._settings = settings
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
        if facts.grid is None and self._settings.model_path() is None:
            raise RefusedError(f"‘{facts.title}’ has no beat grid. Set one first, then split stems.")
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
            forget_jobs(session, NAME, track_id)
            order = SeparateOrder(
                track=facts,
                path=self._folders.stored(path),
                content_hash=track.content_hash,
                model=self._settings.model_path(),
            )
            row = self._jobs.add(session, self._kind, track_id, f"Stems of {facts.title}", order, {}, new_id())
        self._jobs.announce(row)
        return self._jobs.view(row)

    def take_files(self, track_id: str, files: Mapping[Stem, tuple[BinaryIO, str]]) -> StemsFact:
        """Use stems that somebody has as files in place of those that there are.

        Raises
        ------
        RefusedError
            When none is given, or they are not of this track.
        AudioFileError
            When a file cannot be used.
        """
        if not any(stem in KEPT for stem in files):
            raise RefusedError("Give the drums, the bass or the voice as a file: the music is what they leave.")
        title = self._library.facts(track_id).title
        with Source(self._files.checked([track_id])[track_id], RATE, title) as source:
            track = source.read(0, source.frames)
        try:
            found = laid(track, {stem: self._sound(*file) for stem, file in files.items()}, RATE)
        except NotItsStemsError as error:
            raise RefusedError(f"Those are not the stems of ‘{title}’: {error}.") from error
        given = tuple(stem for stem in KEPT if stem in found.stems)
        fact = StemsFact(given=given, coherent=1.0, is_clean=True, has_voice=Stem.VOICE in given)
        with self._database.read() as session:
            row = session.get(TrackRow, track_id)
            content = row.content_hash if row else ""
        for stem in KEPT:
            silence = np.zeros_like(track)
            write_stem(self._folders.stem_file(content, stem.value), found.stems.get(stem, silence), RATE)
        with self._database.write() as session:
            self._note(session, track_id, fact)
        return fact

    def _sound(self, stream: BinaryIO, file_name: str) -> Sound:
        """What a file that was sent holds, at the rate of mixes."""
        name = display_name(file_name)
        arriving = self._folders.incoming / f"{new_id()}{Path(name).suffix}"
        try:
            with writing(f"‘{name}’ was not taken", arriving), arriving.open("wb") as file:
                shutil.copyfileobj(stream, file)
            with Source(arriving, RATE, name) as source:
                return source.read(0, source.frames)
        finally:
            arriving.unlink(missing_ok=True)

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
        self._note(session, job.subject, StemsFact.model_validate(result["stems"]))

    def _note(self, session: Session, track_id: str, fact: StemsFact) -> None:
        track = session.get(TrackRow, track_id)
        if track is None:
            return
        track.stems = fact.model_dump(mode="json")
        track.version += 1
        self._events.tell({"type": "track", "id": track.id, "version": track.version})
