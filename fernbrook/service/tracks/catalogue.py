"""All tracks at hand: kept in memory, brought up to date by what has changed, looked through without the database."""

from __future__ import annotations

import logging
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, fields, replace
from threading import Lock
from types import MappingProxyType
from typing import Any

from sqlalchemy.orm import Session

from fernbrook.core.library import (
    Card,
    FileDoubt,
    FileFacts,
    FileMeasures,
    Fit,
    file_doubts,
    fits,
    folded,
    ordered,
    parse,
)
from fernbrook.core.track import Key
from fernbrook.enclosed import OutsideError
from fernbrook.errors import NotFoundError
from fernbrook.service.ground import Events
from fernbrook.service.jobs import Job, Jobs
from fernbrook.service.tracks.track import Track
from fernbrook.store.collections import lists_by_track, pairings_of
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import unfinished_by_subject
from fernbrook.store.mixes import mixes_by_track
from fernbrook.store.tracks import LISTED, MAY_LACK, UNREADABLE, changed_since, visible_ids

SAME_LENGTH_S = 1.0
"""Recordings of equal title whose lengths differ by less are the same, if their keys and tempi agree too."""
SAME_BPM = 0.2

CANNOT_BE_READ = "Some of what is known of this track cannot be read. Analyse it again."
BARE: Mapping[str, object] = MappingProxyType(dict.fromkeys(("measures", *MAY_LACK)))
"""What a row is shown without, where it cannot be shown with it."""
APART = {"key", "tags", "doubts"}
ON_A_CARD = tuple(f.name for f in fields(Card) if f.name in LISTED and f.name not in APART)
"""What searches and sorts know of a track as its row has it."""

Columns = dict[str, Any]
log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Beside:
    """What is known of tracks from outside of their rows."""

    lists: Mapping[str, tuple[str, ...]]
    used_in: Mapping[str, tuple[str, ...]]
    missing: frozenset[str]


class Catalogue:
    """Answers what lists, searches and rankings ask. ``revision`` rises when an answer may have become another."""

    def __init__(self, folders: Folders, database: Database, events: Events, jobs: Jobs, analyse: str) -> None:
        self._folders = folders
        self._events = events
        self._database = database
        self._jobs = jobs
        self._analyse = analyse
        self._lock = Lock()
        self._rows: dict[str, Columns] = {}
        self._tracks: dict[str, Track] = {}
        self._cards: dict[str, Card] = {}
        self._doubts: dict[str, dict[FileDoubt, str]] = {}
        self._stamp = -1
        self._beside = Beside({}, {}, frozenset())
        self._missing: frozenset[str] = frozenset()
        self.revision = 0

    def tracks(self) -> list[Track]:
        """All tracks, newest first."""
        jobs = self._open_jobs()
        with self._lock:
            found = sorted(self._tracks.values(), key=lambda t: (t.added_at, t.id), reverse=True)
        return [replace(t, job=jobs[t.id]) if t.id in jobs else t for t in found]

    def version(self) -> tuple[object, ...]:
        """Another one whenever ``tracks`` would say something else."""
        jobs = self._open_jobs()
        return (self.revision, tuple(sorted((j.id, j.state, j.progress) for j in jobs.values())))

    def _open_jobs(self) -> dict[str, Job]:
        """Analyses that have not ended well, by track; what has changed is taken in by the way."""
        with self._database.read() as session:
            self._refresh(session)
            jobs = unfinished_by_subject(session, self._analyse)
            return {subject: self._jobs.view(row) for subject, row in jobs.items()}

    def find(self, search: str = "", sort: tuple[str, ...] = (), among: Iterable[str] | None = None) -> list[str]:
        """The ids of the tracks that a search means: as sorted, else as ``among`` has them, else the newest first.

        Raises
        ------
        RefusedError
            When the search or the order cannot be understood.
        """
        meant = parse(search)
        cards = self.cards()
        some = [cards[i] for i in among if i in cards] if among is not None else list(cards.values())
        found = meant.among(some)
        if among is None and not sort:
            sort = ("-added",)
        return [card.id for card in (ordered(found, sort) if sort else found)]

    def fits(self, track_id: str, search: str = "", before: bool = False) -> list[Fit]:
        """What goes well after a track, or before it, of those that a search means; the best first."""
        meant = parse(search)
        cards = self.cards()
        if track_id not in cards:
            raise NotFoundError("That track is not in the library any more.")
        with self._database.read() as session:
            paired = pairings_of(session, track_id, before)
        return fits(cards[track_id], meant.among(cards.values()), paired, before=before)

    def tags(self) -> dict[str, int]:
        """All tags, and how many tracks have each; those of most first."""
        counted = Counter(tag for card in self.cards().values() for tag in card.tags)
        return dict(sorted(counted.items(), key=lambda item: (-item[1], folded(item[0]))))

    def cards(self) -> dict[str, Card]:
        """All tracks as searches see them, by id."""
        with self._database.read() as session:
            self._refresh(session)
        with self._lock:
            return dict(self._cards)

    def look_for_files(self) -> list[str]:
        """See which files are missing; takes a while where there are many. Returns the tracks without a file."""
        with self._database.read() as session:
            self._refresh(session)
        with self._lock:
            paths = {i: row["path"] for i, row in self._rows.items()}
        missing = [i for i, path in paths.items() if not self._is_there(path)]
        with self._lock:
            changed = self._missing != frozenset(missing)
            self._missing = frozenset(missing)
        if changed:
            self._events.tell({"type": "tracks"})
        return missing

    def _is_there(self, stored: str) -> bool:
        try:
            return self._folders.audio_file(stored).is_file()
        except (OutsideError, OSError, ValueError):  # what is noted is no path of any file
            return False

    def _refresh(self, session: Session) -> None:
        """Take in what has changed since it was last looked at."""
        with self._lock:
            changed = changed_since(session, self._stamp)
            beside = Beside(lists_by_track(session), mixes_by_track(session), self._missing)
            for row in changed:
                self._stamp = max(self._stamp, row["stamp"])
                self._rows[row["id"]] = row
            gone = self._rows.keys() - visible_ids(session)
            for track_id in gone:
                del self._rows[track_id]
            touched = {row["id"] for row in changed} | gone
            moved = self._moved(beside)
            if not touched and not moved:
                return
            self._beside = beside
            twins = self._twins()
            for track_id in touched | moved | twins.keys() | self._with_twins():
                self._judge(track_id, twins.get(track_id))
            self.revision += 1

    def _moved(self, now: Beside) -> set[str]:
        """The tracks whose lists, mixes or files are others than before."""
        was = self._beside
        apart = set(now.missing ^ was.missing)
        for before, after in ((was.lists, now.lists), (was.used_in, now.used_in)):
            apart |= {i for i in before.keys() | after.keys() if before.get(i) != after.get(i)}
        return apart & self._rows.keys()

    def _with_twins(self) -> set[str]:
        return {i for i, doubts in self._doubts.items() if FileDoubt.TWICE in doubts}

    def _twins(self) -> dict[str, str]:
        """For each track that is there twice, the title of the other."""
        named: dict[str, list[Columns]] = defaultdict(list)
        for row in self._rows.values():
            named[folded(row["title"])].append(row)
        twins = {}
        for rows in named.values():
            for one in rows if len(rows) > 1 else ():
                other = next((r for r in rows if r is not one and _same_recording(one, r)), None)
                if other is not None:
                    twins[one["id"]] = other["title"]
        return twins

    def _judge(self, track_id: str, twin: str | None) -> None:
        """Make a track's card again, and what is doubtful about its file."""
        row = self._rows.get(track_id)
        if row is None:
            self._cards.pop(track_id, None)
            self._tracks.pop(track_id, None)
            self._doubts.pop(track_id, None)
            return
        more = {FileDoubt.UNREADABLE: CANNOT_BE_READ}
        try:
            self._show(track_id, row, twin, more if UNREADABLE in row else {})
        except Exception:  # what came into a row from elsewhere takes no list down: the row says so itself
            log.exception("track %s cannot be shown as it is", track_id)
            self._show(track_id, {**row, **BARE}, twin, more)

    def _show(self, track_id: str, row: Columns, twin: str | None, more: Mapping[FileDoubt, str]) -> None:
        facts = FileFacts(
            kind=row["format"],
            rate=row["rate"],
            channels=row["channels"],
            duration_s=row["duration_s"],
            bit_rate=row["bit_rate"],
            sound_start_s=row["sound_start_s"],
            sound_end_s=row["sound_end_s"],
            missing=track_id in self._beside.missing,
            twin=twin,
            names=(row["title"], row["artist"]),
        )
        measured = FileMeasures.model_validate_json(row["measures"]) if row["measures"] else FileMeasures()
        doubts = self._doubts[track_id] = {**file_doubts(facts, measured), **more}
        lists, used_in = self._beside.lists.get(track_id, ()), self._beside.used_in.get(track_id, ())
        self._tracks[track_id] = Track.of(row, None, doubts, lists, used_in)
        self._cards[track_id] = Card(
            **{name: row[name] for name in ON_A_CARD},
            key=Key.parse(row["key"] or row["key_tag"] or ""),
            tags=tuple(row["tags"] or ()),
            cues=len(row["cue_marks"] or ()),
            lists=lists,
            used_in=used_in,
            doubts=tuple(doubts),
        )


def _same_recording(one: Columns, other: Columns) -> bool:
    """Whether two files of one title are the same recording: as long, in the same key, at the same tempo."""
    apart_s = abs(float(one["duration_s"]) - float(other["duration_s"]))
    apart_bpm = abs(float(one["bpm"] or 0.0) - float(other["bpm"] or 0.0))
    return apart_s < SAME_LENGTH_S and apart_bpm < SAME_BPM and bool(one["key"] == other["key"])
