"""Jobs in the database."""

from __future__ import annotations

from enum import StrEnum

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from fernbrook.store.tables import JobRow


class JobState(StrEnum):
    """Waiting and running jobs are open; the others have ended."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"
    INTERRUPTED = "interrupted"


OPEN = (JobState.WAITING, JobState.RUNNING)


def jobs_of_kind(session: Session, kind: str, subject: str | None = None) -> list[JobRow]:
    """Jobs of a kind, newest first; only those about one track or mix where ``subject`` is given."""
    query = select(JobRow).where(JobRow.kind == kind)
    if subject is not None:
        query = query.where(JobRow.subject == subject)
    return list(session.scalars(query.order_by(JobRow.created_at.desc(), JobRow.id)))


def open_jobs(session: Session) -> list[JobRow]:
    """Jobs that have not ended, oldest first."""
    return list(session.scalars(select(JobRow).where(JobRow.state.in_(OPEN)).order_by(JobRow.created_at, JobRow.id)))


def unfinished_by_subject(session: Session, kind: str, subject: str | None = None) -> dict[str, JobRow]:
    """For each subject its job of a kind, unless that is done."""
    query = select(JobRow).where(JobRow.kind == kind, JobRow.state != JobState.DONE).order_by(JobRow.created_at)
    if subject is not None:
        query = query.where(JobRow.subject == subject)
    return {row.subject: row for row in session.scalars(query)}


def forget_jobs(session: Session, kind: str, subject: str) -> None:
    """Delete the jobs of a kind about one subject: a newer one takes their place."""
    session.execute(delete(JobRow).where(JobRow.kind == kind, JobRow.subject == subject))
