"""What is done to many tracks at once, and what they are gathered in: tags, names, lists, saved filters, pairings.

Each change is a step with what was before and what is after, so that one undo takes back the tagging of forty tracks.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session, load_only
from sqlalchemy.orm.util import identity_key

from fernbrook.core.library import KnownFile, folded, match, parse
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.formats.playlists import read_playlist
from fernbrook.service.ground import Events, Steps, new_id
from fernbrook.store.collections import all_filters, all_lists, all_pairings
from fernbrook.store.database import Database
from fernbrook.store.tables import FilterRow, LibraryStepRow, ListRow, PairingRow, TrackRow

STEPS_KEPT = 200
LONGEST_NAME = 120
MOST_TAGS = 60
NAMES = ("title", "artist", "album", "genre", "comment")
"""What a track's tags call it and say of it."""
OF_TRACKS = frozenset({"tags", "fields"})
ASKED_AT_ONCE = 500

State = dict[str, Any]
"""Values, or None, by what they are of: ``tags/ID``, ``fields/ID``, ``list/ID``, ``filter/ID``, ``pairing/ID/ID``."""


@dataclass(frozen=True)
class TrackList:
    """A list of tracks, in its own order."""

    id: str
    name: str
    track_ids: tuple[str, ...]


@dataclass(frozen=True)
class Filter:
    """A search that was given a name."""

    id: str
    name: str
    search: str


@dataclass(frozen=True)
class Pairing:
    """Two tracks, in that order, that go well together."""

    first: str
    second: str
    note: str


@dataclass(frozen=True)
class Gathered:
    """All that tracks are gathered in, and what undo and redo would do."""

    lists: tuple[TrackList, ...]
    filters: tuple[Filter, ...]
    pairings: tuple[Pairing, ...]
    steps: Steps


@dataclass(frozen=True)
class ImportedList:
    """What came of a list that was read: its id, how many entries it named, and a plain word on each not there."""

    id: str
    entries: int
    missing: tuple[str, ...]


class Collection:
    """All use cases that concern more than one track."""

    def __init__(self, database: Database, events: Events) -> None:
        self._database = database
        self._events = events

    def gathered(self) -> Gathered:
        """All lists, filters and pairings."""
        with self._database.read() as session:
            there = set(session.scalars(select(TrackRow.id).where(TrackRow.hidden.is_(False))))
            return Gathered(
                lists=tuple(
                    TrackList(r.id, r.name, tuple(i for i in r.track_ids if i in there)) for r in all_lists(session)
                ),
                filters=tuple(Filter(r.id, r.name, r.search) for r in all_filters(session)),
                pairings=tuple(
                    Pairing(r.first, r.second, r.note)
                    for r in all_pairings(session)
                    if r.first in there and r.second in there
                ),
                steps=_steps(session),
            )

    def tracks_on(self, list_id: str) -> tuple[str, ...]:
        """The tracks of a list, in its order."""
        with self._database.read() as session:
            row = session.get(ListRow, list_id)
            if row is None:
                raise NotFoundError("That list is not there any more.")
            return tuple(row.track_ids)

    def tag(self, track_ids: Iterable[str], add: Iterable[str] = (), remove: Iterable[str] = ()) -> None:
        """Give tags to some tracks, and take others from them."""
        adding, removing = [_name(t) for t in add], {folded(t) for t in remove}
        with self._database.write() as session:
            rows = self._rows(session, track_ids)
            after = {
                f"tags/{row.id}": _with_tags([t for t in row.tags or () if folded(t) not in removing], adding)
                for row in rows
            }
            what = f"tag ‘{adding[0]}’" if adding else "take a tag"
            self._step(session, _of_many(what if len(adding) < 2 else f"{len(adding)} tags", len(rows)), after)
        self._tell()

    def rename_tag(self, old: str, new: str | None) -> None:
        """Call a tag otherwise everywhere, joining it with one of that name; None takes it away."""
        with self._database.write() as session:
            rows = [r for r in session.scalars(select(TrackRow).where(TrackRow.tags.is_not(None))) if r.tags]
            wanted = folded(old)
            after = {}
            for row in rows:
                if any(folded(t) == wanted for t in row.tags or ()):
                    rest = [t for t in row.tags or () if folded(t) != wanted]
                    after[f"tags/{row.id}"] = _with_tags(rest, [_name(new)] if new else [])
            if not after:
                raise NotFoundError(f"No track has the tag ‘{old}’.")
            label = f"call the tag ‘{old}’ ‘{new}’" if new else f"take the tag ‘{old}’ away"
            self._step(session, label, after)
        self._tell()

    def rename_track(self, track_id: str, title: str, artist: str) -> None:
        """Call a track otherwise in the library; its file is left alone."""
        with self._database.write() as session:
            (row,) = self._rows(session, [track_id])
            names = {"title": _name(title, 300), "artist": artist.strip()[:300]}
            self._step(session, f"rename ‘{row.title}’", {f"fields/{track_id}": {**_fields(row), **names}})
        self._tell()

    def read_names(self, names: Mapping[str, Mapping[str, tuple[str, str]]]) -> int:
        """Give tracks the names that their files have when read otherwise: by id, what each says now and then. What was
        renamed by hand stays. Returns how many tracks have other names then."""
        after = {}
        with self._database.write() as session:
            for row in self._rows(session, names):
                said = {n: then for n, (now, then) in names[row.id].items() if getattr(row, n) == now}
                if said:
                    after[f"fields/{row.id}"] = {**_fields(row), **said}
            self._step(session, _of_many("read names again", len(after)), after)
        self._tell()
        return len(after)

    def make_list(self, name: str, track_ids: Iterable[str] = ()) -> str:
        """Begin a list; returns its id."""
        list_id = new_id()
        with self._database.write() as session:
            value = {"name": _name(name), "place": len(all_lists(session)), "track_ids": list(track_ids)}
            self._step(session, f"make the list ‘{value['name']}’", {f"list/{list_id}": value})
        self._tell()
        return list_id

    def change_list(self, list_id: str, name: str | None = None, track_ids: list[str] | None = None) -> None:
        """Call a list otherwise, or give it other tracks or another order."""
        with self._database.write() as session:
            row = session.get(ListRow, list_id)
            if row is None:
                raise NotFoundError("That list is not there any more.")
            value = _list_value(row)
            value |= {"name": _name(name)} if name is not None else {}
            value |= {"track_ids": list(track_ids)} if track_ids is not None else {}
            label = f"rename the list ‘{row.name}’" if name is not None else f"change the list ‘{row.name}’"
            self._step(session, label, {f"list/{list_id}": value})
        self._tell()

    def add_to_list(self, list_id: str, track_ids: Iterable[str]) -> None:
        """Put tracks at the end of a list."""
        self.change_list(list_id, track_ids=[*self.tracks_on(list_id), *track_ids])

    def import_list(self, content: bytes, file_name: str) -> ImportedList:
        """Make a list of what an M3U8 or XSPF file names; what is not in the library is told, entry by entry.

        Raises
        ------
        RefusedError
            When it is no such file.
        """
        entries = read_playlist(content, file_name)
        with self._database.read() as session:
            columns = (TrackRow.id, TrackRow.file_name, TrackRow.title, TrackRow.duration_s)
            known = [
                KnownFile(*row) for row in session.execute(select(*columns).where(TrackRow.hidden.is_(False))).all()
            ]
        found = [match(entry, known) for entry in entries]
        missing = tuple(
            f"‘{e.title or e.file_name}’ is not in the library. Import its file, then read the list again."
            for e, track_id in zip(entries, found, strict=True)
            if track_id is None
        )
        name = file_name.rsplit(".", 1)[0][:LONGEST_NAME] or "List"
        return ImportedList(self.make_list(name, [i for i in found if i is not None]), len(entries), missing)

    def duplicate_list(self, list_id: str) -> str:
        """Begin a list as a copy of another."""
        name = next((x.name for x in self.gathered().lists if x.id == list_id), "list")
        return self.make_list(f"{name} (copy)"[:LONGEST_NAME], self.tracks_on(list_id))

    def remove_list(self, list_id: str) -> None:
        """Take a list away; its tracks stay."""
        self._remove("list", list_id)

    def save_filter(self, name: str, search: str, filter_id: str | None = None) -> str:
        """Give a search a name, or change one that has it.

        Raises
        ------
        SearchError
            When the search cannot be understood.
        """
        parse(search)
        kept = filter_id or new_id()
        with self._database.write() as session:
            row = session.get(FilterRow, kept)
            place = row.place if row else len(all_filters(session))
            value = {"name": _name(name), "place": place, "search": search.strip()}
            self._step(session, f"save the filter ‘{value['name']}’", {f"filter/{kept}": value})
        self._tell()
        return kept

    def remove_filter(self, filter_id: str) -> None:
        """Take a saved filter away."""
        self._remove("filter", filter_id)

    def pair(self, first: str, second: str, note: str | None) -> None:
        """Note that the second track goes well after the first; None takes the note away."""
        if first == second:
            raise RefusedError("A track cannot be paired with itself.")
        with self._database.write() as session:
            one, other = self._rows(session, [first, second])
            what = "pair" if note is not None else "unpair"
            label = f"{what} ‘{one.title}’ with ‘{other.title}’"
            self._step(session, label, {f"pairing/{first}/{second}": None if note is None else note.strip()[:500]})
        self._tell()

    def undo(self) -> Gathered:
        """Take the last step back.

        Raises
        ------
        RefusedError
            When nothing is left to undo.
        """
        return self._go(back=True)

    def redo(self) -> Gathered:
        """Bring again the step that was taken back last."""
        return self._go(back=False)

    def _go(self, back: bool) -> Gathered:
        with self._database.write() as session:
            step = _last(session) if back else _next(session)
            if step is None:
                raise RefusedError("There is nothing left to undo." if back else "There is nothing to redo.")
            _put(session, step.before if back else step.after)
            step.undone = back
        self._tell()
        return self.gathered()

    def _remove(self, word: str, row_id: str) -> None:
        key = f"{word}/{row_id}"
        with self._database.write() as session:
            value = _value(session, key)
            if value is None:
                raise NotFoundError(f"That {word} is not there any more.")
            self._step(session, f"take the {word} ‘{value['name']}’ away", {key: None})
        self._tell()

    @staticmethod
    def _rows(session: Session, track_ids: Iterable[str]) -> list[TrackRow]:
        wanted = dict.fromkeys(track_ids)
        found = _tracks(session, wanted)
        if len(found) < len(wanted):
            raise NotFoundError("One of those tracks is not in the library any more.")
        return [found[i] for i in wanted]

    @staticmethod
    def _step(session: Session, label: str, after: State) -> None:
        """Do a step and remember it; what was undone before it cannot be brought again."""
        _held = _tracks(session, _tracks_in(after))
        before = {key: _value(session, key) for key in after}
        if before == after:
            return
        session.execute(delete(LibraryStepRow).where(LibraryStepRow.undone.is_(True)))
        _put(session, after)
        session.add(LibraryStepRow(label=label, before=before, after=after))
        session.flush()
        old = select(LibraryStepRow.id).order_by(LibraryStepRow.id.desc()).offset(STEPS_KEPT)
        session.execute(delete(LibraryStepRow).where(LibraryStepRow.id.in_(old)))

    def _tell(self) -> None:
        self._events.tell({"type": "tracks"})
        self._events.tell({"type": "library"})


def _tracks(session: Session, track_ids: Iterable[str]) -> dict[str, TrackRow]:
    """Some tracks by id, with what is changed here of them; asked for many at a time. As long as they are held, each is
    at hand to ``session.get``."""
    columns = (TrackRow.tags, TrackRow.version, *(getattr(TrackRow, name) for name in NAMES))
    wanted = {i: session.identity_map.get(identity_key(TrackRow, i)) for i in track_ids}
    found = {i: row for i, row in wanted.items() if row is not None}
    missing = [i for i in wanted if i not in found]
    for at in range(0, len(missing), ASKED_AT_ONCE):
        query = select(TrackRow).where(TrackRow.id.in_(missing[at : at + ASKED_AT_ONCE])).options(load_only(*columns))
        found.update((row.id, row) for row in session.scalars(query))
    return found


def _tracks_in(state: Iterable[str]) -> Iterator[str]:
    """The tracks of which a state says something."""
    return (ids for kind, _, ids in (key.partition("/") for key in state) if kind in OF_TRACKS)


def _value(session: Session, key: str) -> Any:
    """What a key of a state holds now."""
    kind, *ids = key.split("/")
    if kind == "pairing":
        pairing = session.get(PairingRow, tuple(ids))
        return pairing.note if pairing else None
    if kind == "list":
        row = session.get(ListRow, ids[0])
        return _list_value(row) if row else None
    if kind == "filter":
        kept = session.get(FilterRow, ids[0])
        return {"name": kept.name, "place": kept.place, "search": kept.search} if kept else None
    track = session.get(TrackRow, ids[0])
    if track is None:
        return None
    return list(track.tags or ()) if kind == "tags" else _fields(track)


def _fields(track: TrackRow) -> dict[str, str]:
    return {name: getattr(track, name) for name in NAMES}


def _put(session: Session, state: Mapping[str, Any]) -> None:
    """Make all of a state so. Tracks that have gone since are passed over."""
    _held = _tracks(session, _tracks_in(state))
    for key, value in state.items():
        kind, *ids = key.split("/")
        if kind == "list":
            _put_row(session, ListRow, ids[0], value)
        elif kind == "filter":
            _put_row(session, FilterRow, ids[0], value)
        elif kind == "pairing":
            _put_pairing(session, ids[0], ids[1], value)
        else:
            _put_track(session, kind, ids[0], value)


def _put_track(session: Session, kind: str, track_id: str, value: Any) -> None:
    track = session.get(TrackRow, track_id)
    if track is None:
        return
    if kind == "tags":
        track.tags = value or None
    else:
        for name in value.keys() & NAMES:
            setattr(track, name, value[name])
        track.version += 1


def _put_row(session: Session, kind: type[ListRow] | type[FilterRow], row_id: str, value: Any) -> None:
    row = session.get(kind, row_id)
    if value is None:
        if row is not None:
            session.delete(row)
    elif row is None:
        session.add(kind(id=row_id, **value))
    else:
        for name, part in value.items():
            setattr(row, name, part)


def _put_pairing(session: Session, first: str, second: str, note: str | None) -> None:
    row = session.get(PairingRow, (first, second))
    both = session.get(TrackRow, first) is not None and session.get(TrackRow, second) is not None
    if row is not None and note is None:
        session.delete(row)
    elif row is not None:
        row.note = note or ""
    elif note is not None and both:
        session.add(PairingRow(first=first, second=second, note=note))


def _list_value(row: ListRow) -> dict[str, Any]:
    return {"name": row.name, "place": row.place, "track_ids": list(row.track_ids)}


def _last(session: Session) -> LibraryStepRow | None:
    query = select(LibraryStepRow).where(LibraryStepRow.undone.is_(False))
    return session.scalar(query.order_by(LibraryStepRow.id.desc()).limit(1))


def _next(session: Session) -> LibraryStepRow | None:
    query = select(LibraryStepRow).where(LibraryStepRow.undone.is_(True))
    return session.scalar(query.order_by(LibraryStepRow.id).limit(1))


def _steps(session: Session) -> Steps:
    last, following = _last(session), _next(session)
    return Steps(undo=last.label if last else None, redo=following.label if following else None)


def _with_tags(tags: list[str], more: list[str]) -> list[str]:
    """Tags with others added that are not among them, however they are written."""
    have = {folded(t) for t in tags}
    added = [*tags, *(t for t in more if folded(t) not in have)]
    if len(added) > MOST_TAGS:
        raise RefusedError(f"A track has up to {MOST_TAGS} tags. Take some away first.")
    return added


def _name(text: str, longest: int = LONGEST_NAME) -> str:
    plain = " ".join(text.split())[:longest]
    if not plain:
        raise RefusedError("A name needs at least one letter.")
    return plain


def _of_many(what: str, count: int) -> str:
    return f"{what}, {count} tracks" if count > 1 else what
