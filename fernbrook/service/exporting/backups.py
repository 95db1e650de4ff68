"""Backups of the library as jobs: made on demand, or every so many days, and the last of them kept."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from pydantic import Field
from sqlalchemy.orm import Session

from fernbrook.core.value import Value
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.ground import Settings, new_id
from fernbrook.service.jobs import Job, JobKind, Jobs
from fernbrook.service.work.back_up import BackupOrder, back_up
from fernbrook.service.work.worker import Result
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import JobState, jobs_of_kind
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow, SettingRow

NAME, SUBJECT = "backup", "library"
SETTING = "backup_schedule"
TRY_AGAIN = timedelta(days=1)
"""After one that failed the next is made so much later."""


class Schedule(Value):
    """Every how many days a backup is made by itself, None for never; how many are kept; with audio or without."""

    every_days: int | None = Field(default=None, ge=1, le=365)
    keep: int = Field(default=3, ge=1, le=100)
    with_audio: bool = False


@dataclass(frozen=True)
class MadeBackup:
    """A backup that was made here, or is under way."""

    job: Job
    with_audio: bool
    bytes: int | None


class Backups:
    """All use cases that concern backups."""

    def __init__(self, folders: Folders, database: Database, jobs: Jobs, settings: Settings) -> None:
        self._folders = folders
        self._database = database
        self._jobs = jobs
        self._settings = settings
        self._kind = JobKind(NAME, Stored(BackupOrder, {}), back_up, self._made)
        jobs.register(self._kind)

    def list(self) -> list[MadeBackup]:
        """All backups that lie here, the newest first."""
        with self._database.read() as session:
            return [self._view(row) for row in jobs_of_kind(session, NAME, SUBJECT)]

    def start(self, with_audio: bool) -> MadeBackup:
        """Queue a backup of all that is here.

        Raises
        ------
        RefusedError
            When one is being made already.
        """
        with self._database.write() as session:
            if any(self._jobs.view(row).is_open for row in jobs_of_kind(session, NAME, SUBJECT)):
                raise RefusedError("A backup is being made already.")
            job_id = new_id()
            stamp = datetime.now(UTC).strftime("%Y-%m-%d %H%M")
            target = f"{self._folders.backups.name}/Fernbrook {stamp} {job_id[:4]}.zip"
            order = BackupOrder(target=target, with_audio=with_audio)
            row = self._jobs.add(session, self._kind, SUBJECT, "Backup", order, {"with_audio": with_audio}, job_id)
        self._jobs.announce(row)
        return self._view(row)

    def file(self, job_id: str) -> Path:
        """A backup that is done."""
        with self._database.read() as session:
            path = self._path(self._get(session, job_id))
        if not path.is_file():
            raise NotFoundError("That backup is not there: it is not made yet, or was deleted.")
        return path

    def delete(self, job_id: str) -> None:
        """Delete a backup."""
        with self._database.write() as session:
            row = self._get(session, job_id)
            if self._jobs.view(row).is_open:
                raise RefusedError("It is being made. Cancel it first.")
            path = self._path(row)
            session.delete(row)
        path.unlink(missing_ok=True)

    def schedule(self) -> Schedule:
        """What is made by itself."""
        said = self._settings.get(SETTING)
        return Schedule.model_validate_json(said) if said else Schedule()

    def set_schedule(self, schedule: Schedule) -> None:
        """Have backups made by themselves, or not."""
        self._settings.put(SETTING, schedule.model_dump_json())

    def make_if_due(self, now: datetime | None = None) -> bool:
        """Begin a backup if the schedule has it that one is due; whether one was begun."""
        schedule = self.schedule()
        if schedule.every_days is None:
            return False
        moment = now or datetime.now(UTC)
        for made in self.list():
            went_well = made.job.state == JobState.DONE or made.job.is_open
            wait = timedelta(days=schedule.every_days) if went_well else TRY_AGAIN
            if abs(moment - made.job.created_at) < wait:  # a clock may have been set back since
                return False
        self.start(schedule.with_audio)
        return True

    def _made(self, session: Session, row: JobRow, _: Result) -> None:
        """The oldest go, as the schedule has it; where nothing is made by itself all are kept."""
        said = session.get(SettingRow, SETTING)
        schedule = Schedule.model_validate_json(said.value) if said else Schedule()
        if schedule.every_days is None:
            return
        done = [r for r in jobs_of_kind(session, NAME, SUBJECT) if r.state == JobState.DONE and r.id != row.id]
        for old in done[max(0, schedule.keep - 1) :]:
            self._path(old).unlink(missing_ok=True)
            session.delete(old)

    def _view(self, row: JobRow) -> MadeBackup:
        result = row.result or {}
        return MadeBackup(self._jobs.view(row), bool(result.get("with_audio")), result.get("bytes"))

    def _path(self, row: JobRow) -> Path:
        return self._folders.ours(str(self._jobs.order_of(row).target), self._folders.backups)

    @staticmethod
    def _get(session: Session, job_id: str) -> JobRow:
        row = session.get(JobRow, job_id)
        if row is None or row.kind != NAME:
            raise NotFoundError("That backup is not there any more.")
        return row
