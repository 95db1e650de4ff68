"""Mixes and tracks of a bundle as they are taken into the database."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from fernbrook.core.mix.model import Mix
from fernbrook.formats.bundle import BundledMix, BundledState, BundledTrack
from fernbrook.store.markup import MARKUP, head_of, markup_in, put
from fernbrook.store.mixes import MIX, counted_now, heads_of, note_heard
from fernbrook.store.tables import MixRow, RevisionRow, TrackRevisionRow, TrackRow

ELSEWHERE = 0
"""No rules of placing: what came out elsewhere is kept, by whichever it was placed."""


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
