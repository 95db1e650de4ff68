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
