"""Mixes in the database: a tree of revisions, and a head that says which of them counts."""

from __future__ import annotations

import zlib
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.core.mix import Mix
from fernbrook.store.tables import MixRow, RevisionRow, now


def all_mixes(session: Session) -> list[MixRow]:
    """All mixes, the last changed first."""
    return list(session.scalars(select(MixRow).order_by(MixRow.changed_at.desc(), MixRow.id)))


def state_of(revision: RevisionRow) -> Mix:
    """The mix as it was at a revision."""
    return Mix.model_validate_json(zlib.decompress(revision.state))


def add_mix(session: Session, mix_id: str, mix: Mix, label: str) -> MixRow:
    """Begin a mix with its first revision."""
    row = MixRow(id=mix_id, name=mix.name)
    session.add(row)
    session.flush()
    _add_revision(session, row, mix, label, None)
    return row


def head_of(session: Session, row: MixRow) -> RevisionRow:
    """The revision that a mix is at."""
    head = session.get(RevisionRow, row.head)
    if head is None:
        raise LookupError(f"mix {row.id} has lost its head revision {row.head}")
    return head


def advance(session: Session, row: MixRow, mix: Mix, label: str, command: dict[str, Any]) -> None:
    """Add a revision after the head and move on to it."""
    _add_revision(session, row, mix, label, command)
    _changed(row, mix)


def move_head(row: MixRow, revision: RevisionRow) -> None:
    """Go to another revision, for undo and redo."""
    row.head = revision.id
    _changed(row, state_of(revision))


def _add_revision(session: Session, row: MixRow, mix: Mix, label: str, command: dict[str, Any] | None) -> None:
    revision = RevisionRow(
        subject=row.id,
        parent=row.head,
        label=label,
        command=command,
        state=zlib.compress(mix.model_dump_json().encode()),
        track_ids=" ".join(sorted({e.track_id for e in mix.entries})),
    )
    session.add(revision)
    session.flush()
    row.head = revision.id


def _changed(row: MixRow, mix: Mix) -> None:
    row.name = mix.name
    row.version += 1
    row.changed_at = now()
