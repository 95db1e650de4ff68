"""Orders that are found for a mix, and what could bridge its jumps."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from fernbrook.core.mix.entries import LAST, Entry, blocks_of, start_of
from fernbrook.core.ordering import (
    Bridge,
    Candidate,
    Cure,
    Group,
    Problem,
    Proposed,
    Wishes,
    bridges,
    candidate_of,
    cures,
    plain_cost,
)
from fernbrook.core.plan import Plan
from fernbrook.core.track import TrackFacts
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.formats.track_list import clock
from fernbrook.service.jobs import Job, JobKind, Jobs, nothing_more
from fernbrook.service.mixes.mixes import Mixes
from fernbrook.service.tracks import Catalogue
from fernbrook.service.work.order import SearchOrder, find_orders
from fernbrook.store.collections import pairings_between
from fernbrook.store.database import Database
from fernbrook.store.jobs import jobs_of_kind
from fernbrook.store.stored import Stored
from fernbrook.store.tables import JobRow
from fernbrook.store.tracks import facts_of
from fernbrook.store.upgrades import as_it_was, with_plain_words

KIND = JobKind(
    name="order",
    order=Stored(SearchOrder, {1: with_plain_words, 2: as_it_was}),
    run=find_orders,
    finish=nothing_more,
    again=True,
    light=True,
)
MOST_FROM_LIBRARY = 40
"""So many tracks of the library are considered beside those of the mix: the ones that fit it best."""
LOOKED_AT = 60
"""Of so many tracks all is known before they are ranked as bridges."""
MOST_BRIDGES = 20


@dataclass(frozen=True)
class Search:
    """A search for orders. ``proposed`` is None until it is done; ``is_current`` says whether the mix still has the
    entries that it had then."""

    job: Job
    wishes: Wishes
    proposed: Proposed | None
    is_current: bool


@dataclass(frozen=True)
class Jump:
    """What could be done about a jump: cures, and tracks to bridge it. ``cost`` is what the step costs as it is."""

    cost: float
    cures: tuple[Cure, ...]
    bridges: tuple[Bridge, ...]


class Orders:
    """All use cases that concern orders which the program finds."""

    def __init__(self, database: Database, jobs: Jobs, mixes: Mixes, catalogue: Catalogue) -> None:
        self._database = database
        self._jobs = jobs
        self._mixes = mixes
        self._catalogue = catalogue
        jobs.register(KIND)

    def start(self, mix_id: str, wishes: Wishes, among: Iterable[str] | None) -> Search:
        """Queue a search; it takes the place of the one before.

        Parameters
        ----------
        among : the tracks of the library that may come in; None where none may

        Raises
        ------
        RefusedError
            When there is nothing to order, or no order of it can be as long as is wished.
        """
        plan = self._mixes.open(mix_id).plan
        if len(plan.entries) < 2:
            raise RefusedError("There is nothing to put in order yet: add two tracks or more first.")
        faces = [candidate_of(e.entry, e.track) for e in plan.entries]
        groups = _groups(plan)
        with self._database.read() as session:
            more = self._from_library(session, faces, among)
            pairings = pairings_between(session, {c.track_id for c in (*faces, *more)})
        groups += [Group(members=(len(faces) + i,), needed=False) for i in range(len(more))]
        order = SearchOrder(
            candidates=(*faces, *more),
            groups=tuple(groups),
            wishes=wishes,
            pairings=tuple((first, second, note) for (first, second), note in pairings.items()),
        )
        _check_length(Problem(order.candidates, order.groups, wishes, {}), wishes)
        self._jobs.drop(KIND, mix_id)
        with self._database.write() as session:
            added = self._jobs.add(session, KIND, mix_id, f"Orders for {plan.mix.name}", order)
        self._jobs.announce(added)
        return self._search(added, plan)

    def latest(self, mix_id: str) -> Search | None:
        """The last search for a mix, None where there was none."""
        plan = self._mixes.open(mix_id).plan
        with self._database.read() as session:
            rows = jobs_of_kind(session, KIND.name, mix_id)
            return self._search(rows[0], plan) if rows else None

    def delete_all(self, mix_id: str) -> None:
        """Forget the searches for a mix."""
        self._jobs.drop(KIND, mix_id)

    def jump(self, mix_id: str, entry_id: str, among: Iterable[str] | None) -> Jump:
        """What could be done about the jump after an entry.

        Parameters
        ----------
        among : the tracks that may bridge it; None for all of the library
        """
        plan = self._mixes.open(mix_id).plan
        index = plan.mix.index_of(entry_id)
        if index is None or index + 1 >= len(plan.entries):
            raise NotFoundError("There is no jump after that entry any more.")
        out, into = (candidate_of(e.entry, e.track) for e in plan.entries[index : index + 2])
        used = {e.track.id for e in plan.entries}
        cards = self._catalogue.cards()
        wanted = cards.keys() if among is None else among
        rough = [Candidate.of_card(cards[i]) for i in wanted if i in cards and i not in used]
        with self._database.read() as session:
            pairings = pairings_between(session, cards)
            first = bridges(out, into, rough, pairings, LOOKED_AT)
            facts = facts_of(session, [b.track_id for b in first])
        close = [_coming_in(f) for f in facts.values()]
        return Jump(
            plain_cost(out, into),
            tuple(cures(plan.mix, {e.track.id: e.track for e in plan.entries}, index)),
            tuple(bridges(out, into, close, pairings, MOST_BRIDGES)),
        )

    def _from_library(self, session: Session, faces: list[Candidate], among: Iterable[str] | None) -> list[Candidate]:
        """The tracks that fit best to any of the mix, of those that may come in."""
        if among is None:
            return []
        here = {f.track_id for f in faces}
        cards = self._catalogue.cards()
        rough = [Candidate.of_card(cards[i]) for i in dict.fromkeys(among) if i in cards and i not in here]
        ranked = sorted(rough, key=lambda c: (min(plain_cost(f, c) for f in faces), c.track_id))[:MOST_FROM_LIBRARY]
        facts = facts_of(session, [c.track_id for c in ranked])
        return [_coming_in(facts[i]) for i in sorted(facts)]

    def _search(self, row: JobRow, plan: Plan) -> Search:
        job = self._jobs.view(row)
        order: SearchOrder = self._jobs.order_of(row)
        found = job.result.get("proposed")  # kept without a version: what was found by an older Fernbrook has its words
        asked = {c.entry_id for c in order.candidates if c.entry_id is not None}
        return Search(
            job=job,
            wishes=order.wishes,
            proposed=Proposed.model_validate(with_plain_words(found)) if found else None,
            is_current=asked == {e.entry.id for e in plan.entries},
        )


def _check_length(problem: Problem, wishes: Wishes) -> None:
    """Refuse a length that no order of the tracks has."""
    if wishes.length_s is None:
        return
    shortest, longest = problem.seconds_possible
    if wishes.length_s + wishes.within_s < shortest:
        raise RefusedError(
            f"No order of these lasts {clock(wishes.length_s)}: the shortest takes {clock(shortest)}. "
            "Wish for more, or let go of a fixed place."
        )
    if wishes.length_s - wishes.within_s > longest:
        raise RefusedError(
            f"No order of these lasts {clock(wishes.length_s)}: all of them together take {clock(longest)}. "
            "Wish for less, or let tracks of the library come in."
        )


def _coming_in(track: TrackFacts) -> Candidate:
    """A track that is not in the mix, as it would come in."""
    return candidate_of(Entry(id="", track_id=track.id), track, is_in=False)


def _groups(plan: Plan) -> list[Group]:
    """What is kept together in a mix, and where it is fixed."""
    groups, at, total = [], 0, len(plan.entries)
    for block in blocks_of(plan.mix.entries):
        fixed = next((e.fixed for e in block if e.fixed is not None), None)
        is_last = fixed == LAST and block[-1].fixed == LAST
        groups.append(
            Group(
                members=tuple(range(at, at + len(block))),
                start=LAST if is_last else start_of(block, total),
            )
        )
        at += len(block)
    return groups
