"""Shapes of long work and of the files that come of it."""

from __future__ import annotations

from datetime import datetime

from fernbrook.api.schemas.shape import Shape
from fernbrook.audio.output import OUTPUTS, OutputFormat
from fernbrook.core.plan.rate import RATE
from fernbrook.service.jobs import Job
from fernbrook.service.rendered import Rendered
from fernbrook.store.jobs import JobState


class JobOut(Shape):
    """A piece of long work that has not ended well, or not yet."""

    id: str
    state: JobState
    progress: float
    error: str | None

    @classmethod
    def of(cls, job: Job) -> JobOut:
        """The shape of a job."""
        return cls(id=job.id, state=job.state, progress=job.progress, error=job.error)


class RenderedOut(Shape):
    """A rendered file, under way or done. ``speed`` is how many seconds of sound it makes in a second."""

    id: str
    name: str
    output: OutputFormat
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
        """The shape of a rendered file."""
        job = rendered.job
        made = job.progress * rendered.duration_s
        return cls(
            id=job.id,
            name=job.title,
            output=rendered.output,
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


class StraightListOut(Shape):
    """The straightened renders of a track, and the tempo that is suggested; None without a grid."""

    suggested_bpm: float | None
    renders: list[RenderedOut]


class FormatOut(Shape):
    """A kind of file that a mix can be rendered to, and how many bytes a second of it takes, about."""

    id: OutputFormat
    label: str
    hint: str
    is_lossless: bool
    bytes_per_second: float


def formats_out() -> list[FormatOut]:
    """All kinds of files, the default first."""
    return [
        FormatOut(
            id=o,
            label=spec.label,
            hint=spec.hint,
            is_lossless=spec.is_lossless,
            bytes_per_second=spec.expected_bytes(1.0, RATE),
        )
        for o, spec in OUTPUTS.items()
    ]
