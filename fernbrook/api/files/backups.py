"""Routes for backups of the library."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.service.exporting import MadeBackup, Schedule

router = APIRouter(prefix="/backups", tags=["backups"])


class NewBackup(ApiModel):
    """Whether the audio files are part of it."""

    with_audio: bool


class BackupOut(ApiModel):
    """A backup that was made here, or is under way."""

    id: str
    job: JobOut
    with_audio: bool
    bytes: int | None
    made_at: datetime

    @classmethod
    def of(cls, made: MadeBackup) -> BackupOut:
        """The answer for a backup."""
        return cls(
            id=made.job.id,
            job=JobOut.of(made.job),
            with_audio=made.with_audio,
            bytes=made.bytes,
            made_at=made.job.created_at,
        )


@router.get("")
def list_backups(services: ServicesDep) -> list[BackupOut]:
    """All backups that lie here, the newest first."""
    return [BackupOut.of(b) for b in services.backups.list()]


@router.post("", status_code=202)
def make_backup(services: ServicesDep, new: NewBackup) -> BackupOut:
    """Back up all that is here, while it is in use."""
    return BackupOut.of(services.backups.start(new.with_audio))


@router.get("/schedule")
def get_schedule(services: ServicesDep) -> Schedule:
    """Which backups are made by themselves."""
    return services.backups.schedule()


@router.put("/schedule")
def set_schedule(services: ServicesDep, schedule: Schedule) -> Schedule:
    """Have backups made by themselves, or not."""
    services.backups.set_schedule(schedule)
    return services.backups.schedule()


@router.get("/{backup_id}/file", response_class=FileResponse)
def download_backup(services: ServicesDep, backup_id: str) -> FileResponse:
    """A backup, to be kept elsewhere."""
    path = services.backups.file(backup_id)
    return FileResponse(path, filename=path.name, media_type="application/zip")


@router.delete("/{backup_id}", status_code=204)
def delete_backup(services: ServicesDep, backup_id: str) -> Response:
    """Delete a backup."""
    services.backups.delete(backup_id)
    return Response(status_code=204)
