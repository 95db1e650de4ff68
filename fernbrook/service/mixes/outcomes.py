"""What has come of mixes when they were planned, kept with them: their lengths, and where transitions came to lie."""

from __future__ import annotations

import logging
from collections.abc import Callable
from math import inf
from threading import Event, Lock, Thread
from time import monotonic

from sqlalchemy.orm import Session

from fernbrook.core.mix.model import Mix
from fernbrook.core.plan import Plan, heard_in
from fernbrook.errors import DiskFullError
from fernbrook.service.ground import Events
from fernbrook.store.database import Database
from fernbrook.store.mixes import (
    advance,
    all_mixes,
    head_of,
    heard_before,
    mix_at,
    note_heard,
    planned_state,
    planned_states,
)
from fernbrook.store.tables import MixRow

AT_ONCE_S, AT_THE_END_S, A_TURN_S = 0.25, 2.0, 0.1
"""So long mixes are planned while somebody waits for their list, for the end, or for other work."""

log = logging.getLogger(__name__)


class Outcomes:
    """Keeps what comes of mixes; ``planned`` plans one."""

    def __init__(self, database: Database, events: Events, planned: Callable[[Session, MixRow], Plan]) -> None:
        self._database = database
        self._events = events
        self._planned = planned
        self._broken: dict[str, str] = {}
        self._beginning, self._closing = Lock(), Event()
        self._beside: Thread | None = None

    def is_broken(self, mix_id: str, state: str) -> bool:
        """Whether a mix could not be planned in this state."""
        return self._broken.get(mix_id) == state

    def note(self, within_s: float = inf) -> bool:
        """Keep what has come of mixes since that was kept last; whether some are left after so many seconds."""
        with self._database.read() as session:
            states = planned_states(session)
            rows = [row for row in all_mixes(session) if row.planned_of != states.get(row.id)]
        new = [row.id for row in rows if not self.is_broken(row.id, states.get(row.id, ""))]
        until = monotonic() + within_s
        for mix_id in new:
            if monotonic() > until:
                return True
            try:
                self._note_one(mix_id)
            except DiskFullError:
                log.warning("the disk is full: what has come of mixes is not kept")
                return False
            except Exception:  # one that cannot be read takes no other down
                log.exception("mix %s cannot be planned", mix_id)
                self._broken[mix_id] = states.get(mix_id, "")
        return False

    def note_some(self) -> None:
        """Keep what has come of a few mixes, and go on with the others beside; the news tell when all are done."""
        if not self.note(within_s=AT_ONCE_S):
            return
        with self._beginning:
            if self._beside is None or not self._beside.is_alive():
                self._beside = Thread(target=self._note_others, name="mixes", daemon=True)
                self._beside.start()

    def _note_others(self) -> None:
        while self.note(within_s=A_TURN_S) and not self._closing.wait(A_TURN_S):
            pass  # what somebody asks for meanwhile has its turn
        self._events.tell({"type": "mixes"})

    def close(self) -> None:
        """End what goes on beside, and keep what there is time for."""
        self._closing.set()
        if self._beside is not None:
            self._beside.join()
        self.note(within_s=AT_THE_END_S)

    def _note_one(self, mix_id: str) -> None:
        with self._database.write() as session:
            row = session.get(MixRow, mix_id)
            if row is None or row.planned_of == planned_state(session, row):
                return
            before = row.version
            planned = self._planned(session, row)
            keep_places(session, row, planned.mix)
            note_heard(session, row, heard_in(planned))
            row.entries, row.duration_s = len(planned.entries), planned.duration_s
            session.flush()
            row.planned_of = planned_state(session, row)
            after = row.version
        if after != before:
            self._events.tell({"type": "mix", "id": mix_id, "version": after})


def keep_places(session: Session, row: MixRow, mix: Mix) -> None:
    """Make what is kept over an upgrade a state of its own, so that what is changed after it is undone alone. From then
    on the rules of now hold."""
    if mix != mix_at(session, head_of(session, row)):
        changed_at = row.changed_at
        advance(session, row, mix, "keep what nobody shaped where it was", None)
        row.changed_at = changed_at
    if heard_before(session, row) is not None:
        row.heard = None
