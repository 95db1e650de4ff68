"""Hand-overs that a person saves, to be used in any mix."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from fernbrook.core.mix.transitions import SavedHandOver
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.events import Events
from fernbrook.service.ids import new_id
from fernbrook.service.mixes import Mixes
from fernbrook.store.database import Database
from fernbrook.store.hand_overs import HAND_OVER, all_hand_overs, hand_over_of
from fernbrook.store.tables import HandOverRow

MOST = 200


@dataclass(frozen=True)
class KeptHandOver:
    """A saved hand-over, and by what it is known."""

    id: str
    hand_over: SavedHandOver


class HandOvers:
    """All use cases that concern saved hand-overs."""

    def __init__(self, database: Database, events: Events, mixes: Mixes) -> None:
        self._database = database
        self._events = events
        self._mixes = mixes

    def list(self) -> list[KeptHandOver]:
        """All that there are, by name."""
        with self._database.read() as session:
            return [KeptHandOver(row.id, hand_over_of(row)) for row in all_hand_overs(session)]

    def save(self, name: str, mix_id: str, index: int) -> KeptHandOver:
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
        made = SavedHandOver.of(named, plan.transitions[index].transition, plan.entries[index].played.bar)
        with self._database.write() as session:
            rows = all_hand_overs(session)
            row = next((r for r in rows if r.name.casefold() == named.casefold()), None)
            if row is None:
                if len(rows) >= MOST:
                    raise RefusedError(f"There are {MOST} saved hand-overs already. Delete one first.")
                row = HandOverRow(id=new_id(), name=named, state=b"")
                session.add(row)
            row.name, row.state = named, HAND_OVER.to_bytes(made)
            kept = KeptHandOver(row.id, made)
        self._events.tell({"type": "hand_overs"})
        return kept

    def rename(self, hand_over_id: str, name: str) -> KeptHandOver:
        """Give one another name."""
        named = _sound_name(name)
        with self._database.write() as session:
            row = _get(session, hand_over_id)
            others = (r for r in all_hand_overs(session) if r.id != hand_over_id)
            if any(r.name.casefold() == named.casefold() for r in others):
                raise RefusedError(f"There is a hand-over ‘{named}’ already. Choose another name.")
            row.name = named
            kept = KeptHandOver(row.id, hand_over_of(row))
        self._events.tell({"type": "hand_overs"})
        return kept

    def delete(self, hand_over_id: str) -> None:
        """Forget one. Transitions that were shaped by it stay as they are."""
        with self._database.write() as session:
            session.delete(_get(session, hand_over_id))
        self._events.tell({"type": "hand_overs"})


def _sound_name(name: str) -> str:
    named = name.strip()
    if not named:
        raise RefusedError("A hand-over needs a name.")
    return named


def _get(session: Session, hand_over_id: str) -> HandOverRow:
    row = session.get(HandOverRow, hand_over_id)
    if row is None:
        raise NotFoundError("That hand-over is not there any more.")
    return row
