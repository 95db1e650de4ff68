"""Routes for straightened tracks."""

from __future__ import annotations

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from fernbrook.api.access import HouseDep
from fernbrook.api.schemas import ImportedOut, StraightListOut, StraightOut, TrackOut
from fernbrook.audio.writer import OutputFormat
from fernbrook.core.grid import MAX_BPM, MIN_BPM

router = APIRouter(tags=["straight"])


class NewStraight(BaseModel):
    """The steady tempo, and the kind of file."""

    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)
    output: OutputFormat = OutputFormat.WAV_24


@router.get("/tracks/{track_id}/straight")
def list_straight(house: HouseDep, track_id: str) -> StraightListOut:
    """The straightened renders of a track, newest first, and the tempo that is suggested for another."""
    return StraightListOut(
        suggested_bpm=house.straightening.suggested(track_id),
        renders=[StraightOut.of(row) for row in house.straightening.list(track_id)],
    )


@router.post("/tracks/{track_id}/straight", status_code=202)
def start_straight(house: HouseDep, track_id: str, new: NewStraight) -> StraightOut:
    """Render a track alone at a steady tempo."""
    return StraightOut.of(house.straightening.start(track_id, new.bpm, new.output))


@router.get("/straight/{job_id}/file", response_class=FileResponse)
def download_straight(house: HouseDep, job_id: str) -> FileResponse:
    """The straightened file."""
    path, name = house.straightening.file(job_id)
    return FileResponse(path, filename=name)


@router.post("/straight/{job_id}/import", status_code=201)
def import_straight(house: HouseDep, job_id: str) -> ImportedOut:
    """Bring a straightened file into the library, with its exact grid."""
    imported = house.straightening.bring_in(job_id)
    return ImportedOut(track=TrackOut.of(*house.library.get(imported.track.id)), known=imported.known)


@router.delete("/straight/{job_id}", status_code=204)
def delete_straight(house: HouseDep, job_id: str) -> Response:
    """Delete a straightened render and its file."""
    house.straightening.delete(job_id)
    return Response(status_code=204)
