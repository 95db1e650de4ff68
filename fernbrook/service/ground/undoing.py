"""Undo and redo of what is kept in revisions. Every step is made on the version that the caller has seen."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import Generic, TypeVar

from sqlalchemy.orm import Session

from fernbrook.errors import RefusedError, StaleError
from fernbrook.kept import KeptValues
from fernbrook.store.database import Database
from fernbrook.store.history import next_of, parent_of
from fernbrook.store.tables import MixRow, Revision, TrackRow

GESTURES_KEPT = 256

Row = TypeVar("Row", bound=MixRow | TrackRow)
Rev = TypeVar("Rev", bound=Revision)
Opened = TypeVar("Opened")


@dataclass(frozen=True)
class Steps:
    """What undo would take back, and what redo would bring again."""

    undo: str | None
    redo: str | None


def steps(session: Session, head: Revision | None) -> Steps:
    """What can be undone and redone at a revision."""
    following = next_of(session, head) if head else None
    return Steps(undo=head.label if head and head.parent else None, redo=following.label if following else None)


class Undoing(ABC, Generic[Row, Rev, Opened]):
    """Undo and redo for one kind of thing. ``BEGINNING`` says where its history begins."""

    BEGINNING: str

    def __init__(self, database: Database) -> None:
        self._database = database
        self._gestures: KeptValues[str, tuple[str, int]] = KeptValues(GESTURES_KEPT)
        """For each subject the last gesture, and the revision that it made."""

    def undo(self, subject: str, version: int) -> Opened:
        """Take the last change back.

        Raises
        ------
        StaleError
            When there have been changes since that version.
        RefusedError
            When nothing is left to undo.
        """
        with self._database.write() as session:
            row = self._current(session, subject, version)
            head = self._head(session, row)
            parent = parent_of(session, head) if head else None
            if parent is None:
                raise RefusedError(f"There is nothing left to undo: this is {self.BEGINNING}.")
            self._move(row, parent)
            opened = self._opened(session, row)
        self._tell(opened)
        return opened

    def redo(self, subject: str, version: int) -> Opened:
        """Bring the change that was taken back last again; it raises as undo does."""
        with self._database.write() as session:
            row = self._current(session, subject, version)
            head = self._head(session, row)
            following = next_of(session, head) if head else None
            if following is None:
                raise RefusedError("There is nothing to redo.")
            self._move(row, following)
            opened = self._opened(session, row)
        self._tell(opened)
        return opened

    def _begun(self, session: Session, subject: str, head: Rev | None, gesture: str | None) -> bool:
        """Whether the head is what the same gesture has made so far: several presses in a row are one step to undo."""
        if gesture is None or head is None or head.parent is None:
            return False
        return self._gestures.get(subject) == (gesture, head.id) and next_of(session, head) is None

    def _note(self, subject: str, head: int | None, gesture: str | None) -> None:
        """Keep what a gesture has made; a change without one ends it."""
        if gesture is None or head is None:
            self._gestures.drop(subject)
        else:
            self._gestures.put(subject, (gesture, head))

    def _current(self, session: Session, subject: str, version: int) -> Row:
        row = self._get(session, subject)
        if row.version != version:
            raise StaleError(row.version)
        return row

    @abstractmethod
    def _get(self, session: Session, subject: str) -> Row:
        """The row, or NotFoundError."""

    @abstractmethod
    def _head(self, session: Session, row: Row) -> Rev | None:
        """The revision that counts."""

    @abstractmethod
    def _move(self, row: Row, revision: Rev) -> None:
        """Make another revision the one that counts."""

    @abstractmethod
    def _opened(self, session: Session, row: Row) -> Opened:
        """The row as the caller gets it."""

    @abstractmethod
    def _tell(self, opened: Opened) -> None:
        """Let all pages know."""
