"""Jobs in the database."""

from __future__ import annotations

from collections.abc import Collection
from enum import StrEnum

from sqlalchemy import ColumnElement, Integer, delete, func, literal_column, select
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
MADE: ColumnElement[int] = literal_column("jobs.rowid", Integer)
"""The order in which jobs were made, whatever the clock said then (SQLite: rowids rise with every row)."""


def jobs_of_kind(session: Session, kind: str, subject: str | None = None) -> list[JobRow]:
    """Jobs of a kind, newest first; only those about one track or mix where ``subject`` is given."""
    query = select(JobRow).where(JobRow.kind == kind)
    if subject is not None:
        query = query.where(JobRow.subject == subject)
    return list(session.scalars(query.order_by(MADE.desc())))


def open_jobs(session: Session) -> list[JobRow]:
    """Jobs that have not ended, oldest first."""
    return list(session.scalars(select(JobRow).where(JobRow.state.in_(OPEN)).order_by(MADE)))


def count_open(session: Session, kinds: Collection[str]) -> int:
    """How many jobs of some kinds have not ended."""
    query = select(func.count()).select_from(JobRow).where(JobRow.state.in_(OPEN), JobRow.kind.in_(kinds))
    return session.scalar(query) or 0


def waiting_jobs(session: Session, kinds: Collection[str] | None = None) -> list[tuple[str, str, str]]:
    """Id, kind and subject of jobs that wait, oldest first; only those of some kinds where these are given."""
    query = select(JobRow.id, JobRow.kind, JobRow.subject).where(JobRow.state == JobState.WAITING).order_by(MADE)
    if kinds is not None:
        query = query.where(JobRow.kind.in_(kinds))
    return [(job_id, kind, subject) for job_id, kind, subject in session.execute(query)]


def unfinished_by_subject(session: Session, kind: str, subject: str | None = None) -> dict[str, JobRow]:
    """For each subject its job of a kind, unless that is done."""
    query = select(JobRow).where(JobRow.kind == kind, JobRow.state != JobState.DONE).order_by(MADE)
    if subject is not None:
        query = query.where(JobRow.subject == subject)
    return {row.subject: row for row in session.scalars(query)}


def forget_jobs(session: Session, kind: str, subject: str) -> None:
    """Delete the jobs of a kind about one subject: a newer one takes their place."""
    session.execute(delete(JobRow).where(JobRow.kind == kind, JobRow.subject == subject))
