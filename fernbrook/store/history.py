"""Trees of revisions: what each was made from, and what was made from it last."""

from __future__ import annotations

from typing import TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.store.tables import Revision

R = TypeVar("R", bound=Revision)


def parent_of(session: Session, revision: R) -> R | None:
    """The revision that this one was made from."""
    return session.get(type(revision), revision.parent) if revision.parent else None


def next_of(session: Session, revision: R) -> R | None:
    """The latest revision that was made from this one."""
    kind = type(revision)
    siblings = select(kind).where(kind.subject == revision.subject, kind.parent == revision.id)
    return session.scalar(siblings.order_by(kind.id.desc()).limit(1))


def passed(revision: Revision) -> int | None:
    """Take a revision for one that a gesture only passed through; gives the one before it, after which the next is put.

    It stays, for somebody may be reading it, and a mix may be counted by it; but no history shows it.
    """
    revision.label = ""
    return revision.parent


def line_of(session: Session, head: R) -> set[int]:
    """The ids of a revision and of all that it was made from."""
    kind = type(head)
    known = session.execute(select(kind.id, kind.parent).where(kind.subject == head.subject))
    parents: dict[int, int | None] = {row.id: row.parent for row in known}
    line: set[int] = set()
    at: int | None = head.id
    while at is not None and at not in line:
        line.add(at)
        at = parents.get(at)
    return line


def latest_of(session: Session, kind: type[R], subject: str, most: int) -> list[R]:
    """The revisions of a subject that were made last, the newest first, without those that were only passed through."""
    made = select(kind).where(kind.subject == subject, kind.label != "").order_by(kind.id.desc()).limit(most)
    return list(session.scalars(made))
