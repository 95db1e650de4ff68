"""Mixes: making, changing, undoing, planning them."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from fernbrook.core.mix.commands import AddTracks, AnyMixCommand, PutPair, apply
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.mix.placing import Proposal, proposals_for, with_kept_places
from fernbrook.core.ordering import Running, running
from fernbrook.core.plan import Plan, PlannedTransition, plan
from fernbrook.core.track import TrackFacts
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.kept import KeptValues
from fernbrook.service.ground import Events, Steps, Undoing, new_id, steps
from fernbrook.service.mixes.outcomes import Outcomes, keep_places
from fernbrook.store.collections import pairings_between
from fernbrook.store.database import Database
from fernbrook.store.history import latest_of, line_of
from fernbrook.store.mixes import (
    MIX,
    add_mix,
    advance,
    all_mixes,
    head_of,
    heard_before,
    mix_at,
    move_head,
    named_of,
    planned_states,
)
from fernbrook.store.tables import MixRow, RevisionRow
from fernbrook.store.tracks import facts_of

PLANS_KEPT = 32
TRIALS_KEPT = 24
"""So many are at hand as they were planned; others are planned again."""
TRIALS_KNOWN = 2000
STEPS_SHOWN = 200
UNREADABLE = "What is kept of it cannot be read. Bring back a backup, or delete it."

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class MixSummary:
    """A mix in the list of mixes. What is None is not known before it was planned for the first time; ``problem``
    says why it cannot be opened, where it cannot."""

    id: str
    name: str
    entries: int | None
    duration_s: float | None
    changed_at: datetime
    is_try: bool
    problem: str = ""


@dataclass(frozen=True)
class OpenMix:
    """A mix as it stands, resolved."""

    id: str
    version: int
    plan: Plan
    running: Running
    steps: Steps
    is_try: bool


@dataclass(frozen=True)
class HistoryStep:
    """A state in the history of a mix: what was done, when, and the name that it was given.

    ``is_here`` is the state that counts; one that is not ``in_line`` lies on a way that was left by an undo and another
    change.
    """

    id: int
    label: str
    name: str
    at: datetime
    is_here: bool
    in_line: bool


@dataclass(frozen=True)
class Trial:
    """What a command would make of a mix, to be looked at and heard. The mix is as it was."""

    id: str
    plan: Plan
    running: Running


class Mixes(Undoing[MixRow, RevisionRow, OpenMix]):
    """All use cases that concern mixes."""

    BEGINNING = "where the mix began"

    def __init__(self, database: Database, events: Events) -> None:
        super().__init__(database)
        self._events = events
        self.outcomes = Outcomes(database, events, self._plan)
        self._plans: KeptValues[tuple[object, ...], Plan] = KeptValues(PLANS_KEPT)
        self._runnings: KeptValues[tuple[object, ...], Running] = KeptValues(PLANS_KEPT)
        self._trials: KeptValues[str, Plan] = KeptValues(TRIALS_KEPT)
        self._tried: KeptValues[str, bytes] = KeptValues(TRIALS_KNOWN)

    def list(self) -> list[MixSummary]:
        """All mixes, the last changed first. Those whose length is not known of what they are now are planned; of many
        only some, the others beside, and the news tell when they are."""
        self.outcomes.note_some()
        with self._database.read() as session:
            states = planned_states(session)
            return [self._summary(row, states.get(row.id, "")) for row in all_mixes(session)]

    def create(self, name: str) -> OpenMix:
        """Begin an empty mix."""
        with self._database.write() as session:
            row = add_mix(session, new_id(), Mix(name=name.strip() or "New mix"), "create the mix")
            opened = self._opened(session, row)
        self._events.tell({"type": "mixes"})
        return opened

    def try_two(self, first: str, second: str) -> OpenMix:
        """Begin a mix of two tracks, to hear how they go together. It is listed apart from the others.

        Raises
        ------
        CommandError
            When one of them is not in the library.
        """
        with self._database.write() as session:
            tracks = self._facts(session, Mix(name="-"), first, second)
            titles = [tracks[t].title if t in tracks else "?" for t in (first, second)]
            name = " → ".join(title[:90] for title in titles)
            mix = apply(Mix(name=name), AddTracks(track_ids=(first, second)), tracks)
            row = add_mix(session, new_id(), mix, "try the two", is_try=True)
            opened = self._opened(session, row)
        self._events.tell({"type": "mixes"})
        return opened

    def put_into(self, try_id: str, mix_id: str, version: int, at: int | None) -> OpenMix:
        """Put the first two entries of a mix into another as they meet there, before the place ``at``, or at its end.

        Raises
        ------
        StaleError
            When the other mix has moved on since that version.
        RefusedError
            When the first has no two entries.
        """
        with self._database.read() as session:
            planned = self._plan(session, self._get(session, try_id))
        if not planned.transitions:
            raise RefusedError("There are no two tracks to put into a mix here.")
        met, tried = planned.transitions[0], planned.mix
        pair = met.transition.pair
        command = PutPair(
            out=tried.entries[0],
            into=tried.entries[1],
            transition=met.transition if met.shaped else None,
            takes=tried.takes_of(pair),
            at=at,
        )
        return self.change(mix_id, version, command)

    def duplicate(self, mix_id: str) -> OpenMix:
        """Begin a mix as a copy of another; its history starts again."""
        with self._database.write() as session:
            mix = self._mix(session, self._get(session, mix_id))
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

    def change(self, mix_id: str, version: int, command: AnyMixCommand, gesture: str | None = None) -> OpenMix:
        """Apply a command to the version of the mix that the caller has seen. Changes in a row that belong to the same
        ``gesture`` are one step in the history.

        Raises
        ------
        StaleError
            When the mix has moved on since. Nothing is done.
        CommandError
            When the command cannot be done.
        """
        with self._database.write() as session:
            row = self._current(session, mix_id, version)
            mix = self._mix(session, row)
            tracks = self._facts(session, mix, *getattr(command, "track_ids", ()))
            changed = apply(mix, command, tracks)
            if changed != mix:
                keep_places(session, row, mix)
                head = head_of(session, row)
                begun = self._begun(session, mix_id, head, gesture) and not head.name
                words = command.words(Naming(mix, tracks))
                advance(session, row, changed, words, command.model_dump(mode="json"), in_place=begun)
                self._note(mix_id, row.head, gesture)
            opened = self._opened(session, row)
        self._tell(opened)
        return opened

    def trial(self, mix_id: str, command: AnyMixCommand) -> Trial:
        """What a command would make of a mix as it stands. It is kept for a while, so that it can be heard.

        Raises
        ------
        CommandError
            When the command cannot be done.
        """
        with self._database.read() as session:
            mix = self._mix(session, self._get(session, mix_id))
            tracks = self._facts(session, mix, *getattr(command, "track_ids", ()))
            return self._kept(session, apply(mix, command, tracks), tracks)

    def proposals(self, mix_id: str, index: int) -> tuple[PlannedTransition, tuple[Proposal, ...]]:
        """A transition of a mix as it stands, and where it could lie, the best first.

        Raises
        ------
        NotFoundError
            When there is no such transition.
        """
        with self._database.read() as session:
            planned = self._plan(session, self._get(session, mix_id))
        if index >= len(planned.transitions):
            raise NotFoundError("That transition is not there any more: the order has changed.")
        here, out, into = planned.transitions[index], planned.entries[index], planned.entries[index + 1]
        return here, proposals_for(here.room, out.span, into.span)

    def history(self, mix_id: str) -> tuple[HistoryStep, ...]:
        """The states of a mix that were made last, and all that have a name; the newest first."""
        with self._database.read() as session:
            head = head_of(session, self._get(session, mix_id))
            line = line_of(session, head)
            latest = latest_of(session, RevisionRow, mix_id, STEPS_SHOWN)
            named = named_of(session, mix_id)
            rows = sorted({r.id: r for r in (*latest, *named, head)}.values(), key=lambda r: -r.id)
            return tuple(
                HistoryStep(r.id, r.label, r.name, r.created_at, is_here=r.id == head.id, in_line=r.id in line)
                for r in rows
            )

    def go_to(self, mix_id: str, version: int, step: int) -> OpenMix:
        """Make a state of the history the one that counts. All others stay.

        Raises
        ------
        StaleError
            When the mix has moved on since that version.
        NotFoundError
            When it has no such state.
        """
        with self._database.write() as session:
            row = self._current(session, mix_id, version)
            move_head(row, self._step(session, mix_id, step))
            opened = self._opened(session, row)
        self._tell(opened)
        return opened

    def name_step(self, mix_id: str, step: int, name: str) -> None:
        """Give a state of the history a name, by which it is found again; an empty one takes it back."""
        with self._database.write() as session:
            self._get(session, mix_id)
            self._step(session, mix_id, step).name = name.strip()
        self._events.tell({"type": "history", "id": mix_id})

    def try_step(self, mix_id: str, step: int) -> Trial:
        """A state of the history, to be heard without going there."""
        with self._database.read() as session:
            mix = mix_at(session, self._step(session, mix_id, step))
            return self._kept(session, mix, self._facts(session, mix))

    @staticmethod
    def _step(session: Session, mix_id: str, step: int) -> RevisionRow:
        revision = session.get(RevisionRow, step)
        if revision is None or revision.subject != mix_id:
            raise NotFoundError("That state of the mix is not there.")
        return revision

    def _kept(self, session: Session, mix: Mix, tracks: dict[str, TrackFacts]) -> Trial:
        planned = plan(mix, tracks)
        made = Trial(new_id(), planned, running(planned, pairings_between(session, tracks)))
        self._trials.put(made.id, planned)
        self._tried.put(made.id, MIX.to_bytes(mix))
        return made

    def tried(self, trial_id: str) -> Plan:
        """The plan of a trial."""
        state = self._tried.get(trial_id)
        if state is None:
            raise NotFoundError("That trial is not at hand any more. Try it again.")
        mix = MIX.from_bytes(state)

        def planned() -> Plan:
            with self._database.read() as session:
                return plan(mix, self._facts(session, mix))

        return self._trials.value(trial_id, planned)

    def _running(self, session: Session, row: MixRow, planned: Plan) -> Running:
        """What the running order shows; kept like plans, and made again when pairings change."""
        pairings = pairings_between(session, {e.track.id for e in planned.entries})
        key = (row.id, row.version, tuple(e.track.version for e in planned.entries), tuple(sorted(pairings.items())))
        return self._runnings.value(key, lambda: running(planned, pairings))

    def _summary(self, row: MixRow, state: str) -> MixSummary:
        """A mix in the list: as it was planned last. One that cannot be read takes no list down."""
        problem = UNREADABLE if self.outcomes.is_broken(row.id, state) else ""
        return MixSummary(row.id, row.name, row.entries, row.duration_s, row.changed_at, row.is_try, problem)

    def _opened(self, session: Session, row: MixRow) -> OpenMix:
        planned = self._plan(session, row)
        shown = self._running(session, row, planned)
        return OpenMix(row.id, row.version, planned, shown, steps(session, head_of(session, row)), row.is_try)

    def _plan(self, session: Session, row: MixRow) -> Plan:
        """A mix resolved; the last plans are kept, because a mix is looked at and listened to more than changed."""
        mix = self._mix(session, row)
        facts = self._facts(session, mix)
        key = (row.id, row.version, tuple((f.id, f.version) for f in facts.values()))
        return self._plans.value(key, lambda: plan(mix, facts))

    def _mix(self, session: Session, row: MixRow) -> Mix:
        """A mix as it stands, with what nobody shaped where it was heard before the rules of placing changed."""
        mix = mix_at(session, head_of(session, row))
        heard = heard_before(session, row)
        return mix if heard is None else with_kept_places(mix, heard.transitions, self._facts(session, mix))

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
        return facts_of(session, {*mix.track_ids, *more})

    def _tell(self, opened: OpenMix) -> None:
        self._events.tell({"type": "mix", "id": opened.id, "version": opened.version})
