"""Saved shapes in the database."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.core.mix.transitions import SavedShape
from fernbrook.store.stored import Stored
from fernbrook.store.tables import ShapeRow
from fernbrook.store.upgrades import with_plain_words

SHAPE = Stored(SavedShape, {1: with_plain_words})


def all_shapes(session: Session) -> list[ShapeRow]:
    """All saved shapes, by name."""
    return sorted(session.scalars(select(ShapeRow)), key=lambda row: (row.name.casefold(), row.id))


def saved_shape_of(row: ShapeRow) -> SavedShape:
    """A saved shape under the name that it has now."""
    return SHAPE.from_bytes(row.state).model_copy(update={"name": row.name})
