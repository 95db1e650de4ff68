"""Routes for rendered files and other long work."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Response, UploadFile
from fastapi.responses import FileResponse

from fernbrook.api.frame import ServicesDep, file_response
from fernbrook.api.schemas.jobs import CoverOut, PacesOut, RenderedOut
from fernbrook.core.plan import TimesAt
from fernbrook.formats.cover import MOST_BYTES
from fernbrook.formats.track_list import ListFormat
from fernbrook.service.exporting import CardKind
from fernbrook.service.work.wish import RenderWish

router = APIRouter(tags=["renders"])
MEDIA = {
    ListFormat.TEXT: "text/plain",
    ListFormat.CSV: "text/csv",
    ListFormat.JSON: "application/json",
    ListFormat.CUE: "application/x-cue",
    ListFormat.M3U8: "audio/x-mpegurl",
    ListFormat.XSPF: "application/xspf+xml",
    ListFormat.WEBVTT: "text/vtt",
}


@router.get("/mixes/{mix_id}/renders")
def list_renders(services: ServicesDep, mix_id: str) -> list[RenderedOut]:
    """All renders of a mix, newest first."""
    return [RenderedOut.of(row) for row in services.renders.list(mix_id)]


@router.post("/mixes/{mix_id}/renders", status_code=202)
def start_render(services: ServicesDep, mix_id: str, wish: RenderWish) -> RenderedOut:
    """Render a mix, or a part of it, as it is now."""
    return RenderedOut.of(services.renders.start(mix_id, wish))


@router.get("/mixes/{mix_id}/cover", response_class=Response)
def get_cover(services: ServicesDep, mix_id: str) -> Response:
    """The picture that goes on the files of a mix, as PNG."""
    return Response(services.renders.cover(mix_id), media_type="image/png")


@router.get("/mixes/{mix_id}/cover/origin")
def get_cover_origin(services: ServicesDep, mix_id: str) -> CoverOut:
    """Whether the picture of a mix is one's own."""
    return CoverOut(is_own=services.renders.has_own_cover(mix_id))


@router.put("/mixes/{mix_id}/cover", status_code=204)
async def choose_cover(services: ServicesDep, mix_id: str, file: Annotated[UploadFile, File()]) -> Response:
    """Give a mix a picture of one's own: PNG, JPEG or WebP."""
    services.renders.choose_cover(mix_id, await file.read(MOST_BYTES + 1))
    return Response(status_code=204)


@router.delete("/mixes/{mix_id}/cover", status_code=204)
def drop_cover(services: ServicesDep, mix_id: str) -> Response:
    """Go back to the picture that is made of the mix's course."""
    services.renders.choose_cover(mix_id, None)
    return Response(status_code=204)


@router.get("/render-paces")
def get_paces(services: ServicesDep) -> PacesOut:
    """About how many seconds of a mix are made in one on this machine."""
    paces = services.renders.paces()
    return PacesOut(files=paces.files, lanes=paces.lanes, beside=paces.beside)


@router.get("/mixes/{mix_id}/track-list", response_class=Response)
def get_track_list(
    services: ServicesDep, mix_id: str, form: ListFormat = ListFormat.TEXT, at: TimesAt = TimesAt.HAND_OVER
) -> Response:
    """The tracks of a mix with their times, in one of several forms, to be kept as a file."""
    content, name = services.track_lists.written(mix_id, form, at)
    return file_response(content.encode(), name, MEDIA[form])


@router.get("/mixes/{mix_id}/cue-card", response_class=Response)
def get_cue_card(services: ServicesDep, mix_id: str, kind: CardKind = CardKind.HTML) -> Response:
    """A page for somebody who plays the mix live, to be printed."""
    content, name = services.cue_cards.written(mix_id, kind)
    return file_response(content, name, "application/pdf" if kind is CardKind.PDF else "text/html")


@router.delete("/renders/{render_id}", status_code=204)
def delete_render(services: ServicesDep, render_id: str) -> Response:
    """Delete a render and its files."""
    services.renders.delete(render_id)
    return Response(status_code=204)


@router.get("/renders/{render_id}/file", response_class=FileResponse)
def download_render(services: ServicesDep, render_id: str) -> FileResponse:
    """The rendered audio file."""
    path, name = services.renders.file(render_id)
    return FileResponse(path, filename=name)


@router.get("/renders/{render_id}/track-list", response_class=FileResponse)
def download_track_list(services: ServicesDep, render_id: str) -> FileResponse:
    """The track list that belongs to a rendered file."""
    path, name = services.renders.track_list(render_id)
    return FileResponse(path, filename=name, media_type="text/plain; charset=utf-8")


@router.post("/jobs/{job_id}/cancel", status_code=204)
def cancel_job(services: ServicesDep, job_id: str) -> Response:
    """End a job."""
    services.jobs.cancel(job_id)
    return Response(status_code=204)


@router.post("/jobs/{job_id}/retry", status_code=204)
def retry_job(services: ServicesDep, job_id: str) -> Response:
    """Try a job that did not end well again."""
    services.jobs.retry(job_id)
    return Response(status_code=204)
