"""A number that rises with every change of a track, so that what has changed since can be asked for."""

from __future__ import annotations

from threading import Lock

from sqlalchemy import Engine, event, func, select
from sqlalchemy.orm import Session, UOWTransaction, sessionmaker

from fernbrook.store.tables import TrackRow


class Stamps:
    """Stamps tracks as they are written. No number is given twice, whatever is deleted: one process owns the data."""

    def __init__(self, engine: Engine, sessions: sessionmaker[Session]) -> None:
        with engine.connect() as connection:
            self._last = connection.scalar(select(func.max(TrackRow.stamp))) or 0
        self._lock = Lock()
        event.listen(sessions, "before_flush", self._stamp)

    def _stamp(self, session: Session, _flush: UOWTransaction, _instances: object) -> None:
        changed = [r for r in (*session.new, *session.dirty) if isinstance(r, TrackRow) and session.is_modified(r)]
        if not changed:
            return
        with self._lock:
            self._last += 1
            stamp = self._last
        for row in changed:
            row.stamp = stamp
