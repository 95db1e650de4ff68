"""Routes for the stems of tracks."""

from __future__ import annotations

from fastapi import APIRouter, Response

from fernbrook.api.access import HouseDep
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.api.schemas.shape import Shape
from fernbrook.core.track.stems import Stem
from fernbrook.service.stems import Stems

router = APIRouter(prefix="/tracks/{track_id}/stems", tags=["stems"])


class StemsOut(Shape):
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
def get_stems(house: HouseDep, track_id: str) -> StemsOut:
    """What is known of a track's stems."""
    return StemsOut.of(house.stems, track_id)


@router.post("", status_code=202)
def make_stems(house: HouseDep, track_id: str) -> StemsOut:
    """Take a track apart."""
    house.stems.start(track_id)
    return StemsOut.of(house.stems, track_id)


@router.delete("", status_code=204)
def delete_stems(house: HouseDep, track_id: str) -> Response:
    """Throw the stems of a track away."""
    house.stems.remove(track_id)
    return Response(status_code=204)
