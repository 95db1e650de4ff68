"""Mixes: making, changing, undoing, planning them."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from fernbrook.core.commands import Command, CommandError, apply
from fernbrook.core.labels import label_of
from fernbrook.core.mix import Mix
from fernbrook.core.plan import Plan, plan
from fernbrook.core.track import TrackFacts
from fernbrook.service.errors import NotFoundError, RefusedError
from fernbrook.service.events import Events
from fernbrook.service.ids import new_id
from fernbrook.service.undoing import Steps, Undoing, steps
from fernbrook.store.database import Database
from fernbrook.store.mixes import add_mix, advance, all_mixes, head_of, mix_at, move_head, state_of
from fernbrook.store.tables import MixRow, RevisionRow
from fernbrook.store.tracks import facts_of


@dataclass(frozen=True)
class MixSummary:
    """A mix in the list of mixes."""

    row: MixRow
    entries: int


@dataclass(frozen=True)
class OpenMix:
    """A mix as it stands, resolved."""

    row: MixRow
    plan: Plan
    steps: Steps


class Mixes(Undoing[MixRow, RevisionRow, OpenMix]):
    """All use cases that concern mixes."""

    BEGINNING = "where the mix began"

    def __init__(self, database: Database, events: Events) -> None:
        super().__init__(database)
        self._events = events

    def list(self) -> list[MixSummary]:
        """All mixes, the last changed first."""
        with self._database.read() as session:
            return [MixSummary(row, len(state_of(head_of(session, row)).entries)) for row in all_mixes(session)]

    def create(self, name: str) -> OpenMix:
        """Begin an empty mix."""
        with self._database.write() as session:
            row = add_mix(session, new_id(), Mix(name=name.strip() or "New mix"), "create the mix")
            opened = self._opened(session, row)
        self._events.tell({"type": "mixes"})
        return opened

    def duplicate(self, mix_id: str) -> OpenMix:
        """Begin a mix as a copy of another; its history starts anew."""
        with self._database.write() as session:
            mix = mix_at(session, head_of(session, self._get(session, mix_id)))
            copy = mix.model_copy(update={"name": f"{mix.name[:190]} (copy)"})
            opened = self._opened(session, add_mix(session, new_id(), copy, f"copy ‘{mix.name}’"))
        self._events.tell({"type": "mixes"})
        return opened

    def delete(self, mix_id: str) -> None:
        """Delete a mix and its history."""
        with self._database.write() as session:
            session.delete(self._get(session, mix_id))
        self._events.tell({"type": "mixes"})
        self._events.tell({"type": "mix", "id": mix_id, "version": None})

    def open(self, mix_id: str) -> OpenMix:
        """A mix as it stands."""
        with self._database.read() as session:
            return self._opened(session, self._get(session, mix_id))

    def change(self, mix_id: str, version: int, command: Command) -> OpenMix:
        """Apply a command to the version of the mix that the caller has seen.

        Raises
        ------
        StaleError
            When the mix has moved on since. Nothing is done.
        RefusedError
            When the command cannot be done.
        """
        with self._database.write() as session:
            row = self._current(session, mix_id, version)
            mix = mix_at(session, head_of(session, row))
            tracks = self._facts(session, mix, *getattr(command, "track_ids", ()))
            try:
                changed = apply(mix, command, tracks)
            except CommandError as error:
                raise RefusedError(str(error)) from error
            if changed != mix:
                advance(session, row, changed, label_of(command, mix, tracks), command.model_dump(mode="json"))
            opened = self._opened(session, row)
        self._tell(opened)
        return opened

    def _opened(self, session: Session, row: MixRow) -> OpenMix:
        head = head_of(session, row)
        mix = mix_at(session, head)
        return OpenMix(row=row, plan=plan(mix, self._facts(session, mix)), steps=steps(session, head))

    def _get(self, session: Session, subject: str) -> MixRow:
        row = session.get(MixRow, subject)
        if row is None:
            raise NotFoundError("That mix is not there any more.")
        return row

    def _head(self, session: Session, row: MixRow) -> RevisionRow:
        return head_of(session, row)

    def _move(self, row: MixRow, revision: RevisionRow) -> None:
        move_head(row, revision)

    @staticmethod
    def _facts(session: Session, mix: Mix, *more: str) -> dict[str, TrackFacts]:
        return facts_of(session, {*(e.track_id for e in mix.entries), *more})

    def _tell(self, opened: OpenMix) -> None:
        self._events.tell({"type": "mix", "id": opened.row.id, "version": opened.row.version})
