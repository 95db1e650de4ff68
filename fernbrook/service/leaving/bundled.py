"""Mixes and tracks of the database as they travel in a bundle, and such as they are taken in."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.core.mix.model import Mix
from fernbrook.formats.bundle import BundledMix, BundledState, BundledTrack, TrackColumns
from fernbrook.store.history import line_of
from fernbrook.store.markup import MARKUP, head_of, markup_in, put
from fernbrook.store.mixes import MIX, counted_now, heads_of, mix_at, note_heard
from fernbrook.store.mixes import head_of as head_of_mix
from fernbrook.store.tables import MixRow, RevisionRow, TrackRevisionRow, TrackRow

ELSEWHERE = 0
"""No rules of placing: what came out elsewhere is kept, by whichever it was placed."""
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


def add_track(session: Session, track_id: str, bundled: BundledTrack, path: str) -> TrackRow:
    """A track that was not here: all that is known of it, its markup included; ``path`` is as files are noted."""
    columns = bundled.columns.model_dump(mode="json")
    row = TrackRow(id=track_id, path=path, **columns)
    session.add(row)
    session.flush()
    return row


def add_states(session: Session, row: TrackRow, bundled: BundledTrack, label: str) -> dict[int, int]:
    """The states of a track's markup that a bundle has, kept beside those that are here: the id of each here, by the
    one it had there. None of them is what counts, and no undo or redo leads to them."""
    ids: dict[int, int] = {}
    for state in bundled.revisions:
        revision = TrackRevisionRow(
            subject=row.id,
            parent=None,
            label=label,
            state=MARKUP.to_bytes(MARKUP.from_json(state.state)),
            created_at=state.created_at,
        )
        session.add(revision)
        session.flush()
        ids[state.id] = revision.id
    return ids


def take_state(session: Session, row: TrackRow, revision_id: int, label: str) -> None:
    """Let one of those count from now on, so that undo leads back to what did before."""
    taken = session.get(TrackRevisionRow, revision_id)
    if taken is None:
        return
    before = head_of(session, row)
    if before is None:
        row.head = taken.id
    else:
        again = TrackRevisionRow(subject=row.id, parent=before.id, label=label, state=taken.state)
        session.add(again)
        session.flush()
        row.head = again.id
    put(row, markup_in(taken.state))


def add_mix(
    session: Session,
    mix_id: str,
    bundled: BundledMix,
    tracks: Mapping[str, str],
    states: Mapping[str, Mapping[int, int]],
) -> MixRow:
    """A mix from a bundle, with its past, counted by the grids that its tracks have here.

    ``tracks`` has the id here of each track, ``states`` those of the states of its markup, both by the ids there.
    Transitions that nobody shaped stay as they came out there, whatever rules and marks here would make of them.
    """
    row = MixRow(id=mix_id, name=bundled.name)
    session.add(row)
    session.flush()
    ids: dict[int, int] = {}

    def taken(state: BundledState) -> Mix:
        by = {tracks[t]: states[t][n] for t, n in state.counted_by.items() if t in tracks and n in states.get(t, {})}
        return counted_now(session, MIX.from_json(renamed(state.state, tracks)), by, on_lines=False)

    for state in bundled.revisions:
        mix = taken(state)
        revision = RevisionRow(
            subject=row.id,
            parent=ids.get(state.parent) if state.parent is not None else None,
            label=state.label,
            name=state.name,
            command=None,
            state=MIX.to_bytes(mix),
            track_ids=" ".join(sorted(mix.track_ids)),
            counted_by=heads_of(session, mix),
            created_at=state.created_at,
        )
        session.add(revision)
        session.flush()
        ids[state.id] = revision.id
    row.head = ids[bundled.head]
    if bundled.heard is not None:
        note_heard(session, row, taken(bundled.heard), rules=ELSEWHERE)
    return row


def renamed(state: Any, tracks: Mapping[str, str]) -> Any:
    """A stored state with other ids for its tracks."""
    if isinstance(state, dict):
        return {
            k: tracks.get(v, v) if k == "track_id" and isinstance(v, str) else renamed(v, tracks)
            for k, v in state.items()
        }
    return [renamed(x, tracks) for x in state] if isinstance(state, list) else state


def _tracks(session: Session, ids: Iterable[str]) -> list[TrackRow]:
    return [row for row in (session.get(TrackRow, i) for i in dict.fromkeys(ids)) if row is not None]
