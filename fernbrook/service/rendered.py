"""Files that were rendered as jobs, whatever they hold: where they lie, what they are called, how they are deleted."""

from __future__ import annotations

from dataclasses import dataclass
from glob import escape
from pathlib import Path

from sqlalchemy.orm import Session

from fernbrook.audio.output import OutputFormat
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.events import Events
from fernbrook.service.file_names import file_name
from fernbrook.service.jobs import Job, JobKind, Jobs
from fernbrook.service.work.wish import What
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import JobState, jobs_of_kind
from fernbrook.store.tables import JobRow


@dataclass(frozen=True)
class Rendered:
    """A rendered file, or one under way, in so many ``passes``. ``bpm`` is known where it has one tempo."""

    job: Job
    output: OutputFormat
    what: What
    passes: int
    duration_s: float
    bytes: int | None
    bpm: float | None

    @classmethod
    def of(cls, job: Job) -> Rendered:
        """What a job says of its file."""
        result = job.result
        return cls(
            job=job,
            output=OutputFormat(result["output"]),
            what=What(result.get("what", What.MIX)),
            passes=result.get("passes", 1),
            duration_s=result["duration_s"],
            bytes=result.get("bytes"),
            bpm=result.get("bpm"),
        )


class RenderedFiles:
    """The rendered files of one kind of job."""

    def __init__(self, folders: Folders, database: Database, events: Events, jobs: Jobs, kind: JobKind) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._jobs = jobs
        self._kind = kind

    def list(self, subject: str) -> list[Rendered]:
        """All files made of one mix or track, the newest first."""
        with self._database.read() as session:
            return [Rendered.of(self._jobs.view(row)) for row in jobs_of_kind(session, self._kind.name, subject)]

    def file(self, job_id: str) -> tuple[Path, str]:
        """A file that is done, and the name to give it when it is downloaded."""
        with self._database.read() as session:
            row = self._get(session, job_id)
        path = self._path(row)
        if row.state != JobState.DONE or not path.is_file():
            raise NotFoundError("That file is not there: it is not made yet, or was deleted. Make it again.")
        return path, f"{file_name(row.title)}{path.suffix}"

    def delete(self, job_id: str) -> None:
        """Delete a file and all that belongs to it."""
        with self._database.write() as session:
            row = self._get(session, job_id)
            if self._jobs.view(row).is_open:
                raise RefusedError("It is being made. Cancel it first.")
            session.delete(row)
        path = self._path(row)
        for beside in path.parent.glob(f"{escape(path.stem)}.*"):
            beside.unlink(missing_ok=True)
        self._events.tell({"type": "job", "id": row.id, "kind": row.kind, "subject": row.subject, "state": "deleted"})

    def _path(self, row: JobRow) -> Path:
        return self._folders.ours(str(self._jobs.order_of(row).target), self._folders.renders)

    def _get(self, session: Session, job_id: str) -> JobRow:
        row = session.get(JobRow, job_id)
        if row is None or row.kind != self._kind.name:
            raise NotFoundError("That file is not there any more.")
        return row
