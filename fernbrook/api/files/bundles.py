"""Routes for bundles: mixes as one file, made here or brought from elsewhere."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, File, Response, UploadFile
from fastapi.responses import FileResponse
from pydantic import Field

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.api.schemas.markup import FacetReadOut
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.exporting import MadeBundle
from fernbrook.service.files import display_name
from fernbrook.service.importing import Arrival, ArrivedBundle, OpenedBundle

router = APIRouter(tags=["bundles"])


class NewBundle(ApiModel):
    """How the music travels, and whether all that led to the mix does."""

    audio: BundleAudio = BundleAudio.ORIGINAL
    with_history: bool = True


class BundleOut(ApiModel):
    """A bundle that was made here, or is under way."""

    id: str
    job: JobOut
    audio: BundleAudio
    with_history: bool
    bytes: int | None
    made_at: datetime

    @classmethod
    def of(cls, made: MadeBundle) -> BundleOut:
        """The answer for a bundle."""
        return cls(
            id=made.job.id,
            job=JobOut.of(made.job),
            audio=made.audio,
            with_history=made.with_history,
            bytes=made.bytes,
            made_at=made.job.created_at,
        )


class ArrivingTrackOut(ApiModel):
    """A track of a bundle, and what of it differs from what is here."""

    id: str
    title: str
    artist: str
    arrival: Arrival
    parts: list[FacetReadOut]


class ArrivedOut(ApiModel):
    """A bundle that was brought here and is not opened yet. ``needs`` is how many bytes that takes."""

    id: str
    name: str
    made_at: str
    audio: BundleAudio
    states: int
    needs: int
    tracks: list[ArrivingTrackOut]

    @classmethod
    def of(cls, arrived: ArrivedBundle) -> ArrivedOut:
        """The shape of what was brought."""
        tracks = [
            ArrivingTrackOut(
                id=t.id,
                title=t.title,
                artist=t.artist,
                arrival=t.arrival,
                parts=[FacetReadOut.of(p) for p in t.parts],
            )
            for t in arrived.tracks
        ]
        return cls(
            id=arrived.id,
            name=arrived.name,
            made_at=arrived.made_at,
            audio=arrived.audio,
            states=arrived.states,
            needs=arrived.needs,
            tracks=tracks,
        )


class Opening(ApiModel):
    """The tracks of a bundle, by their ids there, whose markup takes the place of what is here."""

    take: list[str] = Field(default_factory=list, max_length=10_000)


class OpeningOut(ApiModel):
    """How far the opening of a bundle is, and the mix that it became."""

    job: JobOut
    mix_id: str | None

    @classmethod
    def of(cls, opened: OpenedBundle) -> OpeningOut:
        """The answer for an opening."""
        return cls(job=JobOut.of(opened.job), mix_id=opened.mix_id)


@router.get("/mixes/{mix_id}/bundles")
def list_bundles(services: ServicesDep, mix_id: str) -> list[BundleOut]:
    """All bundles of a mix that lie here, the newest first."""
    return [BundleOut.of(b) for b in services.bundles.made_of(mix_id)]


@router.post("/mixes/{mix_id}/bundles", status_code=202)
def make_bundle(services: ServicesDep, mix_id: str, new: NewBundle) -> BundleOut:
    """Pack a mix as it is now."""
    return BundleOut.of(services.bundles.start(mix_id, new.audio, with_history=new.with_history))


@router.get("/bundles/{bundle_id}/file", response_class=FileResponse)
def download_bundle(services: ServicesDep, bundle_id: str) -> FileResponse:
    """A bundle, to be taken elsewhere."""
    path, name = services.bundles.file(bundle_id)
    return FileResponse(path, filename=name, media_type="application/zip")


@router.delete("/bundles/{bundle_id}", status_code=204)
def delete_bundle(services: ServicesDep, bundle_id: str) -> Response:
    """Delete a bundle that was made here."""
    services.bundles.delete(bundle_id)
    return Response(status_code=204)


@router.post("/arrived-bundles", status_code=201)
def bring_bundle(services: ServicesDep, file: Annotated[UploadFile, File()]) -> ArrivedOut:
    """Bring a bundle here and see what is in it; nothing is opened yet."""
    return ArrivedOut.of(services.bundle_opening.bring(file.file, display_name(file.filename or "")))


@router.post("/arrived-bundles/{bundle_id}/open", status_code=202)
def open_bundle(services: ServicesDep, bundle_id: str, opening: Opening) -> OpeningOut:
    """Open a bundle that was brought here."""
    return OpeningOut.of(services.bundle_opening.open(bundle_id, opening.take))


@router.get("/arrived-bundles/{bundle_id}/opening")
def get_opening(services: ServicesDep, bundle_id: str) -> OpeningOut:
    """How far the opening of a bundle is."""
    return OpeningOut.of(services.bundle_opening.opening(bundle_id))


@router.delete("/arrived-bundles/{bundle_id}", status_code=204)
def leave_bundle(services: ServicesDep, bundle_id: str) -> Response:
    """Throw a bundle away that was brought here."""
    services.bundle_opening.leave(bundle_id)
    return Response(status_code=204)
