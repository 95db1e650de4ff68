"""Routes for the library."""

from __future__ import annotations

import hashlib
import secrets
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, File, Form, Header, HTTPException, Query, Response, UploadFile
from fastapi.responses import FileResponse, StreamingResponse
from pydantic import Field

from fernbrook.api.frame import RESPONSES, Sample, ServicesDep, sound_response
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.library import FieldChangeOut, FitOut, FoundOut, WantedIn
from fernbrook.api.schemas.tracks import GridOut, ImportedOut, TrackOut, TrackTableOut, track_table
from fernbrook.core.track import MAX_BPM, MIN_BPM
from fernbrook.kept import KeptValues
from fernbrook.service.files import show_in_folder
from fernbrook.service.tracks import TEMPO_RANGE, Heard

router = APIRouter(prefix="/tracks", tags=["tracks"])

Tempo = Annotated[float, Form(ge=MIN_BPM, le=MAX_BPM, allow_inf_nan=False)]
_tables: KeptValues[tuple[object, ...], bytes] = KeptValues(2)
"""What was last listed, for those who ask again."""
IMMUTABLE = {"cache-control": "private, max-age=31536000, immutable"}


class Names(ApiModel):
    """What a track is to be called."""

    title: str = Field(min_length=1, max_length=300)
    artist: str = Field(default="", max_length=300)


class InPlace(ApiModel):
    """A file of this machine that is to stay where it is."""

    path: str = Field(min_length=1, max_length=4096)


@router.get("", response_model=TrackTableOut)
def list_tracks(services: ServicesDep, if_none_match: Annotated[str | None, Header(max_length=200)] = None) -> Response:
    """All tracks, newest first; nothing new, where the caller names what it has."""
    version = (services.folders.root, services.catalogue.version())
    table = _tables.value(version, lambda: track_table(services.catalogue.tracks()))
    tag = f'"{hashlib.blake2b(table, digest_size=12).hexdigest()}"'
    headers = {"etag": tag, "cache-control": "no-cache"}
    if if_none_match == tag:
        return Response(status_code=304, headers=headers)
    return Response(table, media_type="application/json", headers=headers)


@router.get("/find")
def find_tracks(
    services: ServicesDep,
    search: Annotated[str, Query(max_length=1000)] = "",
    sort: Annotated[str, Query(max_length=200, description="Columns, with a minus to turn one round.")] = "",
    list_id: Annotated[str | None, Query(max_length=32, description="Only what is on this list, in its order.")] = None,
) -> FoundOut:
    """The tracks that a search means, in order."""
    among = None if list_id is None else services.collection.tracks_on(list_id)
    columns = tuple(c for c in sort.split(",") if c)
    return FoundOut(ids=services.catalogue.find(search, columns, among))


@router.post("", status_code=201)
def import_track(
    services: ServicesDep,
    file: Annotated[UploadFile, File()],
    tempo_low: Tempo = TEMPO_RANGE[0],
    tempo_high: Tempo = TEMPO_RANGE[1],
) -> ImportedOut:
    """Bring in one audio file; its tempo is looked for within a range."""
    return ImportedOut.of(services.library.bring_in(file.file, file.filename or "unnamed", (tempo_low, tempo_high)))


@router.post("/in-place", status_code=201)
def import_in_place(
    services: ServicesDep, where: InPlace, x_folder_token: Annotated[str, Header(max_length=200)]
) -> ImportedOut:
    """Note a file of this machine where it lies.

    Only for a command that can read the data folder, which the token in it shows: no page may name paths.
    """
    if not secrets.compare_digest(x_folder_token.encode(), services.ownership.owner.token.encode()):
        raise HTTPException(403, "The token is not that of the data folder.")
    return ImportedOut.of(services.library.bring_in_path(Path(where.path), in_place=True))


@router.get("/{track_id}")
def get_track(services: ServicesDep, track_id: str) -> TrackOut:
    """One track."""
    return TrackOut.of(services.library.get(track_id))


@router.get("/{track_id}/grid")
def get_grid(services: ServicesDep, track_id: str) -> GridOut:
    """What is counted in a track; ``version`` says of which of its versions."""
    return GridOut.of(services.library.facts(track_id))


@router.put("/{track_id}", status_code=204)
def rename_track(services: ServicesDep, track_id: str, names: Names) -> Response:
    """Call a track otherwise in the library; its file is left alone."""
    services.collection.rename_track(track_id, names.title, names.artist)
    return Response(status_code=204)


@router.get("/{track_id}/fits")
def what_fits(
    services: ServicesDep,
    track_id: str,
    search: Annotated[str, Query(max_length=1000)] = "",
    before: Annotated[bool, Query(description="What goes before it, in place of after it.")] = False,
) -> list[FitOut]:
    """What goes well with a track, the best first, each with its reasons."""
    return [FitOut.of(fit) for fit in services.catalogue.fits(track_id, search, before)]


@router.get("/{track_id}/file")
def take_file(services: ServicesDep, track_id: str) -> FileResponse:
    """The track's file as it is kept, with whatever was written into it, under its own name."""
    track = services.library.get(track_id)
    path = services.library.file_of(track_id)
    name = f"{track.file_name.rsplit('.', 1)[0]}{path.suffix}"
    return FileResponse(path, filename=name, media_type="application/octet-stream")


@router.post("/{track_id}/file/show", status_code=204)
def show_file(services: ServicesDep, track_id: str) -> Response:
    """Open the folder of the track's file on the machine that the application runs on."""
    show_in_folder(services.library.file_of(track_id))
    return Response(status_code=204)


@router.post("/{track_id}/file/preview")
def preview_file(services: ServicesDep, track_id: str, what: WantedIn) -> list[FieldChangeOut]:
    """What writing would change in a track's file."""
    return [FieldChangeOut.of(c) for c in services.file_writing.preview(track_id, what.wanted)]


@router.post("/{track_id}/file/write")
def write_file(services: ServicesDep, track_id: str, what: WantedIn) -> list[FieldChangeOut]:
    """Write into a track's file; its sound stays the same to the sample."""
    return [FieldChangeOut.of(c) for c in services.file_writing.write(track_id, what.wanted)]


@router.post("/{track_id}/file/restore")
def restore_file(services: ServicesDep, track_id: str) -> list[FieldChangeOut]:
    """Bring back what the fields of a file were before anything was written into it."""
    return [FieldChangeOut.of(c) for c in services.file_writing.restore(track_id)]


@router.post("/{track_id}/file/take", status_code=204)
def take_from_file(services: ServicesDep, track_id: str) -> Response:
    """Give a track what travels in its file, in place of what the library has."""
    services.library.take_from_file(track_id)
    return Response(status_code=204)


@router.delete("/{track_id}", status_code=204)
def remove_track(services: ServicesDep, track_id: str) -> Response:
    """Take a track out of the library."""
    services.library.remove(track_id)
    return Response(status_code=204)


@router.post("/{track_id}/analyse", status_code=202)
def analyse_track(services: ServicesDep, track_id: str) -> TrackOut:
    """Analyse a track again; a grid that was changed by hand or marked as checked stays."""
    services.library.analyse_again(track_id)
    return TrackOut.of(services.library.get(track_id))


@router.get("/{track_id}/peaks/{bucket}", response_class=FileResponse)
def get_peaks(services: ServicesDep, track_id: str, bucket: int) -> FileResponse:
    """Waveform peaks: for each bucket of samples one byte for low, mid and high."""
    return FileResponse(
        services.library.peaks(track_id, bucket),
        media_type="application/octet-stream",
        headers=IMMUTABLE,
    )


@router.get("/{track_id}/audio", response_class=StreamingResponse, responses=RESPONSES)
def listen_to_track(
    services: ServicesDep,
    track_id: str,
    start: Sample = 0,
    end: Sample | None = None,
    click_db: Annotated[float | None, Query(ge=-60.0, le=0.0)] = None,
    back_to: Sample | None = None,
    times: Annotated[int, Query(ge=1, le=1000)] = 1,
) -> StreamingResponse:
    """The track's own sound between two samples, with a click on its beats where a level for one is given.

    With a sample to go back to, rounds between that and the end, joined without a seam; the first begins at the start.
    """
    return sound_response(*services.marking.listen(track_id, Heard(start, end, click_db, back_to, times)))
