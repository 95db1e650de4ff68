"""Routes for sticks: what is put on one, and what a player changed on it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import Field

from fernbrook.api.frame import ServicesDep
from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.api.schemas.jobs import JobOut
from fernbrook.api.schemas.library import Made
from fernbrook.api.schemas.markup import FacetReadOut
from fernbrook.core.track import MarkFacet
from fernbrook.formats.stick import MUSIC
from fernbrook.service.exporting import Action, StickPlan
from fernbrook.service.importing import StickRead
from fernbrook.service.jobs import Job

router = APIRouter(prefix="/sticks", tags=["sticks"])
Path = Annotated[str, Query(min_length=1, max_length=4000, description="The whole path of the stick's folder.")]


class StickWish(ApiModel):
    """Where a stick is, and which lists and mixes are put on it."""

    path: str = Field(min_length=1, max_length=4000)
    lists: list[str] = Field(default_factory=list, max_length=1000)
    mixes: list[str] = Field(default_factory=list, max_length=1000)


class PlannedFileOut(ApiModel):
    """A track as it comes to lie on a stick, and why it is converted or left out, where it is."""

    track_id: str
    title: str
    artist: str
    file: str
    action: Action
    reason: str
    bytes: int


class StickPlanOut(ApiModel):
    """What filling a stick would do, and why it cannot be, where it cannot. ``gone`` is how many tracks go from it."""

    player: str
    kinds: list[str]
    files: list[PlannedFileOut]
    lists: list[str]
    gone: int
    needs: int
    free: int
    problem: str
    notes: list[str]

    @classmethod
    def of(cls, plan: StickPlan) -> StickPlanOut:
        """The answer for a plan."""
        return cls(
            player=plan.player,
            kinds=list(plan.takes.kinds),
            files=[PlannedFileOut(**f.__dict__) for f in plan.files],
            lists=list(plan.lists),
            gone=sum(name.startswith(f"{MUSIC}/") for name in plan.gone),
            needs=plan.needs,
            free=plan.free,
            problem=plan.problem,
            notes=list(plan.notes),
        )


class NotPut(ApiModel):
    """A track that could not be put on a stick, and why."""

    title: str
    reason: str


class FillingOut(ApiModel):
    """The filling that is under way, or was last: how many files were written, how many were there, and which could not
    be put on it."""

    job: JobOut | None = None
    written: int | None = None
    kept: int | None = None
    failed: list[NotPut] = Field(default_factory=list)

    @classmethod
    def of(cls, job: Job | None) -> FillingOut:
        """The answer for a filling."""
        if job is None:
            return cls()
        said = {name: job.result[name] for name in ("written", "kept", "failed") if name in job.result}
        return cls(job=JobOut.of(job), **said)


class ChangedOut(ApiModel):
    """A track whose markup a player changed, part by part."""

    track_id: str
    title: str
    artist: str
    parts: list[FacetReadOut]


class PlayedOut(ApiModel):
    """A track that was played from a stick."""

    track_id: str | None
    name: str
    at: datetime
    seconds: float


class StickReadOut(ApiModel):
    """What a stick says: when it was filled, what was changed on it, what was played."""

    exported_at: datetime | None
    changed: list[ChangedOut]
    played: list[PlayedOut]
    notes: list[str]

    @classmethod
    def of(cls, read: StickRead) -> StickReadOut:
        """The shape of what was read."""
        changed = [
            ChangedOut(track_id=c.track_id, title=c.title, artist=c.artist, parts=[FacetReadOut.of(p) for p in c.parts])
            for c in read.changed
        ]
        played = [PlayedOut(**x.__dict__) for x in read.played]
        return cls(exported_at=read.exported_at, changed=changed, played=played, notes=list(read.notes))


class TakeFromStick(ApiModel):
    """Which parts of what was changed on a track are taken."""

    path: str = Field(min_length=1, max_length=4000)
    track_id: str = Field(max_length=32)
    facets: list[MarkFacet] = Field(min_length=1, max_length=10)


class LeaveOnStick(ApiModel):
    """A track of which nothing is taken."""

    path: str = Field(min_length=1, max_length=4000)
    track_id: str = Field(max_length=32)


class OnStick(ApiModel):
    """Where a stick is."""

    path: str = Field(min_length=1, max_length=4000)


@router.get("/places")
def list_places(services: ServicesDep) -> list[str]:
    """Where sticks are, the one that was used last first."""
    return services.sticks.places()


@router.post("/plan")
def plan_stick(services: ServicesDep, wish: StickWish) -> StickPlanOut:
    """What filling a stick would do; nothing is written."""
    return StickPlanOut.of(services.sticks.plan(wish.path, wish.lists, wish.mixes))


@router.post("/fill", status_code=202)
def fill_stick(services: ServicesDep, wish: StickWish) -> FillingOut:
    """Fill a stick."""
    return FillingOut.of(services.sticks.start(wish.path, wish.lists, wish.mixes))


@router.get("/filling")
def get_filling(services: ServicesDep) -> FillingOut:
    """The filling that is under way, or was last."""
    return FillingOut.of(services.sticks.last())


@router.get("/read")
def read_stick(services: ServicesDep, path: Path) -> StickReadOut:
    """What a player changed and played on a stick, beside what the library has."""
    return StickReadOut.of(services.stick_reading.read(path))


@router.post("/take", status_code=204)
def take_from_stick(services: ServicesDep, take: TakeFromStick) -> Response:
    """Take parts of what was changed on a track, as one change that can be undone."""
    services.stick_reading.take(take.path, take.track_id, take.facets)
    return Response(status_code=204)


@router.post("/leave", status_code=204)
def leave_on_stick(services: ServicesDep, leave: LeaveOnStick) -> Response:
    """Throw away what a player changed on a track."""
    services.stick_reading.leave(leave.path, leave.track_id)
    return Response(status_code=204)


@router.post("/played", status_code=201)
def list_played(services: ServicesDep, stick: OnStick) -> Made:
    """Make a list of what was played from a stick."""
    return Made(id=services.stick_reading.list_of_played(stick.path))
