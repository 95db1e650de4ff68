"""Routes for the library."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Response, UploadFile
from fastapi.responses import FileResponse, StreamingResponse
from pydantic_core import to_json

from fernbrook.api.access import HouseDep
from fernbrook.api.schemas import ImportedOut, TrackOut, listed_track
from fernbrook.api.sound import RESPONSES, sound_response
from fernbrook.core.grid import MAX_BPM, MIN_BPM

router = APIRouter(prefix="/tracks", tags=["tracks"])


@router.get("", response_model=list[TrackOut])
def list_tracks(house: HouseDep) -> Response:
    """All tracks, newest first."""
    tracks = [listed_track(listed) for listed in house.library.list()]
    return Response(to_json(tracks), media_type="application/json")


@router.post("", status_code=201)
def import_track(
    house: HouseDep,
    file: Annotated[UploadFile, File()],
    tempo_low: Annotated[float | None, Form(ge=MIN_BPM, le=MAX_BPM)] = None,
    tempo_high: Annotated[float | None, Form(ge=MIN_BPM, le=MAX_BPM)] = None,
) -> ImportedOut:
    """Bring in one audio file; its tempo is looked for within a range where one is given."""
    tempo_range = None if tempo_low is None or tempo_high is None else (tempo_low, tempo_high)
    imported = house.library.bring_in(file.file, file.filename or "unnamed", tempo_range)
    return ImportedOut(track=TrackOut.of(*house.library.get(imported.track.id)), known=imported.known)


@router.get("/{track_id}")
def get_track(house: HouseDep, track_id: str) -> TrackOut:
    """One track."""
    return TrackOut.of(*house.library.get(track_id))


@router.delete("/{track_id}", status_code=204)
def remove_track(house: HouseDep, track_id: str) -> Response:
    """Take a track out of the library."""
    house.library.remove(track_id)
    return Response(status_code=204)


@router.post("/{track_id}/analyse", status_code=202)
def analyse_track(house: HouseDep, track_id: str) -> TrackOut:
    """Analyse a track again; a grid that was changed by hand or marked as checked stays."""
    house.library.analyse_again(track_id)
    return TrackOut.of(*house.library.get(track_id))


@router.get("/{track_id}/peaks/{bucket}", response_class=FileResponse)
def get_peaks(house: HouseDep, track_id: str, bucket: int) -> FileResponse:
    """Waveform peaks: for each bucket of samples one byte for low, mid and high."""
    return FileResponse(
        house.library.peaks(track_id, bucket),
        media_type="application/octet-stream",
        headers={"cache-control": "private, max-age=31536000, immutable"},
    )


@router.get("/{track_id}/audio", response_class=StreamingResponse, responses=RESPONSES)
def listen_to_track(
    house: HouseDep,
    track_id: str,
    start: Annotated[int, Query(ge=0)] = 0,
    end: Annotated[int | None, Query(ge=0)] = None,
    click_db: Annotated[float | None, Query(ge=-60.0, le=0.0)] = None,
) -> StreamingResponse:
    """The track's own sound between two samples, with a click on its beats where a level for one is given."""
    return sound_response(*house.marking.listen(track_id, start, end, click_db))
