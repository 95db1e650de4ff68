"""Routes for the stems of tracks."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Response, UploadFile

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.core.track import Stem
from fernbrook.service.tracks import Stems

router = APIRouter(prefix="/tracks/{track_id}/stems", tags=["stems"])


OwnFile = Annotated[UploadFile | None, File()]


class StemsOut(ApiModel):
    """What is known of a track's stems: which are worth turning, and in words how sure they are; and the job that makes
    them."""

    made: bool
    offered: list[Stem]
    words: str
    job: JobOut | None

    @classmethod
    def of(cls, stems: Stems, track_id: str) -> StemsOut:
        """The shape of what is known."""
        fact, job = stems.state(track_id)
        return cls(
            made=fact is not None,
            offered=list(fact.offered) if fact else [],
            words=fact.words if fact else "",
            job=JobOut.of(job) if job else None,
        )


@router.get("")
def get_stems(services: ServicesDep, track_id: str) -> StemsOut:
    """What is known of a track's stems."""
    return StemsOut.of(services.stems, track_id)


@router.post("", status_code=202)
def make_stems(services: ServicesDep, track_id: str) -> StemsOut:
    """Take a track apart."""
    services.stems.start(track_id)
    return StemsOut.of(services.stems, track_id)


@router.post("/files", status_code=201)
def take_stem_files(
    services: ServicesDep,
    track_id: str,
    drums: OwnFile = None,
    bass: OwnFile = None,
    voice: OwnFile = None,
    music: OwnFile = None,
) -> StemsOut:
    """Use stems of one's own, as files; they are laid on the track and checked to be of it."""
    sent = {Stem.DRUMS: drums, Stem.BASS: bass, Stem.VOICE: voice, Stem.MUSIC: music}
    files = {stem: (file.file, file.filename or stem.value) for stem, file in sent.items() if file is not None}
    services.stems.take_files(track_id, files)
    return StemsOut.of(services.stems, track_id)


@router.delete("", status_code=204)
def delete_stems(services: ServicesDep, track_id: str) -> Response:
    """Throw the stems of a track away."""
    services.stems.remove(track_id)
    return Response(status_code=204)
