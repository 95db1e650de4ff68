"""Sticks for players: what is put on one, and what that takes."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

import soundfile
from sqlalchemy.orm import Session

from fernbrook.core.track import MarkFacet, with_changes
from fernbrook.disk import full
from fernbrook.enclosed import OutsideError, inside, open_regular
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.formats.stick import (
    LISTS,
    MARKUP,
    MUSIC,
    PlayerSaid,
    StickList,
    StickTrack,
    Takes,
    files_of,
    read_document,
    read_manifest,
    read_player,
)
from fernbrook.formats.track_document import TrackDocument
from fernbrook.formats.track_list import Line, ListFormat, TrackList, written
from fernbrook.machine import drives
from fernbrook.service.exporting.conversion import target_of
from fernbrook.service.files import SoundFiles, document_of, file_name, same_name
from fernbrook.service.ground import Settings
from fernbrook.service.jobs import Job, JobKind, Jobs, nothing_more
from fernbrook.service.mixes import Mixes
from fernbrook.service.tracks import Collection
from fernbrook.service.work.stick import StickItem, StickOrder, fill_stick
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import jobs_of_kind
from fernbrook.store.stored import Stored
from fernbrook.store.tables import TrackRow
from fernbrook.store.tracks import by_hash

FILL, SUBJECT, SETTING = "stick", "stick", "stick_path"
BITS = {"PCM_U8": 8, "PCM_S8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32, "FLOAT": 32, "DOUBLE": 64}
MARKED = (MarkFacet.GRID, MarkFacet.SECTIONS, MarkFacet.VOICE, MarkFacet.CUES, MarkFacet.LOOPS)
"""What a player may change."""
LITTLE = 1 << 20
"""Room that is left on a stick for lists and markup."""


class Action(StrEnum):
    """What is done with a track: copied, converted, left where it is, or left out because it cannot be put there."""

    COPY = "copy"
    CONVERT = "convert"
    KEEP = "keep"
    SKIP = "skip"


@dataclass(frozen=True)
class PlannedFile:
    """A track as it comes to lie on a stick, and why it is converted or left out, where it is."""

    track_id: str
    title: str
    artist: str
    file: str
    action: Action
    reason: str
    bytes: int


@dataclass(frozen=True)
class StickPlan:
    """What filling a stick would do. ``problem`` says why it cannot be, else it is empty; ``notes`` are what was found
    on the stick that cannot be read."""

    player: str
    takes: Takes
    files: tuple[PlannedFile, ...]
    lists: tuple[str, ...]
    gone: tuple[str, ...]
    needs: int
    free: int
    problem: str
    notes: tuple[str, ...]


@dataclass
class OnTheStick:
    """What lies on a stick already, what its player says of itself, and what of it cannot be read."""

    root: Path
    player: PlayerSaid
    known: dict[str, StickTrack]
    files: set[str]
    notes: list[str]

    @classmethod
    def of(cls, root: Path) -> OnTheStick:
        """Look at a stick.

        Raises
        ------
        RefusedError
            When its manifest cannot be read: what Fernbrook put there could not be told from what others did.
        """
        manifest = read_manifest(root)
        tracks = {t.of: t for t in manifest.tracks} if manifest else {}
        found = cls(root, PlayerSaid(), tracks, files_of(root), [])
        try:
            found.player = read_player(root)
        except RefusedError as error:
            found.notes.append(f"{error} Until then it is filled for what most players take.")
        return found

    @property
    def names(self) -> set[str]:
        """The names that music has on it which no other may take, without suffixes: that of known tracks, and of
        others than Fernbrook."""
        ours = {Path(t.file).stem for t in self.known.values()}
        try:
            there = [p.name for p in inside(self.root, f"{MUSIC}/any").parent.iterdir()]
        except (OSError, OutsideError):
            there = []
        theirs = {Path(name).stem for name in there if f"{MUSIC}/{name}" not in self.files}
        return {same_name(stem) for stem in ours | theirs}

    def document(self, track: StickTrack) -> TrackDocument | None:
        """What it says of a track; None where that cannot be read, which is noted."""
        try:
            return read_document(self.root, track.markup)
        except RefusedError as error:
            if str(error) not in self.notes:
                self.notes.append(str(error))
            return None


class Sticks:
    """All use cases that concern sticks."""

    def __init__(
        self,
        folders: Folders,
        database: Database,
        jobs: Jobs,
        files: SoundFiles,
        settings: Settings,
        mixes: Mixes,
        collection: Collection,
    ) -> None:
        self._folders = folders
        self._database = database
        self._jobs = jobs
        self._files = files
        self._settings = settings
        self._mixes = mixes
        self._collection = collection
        self._kind = JobKind(FILL, Stored(StickOrder, {}), fill_stick, nothing_more)
        jobs.register(self._kind)

    def places(self) -> list[str]:
        """Where sticks are: what is mounted where systems mount them, the last one used first."""
        last = self._settings.get(SETTING)
        return list(dict.fromkeys([*([last] if last else []), *map(str, drives())]))

    def plan(self, path: str, list_ids: Iterable[str], mix_ids: Iterable[str]) -> StickPlan:
        """What filling a stick with lists and mixes would do.

        Raises
        ------
        RefusedError
            When there is no folder at that path, or what Fernbrook put there cannot be told.
        """
        return self._planned(stick_at(path), list_ids, mix_ids)[0]

    def _planned(self, root: Path, list_ids: Iterable[str], mix_ids: Iterable[str]) -> tuple[StickPlan, StickOrder]:
        """What filling a stick would do, and the order to do it."""
        there = OnTheStick.of(root)
        order, files, untaken = self._order(there, list_ids, mix_ids)
        needs = sum(f.bytes for f in files if f.action in (Action.COPY, Action.CONVERT))
        free = shutil.disk_usage(root).free
        problem = ""
        if not os.access(root, os.W_OK):
            problem = "That place cannot be written to: it is write-protected, or belongs to someone else."
        elif untaken:
            problem = f"‘{untaken}’ was changed by the player and is to go. Take its changes first, or leave them."
        elif needs + LITTLE > free:
            problem = f"It takes {needs / 1e6:.0f} MB, and {free / 1e6:.0f} MB are free."
        plan = StickPlan(
            player=there.player.name,
            takes=there.player.takes,
            files=tuple(files),
            lists=tuple(x.name for x in order.lists),
            gone=order.gone,
            needs=needs,
            free=free,
            problem=problem,
            notes=tuple(there.notes),
        )
        return plan, order

    def start(self, path: str, list_ids: Iterable[str], mix_ids: Iterable[str]) -> Job:
        """Queue the filling of a stick; raises as ``plan`` does, and where it cannot be done.

        Raises
        ------
        DiskFullError
            When there is no room on it.
        """
        root = stick_at(path)
        planned, order = self._planned(root, list_ids, mix_ids)
        if planned.needs + LITTLE > planned.free:
            raise full(f"the stick was not filled: {planned.problem}")
        if planned.problem:
            raise RefusedError(planned.problem)
        if not planned.lists:
            raise RefusedError("Nothing was chosen. Choose lists or mixes for the stick.")
        self._settings.put(SETTING, str(root))
        with self._database.write() as session:
            if any(self._jobs.view(r).is_open for r in jobs_of_kind(session, FILL)):
                raise RefusedError("A stick is being filled already.")
            row = self._jobs.add(session, self._kind, SUBJECT, "Stick", order)
        self._jobs.announce(row)
        return self._jobs.view(row)

    def last(self) -> Job | None:
        """The filling that is under way, or was last."""
        with self._database.read() as session:
            row = next(iter(jobs_of_kind(session, FILL)), None)
        return self._jobs.view(row) if row else None

    def _order(
        self, there: OnTheStick, list_ids: Iterable[str], mix_ids: Iterable[str]
    ) -> tuple[StickOrder, list[PlannedFile], str]:
        """What is put on a stick, what that means for each track, and the title of one that goes with changes which
        nobody has taken."""
        chosen = self._chosen(list_ids, mix_ids)
        ids = list(dict.fromkeys(i for _, tracks in chosen for i in tracks))
        paths, wrong = self._files.checked_each(ids)
        known = there.known
        names = there.names
        items: dict[str, StickItem] = {}
        planned: list[PlannedFile] = []
        with self._database.read() as session:
            rows = {i: session.get(TrackRow, i) for i in ids}
            for track_id, row in rows.items():
                if row is None:
                    continue
                try:
                    if track_id in wrong:
                        raise wrong[track_id]
                    items[track_id], file = self._item(session, row, paths[track_id], there, names)
                except (AudioFileError, RefusedError) as error:
                    file = PlannedFile(row.id, row.title, row.artist, "", Action.SKIP, str(error), 0)
                planned.append(file)
            going = [t for t in known.values() if t.of not in {x.track.of for x in items.values()}]
            untaken = next((t.title for t in going if _is_untaken(session, there, t)), "")
        lists, texts = _lists(chosen, items, {i: r for i, r in rows.items() if r is not None})
        kept = {x.track.file for x in items.values()} | {x.track.markup for x in items.values()} | set(texts)
        order = StickOrder(
            root=str(there.root),
            items=tuple(items.values()),
            lists=tuple(lists),
            texts=texts,
            gone=tuple(sorted(there.files - kept)),
        )
        return order, planned, untaken

    def _chosen(self, list_ids: Iterable[str], mix_ids: Iterable[str]) -> list[tuple[str, list[str]]]:
        """The names of what was chosen, and the tracks of each in order."""
        lists = {x.id: x for x in self._collection.gathered().lists}
        chosen = []
        for list_id in list_ids:
            if list_id not in lists:
                raise NotFoundError("That list is not there any more.")
            chosen.append((lists[list_id].name, list(lists[list_id].track_ids)))
        for mix_id in mix_ids:
            plan = self._mixes.open(mix_id).plan
            chosen.append((plan.mix.name, [e.track.id for e in plan.entries]))
        return chosen

    def _item(
        self,
        session: Session,
        row: TrackRow,
        path: Path,
        there: OnTheStick,
        names: set[str],
    ) -> tuple[StickItem, PlannedFile]:
        root, takes, before = there.root, there.player.takes, there.known.get(row.content_hash)
        try:
            info = soundfile.info(os.fsencode(path))
        except soundfile.SoundFileError as error:
            raise AudioFileError(f"The file of ‘{row.title}’ cannot be read: it is damaged.") from error
        target = target_of(path.suffix.lstrip(".").lower(), info.samplerate, BITS.get(info.subtype), takes)
        suffix = path.suffix.lower() if target is None else target[0].suffix
        how = "copy" if target is None else f"{target[0].value}@{target[1]}"
        made_from = f"{row.kept_hash or row.content_hash}:{how}"
        is_there = before is not None and before.made_from == made_from and _is_whole(root, before)
        stem = Path(before.file).stem if before is not None else _free(row, names)
        names.add(same_name(stem))
        document = document_of(session, row)
        size = float(path.stat().st_size) if target is None else target[0].spec.expected_bytes(info.duration, target[1])
        track = StickTrack(
            of=row.content_hash,
            title=row.title,
            artist=row.artist,
            file=f"{MUSIC}/{stem}{suffix}",
            bytes=before.bytes if is_there and before else round(size),
            sha256=before.sha256 if is_there and before else "",
            made_from=made_from,
            markup=f"{MARKUP}/{stem}.json",
            document=document,
        )
        stored = None if is_there else self._folders.stored(path)
        item = StickItem(
            track=track,
            path=stored,
            output=None if target is None else target[0],
            rate=info.samplerate if target is None else target[1],
            source_rate=info.samplerate,
            pending=_pending(there, before, document),
        )
        action = Action.KEEP if is_there else Action.COPY if target is None else Action.CONVERT
        reason = "" if target is None else f"{target[2]}: it becomes {target[0].spec.label}, {target[1] / 1000:g} kHz"
        return item, PlannedFile(row.id, row.title, row.artist, track.file, action, reason, track.bytes)


def _lists(
    chosen: list[tuple[str, list[str]]], items: dict[str, StickItem], rows: dict[str, TrackRow]
) -> tuple[list[StickList], dict[str, str]]:
    """The lists, and their texts by their files; two of one name get different files."""
    lists: list[StickList] = []
    texts: dict[str, str] = {}
    for name, ids in chosen:
        file = f"{LISTS}/{_numbered(file_name(name), {same_name(Path(t).stem) for t in texts})}.m3u8"
        lines = tuple(
            Line(number, 0.0, rows[i].title, rows[i].artist, rows[i].duration_s, path=f"../{items[i].track.file}")
            for number, i in enumerate((i for i in ids if i in items), 1)
        )
        texts[file] = written(TrackList(name, 0.0, lines), ListFormat.M3U8)
        lists.append(StickList(name=name, file=file))
    return lists, texts


def _free(row: TrackRow, names: set[str]) -> str:
    """A name for a track's files that no other has."""
    return _numbered(file_name(f"{row.artist} - {row.title}" if row.artist else row.title), names)


def _numbered(name: str, taken: set[str]) -> str:
    """A name, with a number where it is taken."""
    n = 1
    while same_name(numbered := f"{name} ({n})" if n > 1 else name) in taken:
        n += 1
    return numbered


def _pending(there: OnTheStick, before: StickTrack | None, document: TrackDocument) -> TrackDocument | None:
    """What a player changed on a track and nobody has taken yet, with what the library has: it stays on the stick."""
    theirs = there.document(before) if before is not None else None
    if before is None or theirs is None:
        return None
    merged = with_changes(document.markup, before.document.markup, theirs.markup, MARKED)
    return None if merged == document.markup else document.model_copy(update={"markup": merged})


def _is_whole(root: Path, track: StickTrack) -> bool:
    try:
        with open_regular(inside(root, track.file), follow=False) as file:
            return os.fstat(file.fileno()).st_size == track.bytes
    except (OSError, OutsideError):
        return False


def _is_untaken(session: Session, there: OnTheStick, track: StickTrack) -> bool:
    """Whether a player changed something on a track that the library still could take."""
    row = by_hash(session, track.of)
    return row is not None and _pending(there, track, document_of(session, row)) is not None


def stick_at(path: str) -> Path:
    """The folder of a stick.

    Raises
    ------
    RefusedError
        When there is none.
    """
    root = Path(path).expanduser()
    if not path.strip() or not root.is_absolute() or not root.is_dir():
        raise RefusedError(f"There is no folder at ‘{path}’. Put the stick in, and give its whole path.")
    return root
