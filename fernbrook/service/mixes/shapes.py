"""Shapes that a person saves, to be used in any mix."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from fernbrook.core.mix.transitions import SavedShape
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.ground import Events, new_id
from fernbrook.service.mixes.mixes import Mixes
from fernbrook.store.database import Database
from fernbrook.store.shapes import SHAPE, all_shapes, saved_shape_of
from fernbrook.store.tables import ShapeRow

MOST = 200


@dataclass(frozen=True)
class KeptShape:
    """A saved shape, and by what it is known."""

    id: str
    shape: SavedShape


class Shapes:
    """All use cases that concern saved shapes."""

    def __init__(self, database: Database, events: Events, mixes: Mixes) -> None:
        self._database = database
        self._events = events
        self._mixes = mixes

    def list(self) -> list[KeptShape]:
        """All that there are, by name."""
        with self._database.read() as session:
            return [KeptShape(row.id, saved_shape_of(row)) for row in all_shapes(session)]

    def save(self, name: str, mix_id: str, index: int) -> KeptShape:
        """Save the shape of a transition of a mix. One of the same name is replaced.

        Raises
        ------
        NotFoundError
            When there is no such transition.
        """
        named = _sound_name(name)
        plan = self._mixes.open(mix_id).plan
        if index >= len(plan.transitions):
            raise NotFoundError("That transition is not there any more: the order has changed.")
        made = SavedShape.of(named, plan.transitions[index].transition, plan.entries[index].played.bar)
        with self._database.write() as session:
            rows = all_shapes(session)
            row = next((r for r in rows if r.name.casefold() == named.casefold()), None)
            if row is None:
                if len(rows) >= MOST:
                    raise RefusedError(f"There are {MOST} saved shapes already. Delete one first.")
                row = ShapeRow(id=new_id(), name=named, state=b"")
                session.add(row)
            row.name, row.state = named, SHAPE.to_bytes(made)
            kept = KeptShape(row.id, made)
        self._events.tell({"type": "shapes"})
        return kept

    def rename(self, shape_id: str, name: str) -> KeptShape:
        """Give one another name."""
        named = _sound_name(name)
        with self._database.write() as session:
            row = _get(session, shape_id)
            others = (r for r in all_shapes(session) if r.id != shape_id)
            if any(r.name.casefold() == named.casefold() for r in others):
                raise RefusedError(f"There is a shape ‘{named}’ already. Choose another name.")
            row.name = named
            kept = KeptShape(row.id, saved_shape_of(row))
        self._events.tell({"type": "shapes"})
        return kept

    def delete(self, shape_id: str) -> None:
        """Forget one. Transitions that were shaped by it stay as they are."""
        with self._database.write() as session:
            session.delete(_get(session, shape_id))
        self._events.tell({"type": "shapes"})


def _sound_name(name: str) -> str:
    named = name.strip()
    if not named:
        raise RefusedError("A shape needs a name.")
    return named


def _get(session: Session, shape_id: str) -> ShapeRow:
    row = session.get(ShapeRow, shape_id)
    if row is None:
        raise NotFoundError("That shape is no longer there.")
    return row
