"""Saved hand-overs in the database."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.core.mix.transitions import SavedHandOver
from fernbrook.store.stored import Stored
from fernbrook.store.tables import HandOverRow

HAND_OVER = Stored(SavedHandOver, {})


def all_hand_overs(session: Session) -> list[HandOverRow]:
    """All saved hand-overs, by name."""
    return sorted(session.scalars(select(HandOverRow)), key=lambda row: (row.name.casefold(), row.id))


def hand_over_of(row: HandOverRow) -> SavedHandOver:
    """A saved hand-over under the name that it has now."""
    return HAND_OVER.from_bytes(row.state).model_copy(update={"name": row.name})
