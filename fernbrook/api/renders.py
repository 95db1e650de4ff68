"""Routes for rendered files and other long work."""

from __future__ import annotations

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse

from fernbrook.api.access import HouseDep
from fernbrook.api.schemas.jobs import RenderedOut
from fernbrook.api.schemas.shape import Shape
from fernbrook.audio.output import OutputFormat

router = APIRouter(tags=["renders"])


class NewRender(Shape):
    """The kind of file."""

    output: OutputFormat


@router.get("/mixes/{mix_id}/renders")
def list_renders(house: HouseDep, mix_id: str) -> list[RenderedOut]:
    """All renders of a mix, newest first."""
    return [RenderedOut.of(row) for row in house.renders.list(mix_id)]


@router.post("/mixes/{mix_id}/renders", status_code=202)
def start_render(house: HouseDep, mix_id: str, new: NewRender) -> RenderedOut:
    """Render a mix as it is now."""
    return RenderedOut.of(house.renders.start(mix_id, new.output))


@router.delete("/renders/{render_id}", status_code=204)
def delete_render(house: HouseDep, render_id: str) -> Response:
    """Delete a render and its files."""
    house.renders.delete(render_id)
    return Response(status_code=204)


@router.get("/renders/{render_id}/file", response_class=FileResponse)
def download_render(house: HouseDep, render_id: str) -> FileResponse:
    """The rendered audio file."""
    path, name = house.renders.file(render_id)
    return FileResponse(path, filename=name)


@router.get("/renders/{render_id}/track-list", response_class=FileResponse)
def download_track_list(house: HouseDep, render_id: str) -> FileResponse:
    """The track list that belongs to a rendered file."""
    path, name = house.renders.track_list(render_id)
    return FileResponse(path, filename=name, media_type="text/plain; charset=utf-8")


@router.post("/jobs/{job_id}/cancel", status_code=204)
def cancel_job(house: HouseDep, job_id: str) -> Response:
    """End a job."""
    house.jobs.cancel(job_id)
    return Response(status_code=204)


@router.post("/jobs/{job_id}/retry", status_code=204)
def retry_job(house: HouseDep, job_id: str) -> Response:
    """Try a job that did not end well again."""
    house.jobs.retry(job_id)
    return Response(status_code=204)
