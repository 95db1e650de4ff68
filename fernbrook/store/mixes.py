"""Mixes in the database: a tree of revisions, and a head that says which of them counts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from functools import lru_cache
from hashlib import blake2b
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook import __version__
from fernbrook.core.mix.model import Mix, recounted_mix
from fernbrook.core.mix.placing import PLACING_RULES
from fernbrook.core.track import Grid, Recount
from fernbrook.kept import KeptValues
from fernbrook.store.history import passed
from fernbrook.store.markup import markup_in
from fernbrook.store.stored import Stored
from fernbrook.store.tables import MixRow, RevisionRow, TrackRevisionRow, TrackRow, now
from fernbrook.store.upgrades import as_it_was, mix_1_to_2, steady_entries, with_plain_words

MIXES_KEPT = 64

MIX = Stored(Mix, {1: mix_1_to_2, **dict.fromkeys(range(2, 8), as_it_was), 8: with_plain_words, 9: steady_entries})


def all_mixes(session: Session) -> list[MixRow]:
    """All mixes, the last changed first."""
    return list(session.scalars(select(MixRow).order_by(MixRow.changed_at.desc(), MixRow.id)))


def planned_states(session: Session) -> dict[str, str]:
    """For each mix what stands for it as it is, and its tracks: another one whenever it may be planned otherwise."""
    tracks = session.execute(select(TrackRow.id, TrackRow.version))
    versions = {track: version for track, version in tracks}
    query = select(MixRow.id, MixRow.version, RevisionRow.track_ids).join(RevisionRow, RevisionRow.id == MixRow.head)
    return {mix: _stands_for(version, track_ids, versions) for mix, version, track_ids in session.execute(query)}


def planned_state(session: Session, row: MixRow) -> str:
    """The same of one mix."""
    track_ids = head_of(session, row).track_ids
    tracks = session.execute(select(TrackRow.id, TrackRow.version).where(TrackRow.id.in_(track_ids.split())))
    return _stands_for(row.version, track_ids, {track: version for track, version in tracks})


def _stands_for(version: int, track_ids: str, versions: Mapping[str, int]) -> str:
    said = [__version__, str(PLACING_RULES), str(version)]
    said += [f"{t}:{versions[t]}" if t in versions else t for t in track_ids.split()]
    return blake2b(" ".join(said).encode(), digest_size=16).hexdigest()


def state_of(revision: RevisionRow) -> Mix:
    """The mix as it was at a revision, counted by the grids of then."""
    return _mix_in(revision.state)


def _mix_in(state: bytes) -> Mix:
    """A mix as it is stored; kept, because an open mix is asked for again at every look."""
    return _mixes.value(state, lambda: MIX.from_bytes(state))


_mixes: KeptValues[bytes, Mix] = KeptValues(MIXES_KEPT)


def mix_at(session: Session, revision: RevisionRow) -> Mix:
    """The mix of a revision, counted by its tracks' grids of now."""
    return counted_now(session, state_of(revision), revision.counted_by or {})


def counted_now(session: Session, mix: Mix, before: Mapping[str, int], *, on_lines: bool = True) -> Mix:
    """A mix that is counted by some revisions of its tracks, counted by those of now.

    Where it is not ``on_lines``, each place stays at its moment, on a line of the grids of now or between them: the mix
    was made by other grids, which nobody has corrected, so what met goes on to meet.
    """
    heads = heads_of(session, mix)
    changed = {track: (before[track], head) for track, head in heads.items() if before.get(track, head) != head}
    grids = _grids_at(session, {head for pair in changed.values() for head in pair})
    recounts = {
        track: Recount(was, now_is, on_lines)
        for track, (first, last) in changed.items()
        if (was := grids.get(first)) and (now_is := grids.get(last))
    }
    return recounted_mix(mix, recounts)


def heads_of(session: Session, mix: Mix) -> dict[str, int]:
    """The revisions that the tracks of a mix are at."""
    query = select(TrackRow.id, TrackRow.head).where(TrackRow.id.in_(mix.track_ids), TrackRow.head.is_not(None))
    return {track: head for track, head in session.execute(query) if head is not None}


def _grids_at(session: Session, heads: set[int]) -> dict[int, Grid | None]:
    """The grids of some revisions of tracks."""
    if not heads:
        return {}
    query = select(TrackRevisionRow.id, TrackRevisionRow.state).where(TrackRevisionRow.id.in_(heads))
    return {head: _grid_in(state) for head, state in session.execute(query)}


@lru_cache(maxsize=128)
def _grid_in(state: bytes) -> Grid | None:
    """The grid of a markup as it is stored; kept, because an open mix asks for the same ones at every change."""
    return markup_in(state).grid


def note_heard(session: Session, row: MixRow, heard: Mix, rules: int = PLACING_RULES) -> None:
    """Keep the transitions of a mix as they came out, by some rules of placing."""
    row.heard, row.heard_by, row.heard_rules = MIX.to_bytes(heard), heads_of(session, heard), rules


def heard_before(session: Session, row: MixRow) -> Mix | None:
    """A mix as it came out by rules that have changed since, counted by its tracks' grids of now; None where they have
    not, or where nobody has heard it."""
    if row.heard is None or row.heard_rules == PLACING_RULES:
        return None
    return counted_now(session, MIX.from_bytes(row.heard), row.heard_by or {})


def add_mix(session: Session, mix_id: str, mix: Mix, label: str, *, is_try: bool = False) -> MixRow:
    """Begin a mix with its first revision."""
    row = MixRow(id=mix_id, name=mix.name, is_try=is_try)
    session.add(row)
    session.flush()
    _add_revision(session, row, mix, label, None)
    return row


def head_of(session: Session, row: MixRow) -> RevisionRow:
    """The revision that a mix is at."""
    head = session.get(RevisionRow, row.head)
    if head is None:
        raise LookupError(f"mix {row.id} has lost its head revision {row.head}")
    return head


def named_of(session: Session, mix_id: str) -> list[RevisionRow]:
    """The revisions of a mix that have a name."""
    return list(session.scalars(select(RevisionRow).where(RevisionRow.subject == mix_id, RevisionRow.name != "")))


def advance(
    session: Session, row: MixRow, mix: Mix, label: str, command: dict[str, Any] | None, *, in_place: bool = False
) -> None:
    """Add a revision after the head, or ``in_place`` of it, and move on to it."""
    if in_place:
        row.head = passed(head_of(session, row))
    _add_revision(session, row, mix, label, command)
    _changed(row, mix)


def move_head(row: MixRow, revision: RevisionRow) -> None:
    """Go to another revision, for undo and redo."""
    row.head = revision.id
    _changed(row, state_of(revision))


def _add_revision(session: Session, row: MixRow, mix: Mix, label: str, command: dict[str, Any] | None) -> None:
    state = MIX.to_bytes(mix)
    # What a command left alone stays the very same object for the next one, and is not planned again.
    _mixes.put(state, mix)
    revision = RevisionRow(
        subject=row.id,
        parent=row.head,
        label=label,
        command=command,
        state=state,
        track_ids=" ".join(sorted(mix.track_ids)),
        counted_by=heads_of(session, mix),
    )
    session.add(revision)
    session.flush()
    row.head = revision.id


def _changed(row: MixRow, mix: Mix) -> None:
    row.name = mix.name
    row.version += 1
    row.changed_at = now()


def mixes_by_track(session: Session) -> dict[str, tuple[str, ...]]:
    """The names of the mixes that have each track, the last changed first; what is only tried is none."""
    found: dict[str, list[str]] = defaultdict(list)
    query = select(MixRow.name, RevisionRow.track_ids).join(RevisionRow, RevisionRow.id == MixRow.head)
    for name, track_ids in session.execute(query.where(~MixRow.is_try).order_by(MixRow.changed_at.desc())):
        for track_id in dict.fromkeys(track_ids.split()):
            found[track_id].append(name)
    return {track: tuple(names) for track, names in found.items()}
