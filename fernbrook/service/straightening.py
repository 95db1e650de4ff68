"""Rendering a track straight: at one steady tempo, as a file to be taken away or brought into the library."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fernbrook.audio.writer import OutputFormat
from fernbrook.core.grid import Grid
from fernbrook.core.markup import MarkChecked, PutGrid
from fernbrook.core.straight import straight_grid, straight_plan, suggested_tempo
from fernbrook.service.errors import NotFoundError, RefusedError
from fernbrook.service.file_names import file_name
from fernbrook.service.ids import new_id
from fernbrook.service.jobs import Jobs, nothing_more
from fernbrook.service.library import Imported, Library
from fernbrook.service.marking import Marking
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import OPEN, JobKind, JobState, jobs_of_kind
from fernbrook.store.tables import JobRow, TrackRow
from fernbrook.store.tracks import as_facts


class Straightening:
    """All use cases that concern straightened tracks."""

    def __init__(self, folders: Folders, database: Database, jobs: Jobs, library: Library, marking: Marking) -> None:
        self._folders = folders
        self._database = database
        self._jobs = jobs
        self._library = library
        self._marking = marking
        jobs.finish[JobKind.STRAIGHTEN] = nothing_more

    def suggested(self, track_id: str) -> float | None:
        """The tempo that a track would best be straightened to; None while it has no grid."""
        with self._database.read() as session:
            row = session.get(TrackRow, track_id)
            return suggested_tempo(as_facts(row)) if row and row.grid else None

    def start(self, track_id: str, bpm: float, output: OutputFormat) -> JobRow:
        """Queue the rendering of a track at a steady tempo, through its grid as it is now."""
        with self._database.read() as session:
            row = session.get(TrackRow, track_id)
            if row is None:
                raise NotFoundError("That track is not in the library any more.")
            if row.grid is None:
                raise RefusedError("There is no grid to straighten by. Set one first.")
            facts = as_facts(row)
            path = self._folders.audio_file(row.path)
        if not path.is_file():
            raise RefusedError(f"The file of ‘{row.title}’ is missing. Put it back, or import the track again.")
        planned = straight_plan(facts, bpm)
        job_id = new_id()
        order: dict[str, Any] = {
            "track": facts.model_dump_json(),
            "bpm": bpm,
            "path": str(path),
            "target": str(self._folders.renders / f"{job_id}{output.suffix}"),
            "output": output.value,
            "key": row.key or row.key_tag,
        }
        expected = {
            "duration_s": planned.duration_s,
            "output": output.value,
            "bpm": bpm,
            "grid": straight_grid(planned).model_dump(),
        }
        with self._database.write() as session:
            job = self._jobs.add(session, JobKind.STRAIGHTEN, track_id, f"{row.title} ({bpm:g} BPM)", order, expected)
        self._jobs.announce(job)
        return job

    def list(self, track_id: str) -> list[JobRow]:
        """All straightened renders of a track, the newest first."""
        with self._database.read() as session:
            return jobs_of_kind(session, JobKind.STRAIGHTEN, track_id)

    def file(self, job_id: str) -> tuple[Path, str]:
        """A straightened file, and the name to give it: with its tempo."""
        job = self._done(job_id)
        path = Path(job.order["target"])
        return path, f"{file_name(job.title)}{path.suffix}"

    def bring_in(self, job_id: str) -> Imported:
        """Take a straightened file into the library, with its exact grid, marked as checked."""
        path, name = self.file(job_id)
        with path.open("rb") as stream:
            imported = self._library.bring_in(stream, name)
        grid = Grid.model_validate((self._done(job_id).result or {})["grid"])
        self._marking.change(imported.track.id, None, PutGrid(grid=grid, why="straightened"))
        self._marking.change(imported.track.id, None, MarkChecked(checked=True))
        return imported

    def delete(self, job_id: str) -> None:
        """Delete a straightened render and its file."""
        with self._database.write() as session:
            job = session.get(JobRow, job_id)
            if job is None or job.kind != JobKind.STRAIGHTEN:
                raise NotFoundError("That file is not there any more.")
            if job.state in OPEN:
                raise RefusedError("It is being made. Cancel it first.")
            session.delete(job)
        Path(job.order["target"]).unlink(missing_ok=True)

    def _done(self, job_id: str) -> JobRow:
        with self._database.read() as session:
            job = session.get(JobRow, job_id)
        if job is None or job.kind != JobKind.STRAIGHTEN or job.state != JobState.DONE:
            raise NotFoundError("That file is not there: it is not made yet, or was deleted.")
        if not Path(job.order["target"]).is_file():
            raise NotFoundError("The straightened file has gone. Make it again.")
        return job
