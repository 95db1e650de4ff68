"""Routes for backups of the library."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse

from fernbrook.api.access import HouseDep
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.api.schemas.shape import Shape
from fernbrook.service.leaving.backups import MadeBackup, Schedule

router = APIRouter(prefix="/backups", tags=["backups"])


class NewBackup(Shape):
    """Whether the audio files are part of it."""

    with_audio: bool


class BackupOut(Shape):
    """A backup that was made here, or is under way."""

    id: str
    job: JobOut
    with_audio: bool
    bytes: int | None
    made_at: datetime

    @classmethod
    def of(cls, made: MadeBackup) -> BackupOut:
        """The shape of a backup."""
        return cls(
            id=made.job.id,
            job=JobOut.of(made.job),
            with_audio=made.with_audio,
            bytes=made.bytes,
            made_at=made.job.created_at,
        )


@router.get("")
def list_backups(house: HouseDep) -> list[BackupOut]:
    """All backups that lie here, the newest first."""
    return [BackupOut.of(b) for b in house.backups.list()]


@router.post("", status_code=202)
def make_backup(house: HouseDep, new: NewBackup) -> BackupOut:
    """Back up all that is here, while it is in use."""
    return BackupOut.of(house.backups.start(new.with_audio))


@router.get("/schedule")
def get_schedule(house: HouseDep) -> Schedule:
    """Which backups are made by themselves."""
    return house.backups.schedule()


@router.put("/schedule")
def set_schedule(house: HouseDep, schedule: Schedule) -> Schedule:
    """Have backups made by themselves, or not."""
    house.backups.set_schedule(schedule)
    return house.backups.schedule()


@router.get("/{backup_id}/file", response_class=FileResponse)
def download_backup(house: HouseDep, backup_id: str) -> FileResponse:
    """A backup, to be kept elsewhere."""
    path = house.backups.file(backup_id)
    return FileResponse(path, filename=path.name, media_type="application/zip")


@router.delete("/{backup_id}", status_code=204)
def delete_backup(house: HouseDep, backup_id: str) -> Response:
    """Delete a backup."""
    house.backups.delete(backup_id)
    return Response(status_code=204)
