"""Routes for straightened tracks."""

from __future__ import annotations

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import RenderedOut, StraightListOut
from fernbrook.api.schemas.tracks import ImportedOut
from fernbrook.audio.files import OutputFormat
from fernbrook.core.mix.entries import Bpm

router = APIRouter(tags=["straight"])


class NewStraight(ApiModel):
    """The steady tempo, and the kind of file."""

    bpm: Bpm
    output: OutputFormat = OutputFormat.WAV_24


@router.get("/tracks/{track_id}/straight")
def list_straight(services: ServicesDep, track_id: str) -> StraightListOut:
    """The straightened renders of a track, newest first, and the tempo that is suggested for another."""
    return StraightListOut(
        suggested_bpm=services.straightening.suggested(track_id),
        renders=[RenderedOut.of(row) for row in services.straightening.list(track_id)],
    )


@router.post("/tracks/{track_id}/straight", status_code=202)
def start_straight(services: ServicesDep, track_id: str, new: NewStraight) -> RenderedOut:
    """Render a track alone at a steady tempo."""
    return RenderedOut.of(services.straightening.start(track_id, new.bpm, new.output))


@router.get("/straight/{job_id}/file", response_class=FileResponse)
def download_straight(services: ServicesDep, job_id: str) -> FileResponse:
    """The straightened file."""
    path, name = services.straightening.file(job_id)
    return FileResponse(path, filename=name)


@router.post("/straight/{job_id}/import", status_code=201)
def import_straight(services: ServicesDep, job_id: str) -> ImportedOut:
    """Bring a straightened file into the library, with its exact grid."""
    return ImportedOut.of(services.straightening.bring_in(job_id))


@router.delete("/straight/{job_id}", status_code=204)
def delete_straight(services: ServicesDep, job_id: str) -> Response:
    """Delete a straightened render and its file."""
    services.straightening.delete(job_id)
    return Response(status_code=204)
