"""Long work: its states, progress and end, and the files that came of it."""

from fernbrook.service.jobs.jobs import Job, JobKind, Jobs, nothing_more
from fernbrook.service.jobs.rendered import Rendered, RenderedFiles
from fernbrook.service.jobs.under_way import UnderWay

__all__ = [
    "Job",
    "JobKind",
    "Jobs",
    "Rendered",
    "RenderedFiles",
    "UnderWay",
    "nothing_more",
]
