"""Lists, saved filters and pairings in the database."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.store.tables import FilterRow, ListRow, PairingRow


def all_lists(session: Session) -> list[ListRow]:
    """All lists in their order."""
    return list(session.scalars(select(ListRow).order_by(ListRow.place, ListRow.id)))


def all_filters(session: Session) -> list[FilterRow]:
    """All saved filters in their order."""
    return list(session.scalars(select(FilterRow).order_by(FilterRow.place, FilterRow.id)))


def lists_by_track(session: Session) -> dict[str, tuple[str, ...]]:
    """The names of the lists that each track is on."""
    found: dict[str, list[str]] = defaultdict(list)
    for row in all_lists(session):
        for track_id in dict.fromkeys(row.track_ids):
            found[track_id].append(row.name)
    return {track: tuple(names) for track, names in found.items()}


def all_pairings(session: Session) -> list[PairingRow]:
    """All pairings."""
    return list(session.scalars(select(PairingRow)))


def pairings_between(session: Session, track_ids: Iterable[str]) -> dict[tuple[str, str], str]:
    """The notes of the pairings of which both tracks are among some."""
    known = set(track_ids)
    return {(p.first, p.second): p.note for p in all_pairings(session) if p.first in known and p.second in known}


def pairings_of(session: Session, track_id: str, before: bool) -> dict[str, str]:
    """The notes of what is paired with a track, by the other's id: of those after it, or of those before it."""
    here, there = (PairingRow.second, PairingRow.first) if before else (PairingRow.first, PairingRow.second)
    return {str(other): note for other, note in session.execute(select(there, PairingRow.note).where(here == track_id))}
