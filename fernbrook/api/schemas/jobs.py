"""Requests and answers: long work and of the files that come of it."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from pydantic import Field

from fernbrook.api.schemas.api_model import ApiModel
from fernbrook.audio.files import OUTPUTS, OutputFormat, can_write, encoder_of
from fernbrook.core.plan import RATE
from fernbrook.service.jobs import Job, Rendered
from fernbrook.service.work.wish import What
from fernbrook.store.jobs import JobState


class JobOut(ApiModel):
    """A piece of long work that has not ended well, or not yet."""

    id: str
    state: JobState
    progress: float
    error: str | None

    @classmethod
    def of(cls, job: Job) -> JobOut:
        """The answer for a job."""
        return cls(id=job.id, state=job.state, progress=job.progress, error=job.error)


class Stage(StrEnum):
    """What a render is at: it is measured first where a loudness is to be reached."""

    MEASURING = "measuring"
    RENDERING = "rendering"


class RenderedOut(ApiModel):
    """A rendered file, under way or done. ``speed`` is how many seconds of sound it makes in a second, in each pass."""

    id: str
    name: str
    output: OutputFormat
    what: What
    stage: Stage
    state: JobState
    progress: float
    error: str | None
    duration_s: float
    bytes: int | None
    bpm: float | None
    seconds: float | None
    speed: float | None
    created_at: datetime

    @classmethod
    def of(cls, rendered: Rendered) -> RenderedOut:
        """The answer for a rendered file."""
        job = rendered.job
        made = job.progress * rendered.duration_s * rendered.passes
        is_measured = job.progress * rendered.passes >= rendered.passes - 1
        return cls(
            id=job.id,
            name=job.title,
            output=rendered.output,
            what=rendered.what,
            stage=Stage.RENDERING if is_measured else Stage.MEASURING,
            state=job.state,
            progress=job.progress,
            error=job.error,
            duration_s=rendered.duration_s,
            bytes=rendered.bytes,
            bpm=rendered.bpm,
            seconds=job.seconds,
            speed=made / job.seconds if job.seconds and made else None,
            created_at=job.created_at,
        )


class PacesOut(ApiModel):
    """About how many seconds of a mix are made in one: of each kind of file, and of lanes."""

    files: dict[OutputFormat, float]
    lanes: float
    beside: int = Field(description="How many other jobs run or wait; they are not in these.")


class CoverOut(ApiModel):
    """Whether a mix's picture is one's own, or made of its course."""

    is_own: bool


class StraightListOut(ApiModel):
    """The straightened renders of a track, and the tempo that is suggested; None without a grid."""

    suggested_bpm: float | None
    renders: list[RenderedOut]


class FormatOut(ApiModel):
    """A kind of file that a mix can be rendered to here, and how many bytes a second of it takes, about."""

    id: OutputFormat
    label: str
    hint: str
    is_lossless: bool
    is_video: bool
    bytes_per_second: float


def formats_out() -> list[FormatOut]:
    """All kinds of files that this machine can write, the default first."""
    return [
        FormatOut(
            id=o,
            label=spec.label,
            hint=f"{spec.hint}, by {encoder_of(spec.video)}" if spec.video else spec.hint,
            is_lossless=spec.is_lossless,
            is_video=spec.video is not None,
            bytes_per_second=spec.expected_bytes(1.0, RATE),
        )
        for o, spec in OUTPUTS.items()
        if can_write(o)
    ]
