"""Mixes and tracks of the database as they travel in a bundle."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.formats.bundle import BundledMix, BundledState, BundledTrack, TrackColumns
from fernbrook.store.history import line_of
from fernbrook.store.markup import MARKUP, markup_in
from fernbrook.store.mixes import MIX, mix_at
from fernbrook.store.mixes import head_of as head_of_mix
from fernbrook.store.tables import MixRow, RevisionRow, TrackRevisionRow, TrackRow

COLUMNS = tuple(TrackColumns.model_fields)


def bundled_mix(session: Session, row: MixRow, *, with_history: bool) -> BundledMix:
    """A mix as it travels: with all that led to it, or as it is now, counted by its tracks' grids of now."""
    head = head_of_mix(session, row)
    if not with_history:
        mix = mix_at(session, head)
        tracks = {t.id: t.head for t in _tracks(session, mix.track_ids) if t.head is not None}
        only = BundledState(
            id=head.id, label=head.label, created_at=head.created_at, state=MIX.to_json(mix), counted_by=tracks
        )
        return BundledMix(name=row.name, head=head.id, revisions=(only,), heard=_heard(row, head))
    line = line_of(session, head)
    rows = session.scalars(select(RevisionRow).where(RevisionRow.id.in_(line)).order_by(RevisionRow.id))
    states = tuple(
        BundledState(
            id=r.id,
            parent=r.parent,
            label=r.label,
            name=r.name,
            created_at=r.created_at,
            state=MIX.to_json(MIX.from_bytes(r.state)),
            counted_by=r.counted_by or {},
        )
        for r in rows
    )
    return BundledMix(name=row.name, head=head.id, revisions=states, heard=_heard(row, head))


def _heard(row: MixRow, head: RevisionRow) -> BundledState | None:
    if row.heard is None:
        return None
    state = MIX.to_json(MIX.from_bytes(row.heard))
    return BundledState(id=head.id, label="", created_at=head.created_at, state=state, counted_by=row.heard_by or {})


def bundled_tracks(session: Session, mix: BundledMix) -> list[BundledTrack]:
    """The tracks that any state of a mix uses, with those states of their markup that it counts by."""
    counted: dict[str, set[int]] = {}
    for state in mix.states:
        of_state = MIX.from_json(state.state)
        for track_id in dict.fromkeys((*(e.track_id for e in of_state.entries), *sorted(of_state.track_ids))):
            counted.setdefault(track_id, set()).update([state.counted_by.get(track_id, 0)])
    found = []
    for row in _tracks(session, counted):
        wanted = counted[row.id] | ({row.head} if row.head else set())
        rows = session.scalars(
            select(TrackRevisionRow).where(TrackRevisionRow.id.in_(wanted)).order_by(TrackRevisionRow.id)
        )
        states = tuple(
            BundledState(
                id=r.id,
                parent=None,
                label=r.label,
                created_at=r.created_at,
                state=MARKUP.to_json(markup_in(r.state)),
            )
            for r in rows
        )
        columns = TrackColumns.model_validate({name: getattr(row, name) for name in COLUMNS})
        found.append(BundledTrack(id=row.id, columns=columns, head=row.head, revisions=states, kept_hash=row.kept_hash))
    return found


def _tracks(session: Session, ids: Iterable[str]) -> list[TrackRow]:
    return [row for row in (session.get(TrackRow, i) for i in dict.fromkeys(ids)) if row is not None]
