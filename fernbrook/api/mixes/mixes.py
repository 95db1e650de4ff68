"""Routes for mixes."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query, Response
from fastapi.responses import StreamingResponse

from fernbrook.api.frame import RESPONSES, Sample, ServicesDep, sound_response
from fernbrook.api.mixes.answers import Changed, changed, whole
from fernbrook.api.schemas.mixes import (
    Change,
    CourseOut,
    LoudnessOut,
    MixOut,
    MixSummaryOut,
    NewMix,
    NewTry,
    OnVersion,
    PutTry,
    TrialOut,
)
from fernbrook.api.schemas.transitions import PlacingOut
from fernbrook.core.mix.commands import AnyMixCommand
from fernbrook.core.plan import RATE
from fernbrook.service.mixes import MOST_COLUMNS

TrialId = Annotated[str | None, Query(max_length=32)]
LONGEST_MEASURED = 600 * RATE

router = APIRouter(prefix="/mixes", tags=["mixes"])


@router.get("")
def list_mixes(services: ServicesDep) -> list[MixSummaryOut]:
    """All mixes, the last changed first."""
    return [MixSummaryOut.of(s) for s in services.mixes.list()]


@router.post("", status_code=201)
def create_mix(services: ServicesDep, new: NewMix) -> MixOut:
    """Begin an empty mix."""
    return MixOut.of(services.mixes.create(new.name))


@router.post("/tries", status_code=201)
def try_two(services: ServicesDep, two: NewTry) -> MixOut:
    """Begin a mix of two tracks, to hear how they go together; it is listed apart from the others."""
    return MixOut.of(services.mixes.try_two(two.first, two.second))


@router.post("/{mix_id}/pairs-of/{try_id}")
def put_pair(services: ServicesDep, mix_id: str, try_id: str, put: PutTry) -> MixOut:
    """Put two tracks into a mix as they meet in a try."""
    return MixOut.of(services.mixes.put_into(try_id, mix_id, put.version, put.at))


@router.get("/{mix_id}")
def get_mix(services: ServicesDep, mix_id: str) -> MixOut:
    """A mix as it stands, resolved."""
    return whole(services.mixes.open(mix_id))


@router.delete("/{mix_id}", status_code=204)
def delete_mix(services: ServicesDep, mix_id: str) -> Response:
    """Delete a mix, its history and the files that were made of it."""
    services.delete_mix(mix_id)
    return Response(status_code=204)


@router.post("/{mix_id}/duplicate", status_code=201)
def duplicate_mix(services: ServicesDep, mix_id: str) -> MixOut:
    """Begin a copy of a mix."""
    return MixOut.of(services.mixes.duplicate(mix_id))


@router.post("/{mix_id}/commands", response_model=Changed)
def change_mix(services: ServicesDep, mix_id: str, change: Change) -> Response:
    """Change a mix."""
    return changed(services.mixes.change(mix_id, change.version, change.command, change.gesture), change.have)


@router.post("/{mix_id}/undo", response_model=Changed)
def undo(services: ServicesDep, mix_id: str, on: OnVersion) -> Response:
    """Take the last change back."""
    return changed(services.mixes.undo(mix_id, on.version), on.have)


@router.post("/{mix_id}/redo", response_model=Changed)
def redo(services: ServicesDep, mix_id: str, on: OnVersion) -> Response:
    """Bring the last undone change again."""
    return changed(services.mixes.redo(mix_id, on.version), on.have)


@router.post("/{mix_id}/trials", status_code=201)
def try_command(services: ServicesDep, mix_id: str, command: AnyMixCommand) -> TrialOut:
    """See what a command would make of a mix, and have it ready to be heard."""
    return TrialOut.of(services.mixes.trial(mix_id, command))


@router.get("/{mix_id}/transitions/{index}/proposals")
def list_proposals(services: ServicesDep, mix_id: str, index: Annotated[int, Path(ge=0, le=1000)]) -> list[PlacingOut]:
    """Where a transition could lie, the best first, with reasons."""
    planned, found = services.mixes.proposals(mix_id, index)
    return [PlacingOut.of(proposal, planned) for proposal in found]


@router.get("/{mix_id}/course")
def get_course(
    services: ServicesDep, mix_id: str, columns: Annotated[int, Query(ge=1, le=MOST_COLUMNS)] = 1200
) -> CourseOut:
    """How loud each entry is over the whole of a mix, and how busy the limiter, in columns of equal time."""
    return CourseOut.of(services.courses.course(mix_id, columns))


@router.get("/{mix_id}/audio", response_class=StreamingResponse, responses=RESPONSES)
def listen_to_mix(
    services: ServicesDep,
    mix_id: str,
    start: Sample = 0,
    end: Sample | None = None,
    entry: Annotated[list[str] | None, Query(max_length=500)] = None,
    click_db: Annotated[float | None, Query(ge=-60.0, le=0.0)] = None,
    trial: TrialId = None,
    gain_db: Annotated[float, Query(ge=-24.0, le=0.0)] = 0.0,
) -> StreamingResponse:
    """The sound of a mix between two samples; only some entries where they are named, with a click where asked for; the
    mix as a trial would have it, where one is named; softer, where a gain is given."""
    wanted = frozenset(entry) if entry else None
    return sound_response(*services.listening.preview(mix_id, start, end, wanted, click_db, trial, gain_db))


@router.get("/{mix_id}/loudness")
def measure_loudness(
    services: ServicesDep, mix_id: str, start: Sample, end: Sample, trial: TrialId = None
) -> LoudnessOut:
    """How loud a mix, or a trial of it, is between two samples that are at most ten minutes apart."""
    stop = min(end, start + LONGEST_MEASURED)
    return LoudnessOut(lufs=services.listening.loudness(mix_id, start, stop, trial))
