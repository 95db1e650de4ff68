"""Routes for what is known of tracks and mixes as files of other programs, and for what such files say."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, Response, UploadFile

from fernbrook.api.frame import ServicesDep, file_response
from fernbrook.api.schemas.markup import FacetReadOut, OpenTrackOut
from fernbrook.core.track import MarkFacet
from fernbrook.formats.jams_file import LARGEST
from fernbrook.service.files import display_name
from fernbrook.service.importing import MarkForm

router = APIRouter(tags=["mark files"])
JAMS = "application/json"


@router.get("/tracks/{track_id}/markup/file", response_class=Response)
def get_markup_file(services: ServicesDep, track_id: str, form: MarkForm = MarkForm.JAMS) -> Response:
    """Grid, sections, voices, cues, loops and key of a track, to be kept as a file."""
    content, name = services.mark_files.written(track_id, form)
    return file_response(content.encode(), name, JAMS)


@router.post("/tracks/{track_id}/markup/file/look")
async def look_into_markup_file(
    services: ServicesDep, track_id: str, file: Annotated[UploadFile, File()]
) -> list[FacetReadOut]:
    """What a file says of a track, beside what the track has. Nothing is changed."""
    content = await file.read(LARGEST + 1)
    return [FacetReadOut.of(r) for r in services.mark_files.read(track_id, display_name(file.filename or ""), content)]


@router.post("/tracks/{track_id}/markup/file/take")
async def take_markup_file(
    services: ServicesDep,
    track_id: str,
    file: Annotated[UploadFile, File()],
    version: Annotated[int, Form()],
    facets: Annotated[list[MarkFacet], Form(default_factory=list)],
) -> OpenTrackOut:
    """Take parts of what a file says, as one change that can be undone."""
    content = await file.read(LARGEST + 1)
    name = display_name(file.filename or "")
    return OpenTrackOut.of(services.mark_files.take(track_id, version, name, content, facets))


@router.get("/mixes/{mix_id}/jams", response_class=Response)
def get_mix_jams(services: ServicesDep, mix_id: str) -> Response:
    """Beats, tracks, keys, cues and tempi of a mix as JAMS."""
    content, name = services.mark_files.of_mix(mix_id)
    return file_response(content.encode(), name, JAMS)


@router.get("/mixes/{mix_id}/tracks-jams", response_class=Response)
def get_tracks_jams(services: ServicesDep, mix_id: str) -> Response:
    """A ZIP with a JAMS file for each track of a mix."""
    content, name = services.mark_files.of_tracks(mix_id)
    return file_response(content, name, "application/zip")
