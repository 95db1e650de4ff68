"""Files that were rendered as jobs, whatever they hold: where they lie, what they are called, how they are deleted."""

from __future__ import annotations

from dataclasses import dataclass, replace
from glob import escape
from pathlib import Path

from pydantic import ConfigDict, Field, ValidationError
from sqlalchemy.orm import Session

from fernbrook.audio.files import OutputFormat
from fernbrook.core.value import MOST_SECONDS, Value
from fernbrook.errors import FernbrookError, NotFoundError, RefusedError
from fernbrook.service.files import file_name
from fernbrook.service.ground import Events
from fernbrook.service.jobs.jobs import Job, JobKind, Jobs
from fernbrook.service.work.wish import What
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import JobState, jobs_of_kind
from fernbrook.store.tables import JobRow


class Noted(Value):
    """What a job notes of its file; it may come from another machine."""

    model_config = ConfigDict(extra="ignore")

    output: OutputFormat = OutputFormat.WAV_24
    what: What = What.MIX
    passes: int = Field(default=1, ge=1, le=10)
    duration_s: float = Field(default=0.0, ge=0.0, le=MOST_SECONDS)
    bytes: int | None = Field(default=None, ge=0)
    bpm: float | None = None


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
        try:
            return cls(job=job, **Noted.model_validate(job.result).__dict__)
        except ValidationError:
            unreadable = replace(job, error=job.error or "What is noted of it cannot be read. Delete it.")
            return cls(job=unreadable, **Noted().__dict__)


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
        try:
            path = self._path(row)
        except (FernbrookError, ValidationError):  # its order cannot be read: there is nothing of it
            return
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
