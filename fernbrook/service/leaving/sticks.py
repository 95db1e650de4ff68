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

from fernbrook.core.track.marks import MarkFacet, with_changes
from fernbrook.disk import full
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.formats.stick import (
    LISTS,
    MARKUP,
    MUSIC,
    StickList,
    StickManifest,
    StickTrack,
    Takes,
    read_document,
    read_manifest,
    read_player,
)
from fernbrook.formats.track_document import TrackDocument
from fernbrook.formats.track_list import Line, ListFormat, TrackList, written
from fernbrook.service.collection import Collection
from fernbrook.service.file_names import file_name
from fernbrook.service.file_writing import document_of
from fernbrook.service.jobs import Job, JobKind, Jobs, nothing_more
from fernbrook.service.leaving.conversion import target_of
from fernbrook.service.mixes import Mixes
from fernbrook.service.settings import Settings
from fernbrook.service.sound_files import SoundFiles
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
MOUNTS = ("/media/*/*", "/media/*", "/run/media/*/*", "/Volumes/*", "/mnt/*")
MARKED = (MarkFacet.GRID, MarkFacet.SECTIONS, MarkFacet.VOICE, MarkFacet.CUES, MarkFacet.LOOPS)
"""What a player may change."""
LITTLE = 1 << 20
"""Room that is left on a stick for lists and markup."""


class Action(StrEnum):
    """What is done with a track: copied, converted, or left where it is."""

    COPY = "copy"
    CONVERT = "convert"
    KEEP = "keep"


@dataclass(frozen=True)
class PlannedFile:
    """A track as it comes to lie on a stick, and why it is converted, where it is."""

    track_id: str
    title: str
    artist: str
    file: str
    action: Action
    reason: str
    bytes: int


@dataclass(frozen=True)
class StickPlan:
    """What filling a stick would do. ``problem`` says why it cannot be, else it is empty."""

    player: str
    takes: Takes
    files: tuple[PlannedFile, ...]
    lists: tuple[str, ...]
    gone: tuple[str, ...]
    needs: int
    free: int
    problem: str


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
        found = [p for pattern in MOUNTS for p in sorted(Path("/").glob(pattern[1:])) if os.path.ismount(p)]
        last = self._settings.get(SETTING)
        return list(dict.fromkeys([*([last] if last else []), *(str(p) for p in found)]))

    def plan(self, path: str, list_ids: Iterable[str], mix_ids: Iterable[str]) -> StickPlan:
        """What filling a stick with lists and mixes would do.

        Raises
        ------
        RefusedError
            When there is no folder at that path.
        AudioFileError
            When a file of the library is missing or was changed.
        """
        return self._planned(stick_at(path), list_ids, mix_ids)[0]

    def _planned(self, root: Path, list_ids: Iterable[str], mix_ids: Iterable[str]) -> tuple[StickPlan, StickOrder]:
        """What filling a stick would do, and the order to do it."""
        order, takes, files, untaken = self._order(root, list_ids, mix_ids)
        needs = sum(f.bytes for f in files if f.action is not Action.KEEP)
        free = shutil.disk_usage(root).free
        problem = ""
        if not os.access(root, os.W_OK):
            problem = "That place cannot be written to: it is write-protected, or belongs to someone else."
        elif untaken:
            problem = f"‘{untaken}’ was changed by the player and is to go. Take its changes first, or leave them."
        elif needs + LITTLE > free:
            problem = f"It takes {needs / 1e6:.0f} MB, and {free / 1e6:.0f} MB are free."
        plan = StickPlan(
            player=read_player(root).name,
            takes=takes,
            files=tuple(files),
            lists=tuple(x.name for x in order.lists),
            gone=order.gone,
            needs=needs,
            free=free,
            problem=problem,
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
        self, root: Path, list_ids: Iterable[str], mix_ids: Iterable[str]
    ) -> tuple[StickOrder, Takes, list[PlannedFile], str]:
        """What is put on a stick, what its player takes, what that means for each track, and the title of one that
        goes with changes which nobody has taken."""
        takes, before = read_player(root).takes, read_manifest(root)
        chosen = self._chosen(list_ids, mix_ids)
        ids = list(dict.fromkeys(i for _, tracks in chosen for i in tracks))
        paths = self._files.checked(ids)
        known = {t.of: t for t in before.tracks} if before else {}
        names = {Path(t.file).stem.casefold() for t in known.values()}
        items: dict[str, StickItem] = {}
        planned: list[PlannedFile] = []
        with self._database.read() as session:
            rows = {i: session.get(TrackRow, i) for i in ids}
            for track_id, row in rows.items():
                if row is None or track_id not in paths:
                    continue
                item, file = self._item(session, row, paths[track_id], takes, known.get(row.content_hash), names, root)
                items[track_id] = item
                planned.append(file)
            going = [t for t in known.values() if t.of not in {x.track.of for x in items.values()}]
            untaken = next((t.title for t in going if _is_untaken(session, root, t)), "")
        lists, texts = _lists(chosen, items, {i: r for i, r in rows.items() if r is not None})
        kept = {x.track.file for x in items.values()} | {x.track.markup for x in items.values()} | set(texts)
        order = StickOrder(
            root=str(root),
            items=tuple(items.values()),
            lists=tuple(lists),
            texts=texts,
            gone=tuple(sorted(_files_of(before) - kept)),
        )
        return order, takes, planned, untaken

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
        takes: Takes,
        before: StickTrack | None,
        names: set[str],
        root: Path,
    ) -> tuple[StickItem, PlannedFile]:
        try:
            info = soundfile.info(os.fsencode(path))
        except soundfile.SoundFileError as error:
            raise AudioFileError(f"The file of ‘{row.title}’ cannot be read: {error}.") from error
        target = target_of(path.suffix.lstrip(".").lower(), info.samplerate, BITS.get(info.subtype), takes)
        suffix = path.suffix.lower() if target is None else target[0].suffix
        how = "copy" if target is None else f"{target[0].value}@{target[1]}"
        made_from = f"{row.kept_hash or row.content_hash}:{how}"
        is_there = before is not None and before.made_from == made_from and _is_whole(root, before)
        stem = Path(before.file).stem if before is not None else _free(row, names)
        names.add(stem.casefold())
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
            pending=_pending(root, before, document),
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
        file = f"{LISTS}/{_numbered(file_name(name), {Path(t).stem.casefold() for t in texts})}.m3u8"
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
    """A name, with a number where it is taken; a stick thinks little of capitals."""
    n = 1
    while (numbered := f"{name} ({n})" if n > 1 else name).casefold() in taken:
        n += 1
    return numbered


def _pending(root: Path, before: StickTrack | None, document: TrackDocument) -> TrackDocument | None:
    """What a player changed on a track and nobody has taken yet, with what the library has: it stays on the stick."""
    theirs = read_document(root, before.markup) if before is not None else None
    if before is None or theirs is None:
        return None
    merged = with_changes(document.markup, before.document.markup, theirs.markup, MARKED)
    return None if merged == document.markup else document.model_copy(update={"markup": merged})


def _is_whole(root: Path, track: StickTrack) -> bool:
    try:
        return (root / track.file).stat().st_size == track.bytes
    except OSError:
        return False


def _is_untaken(session: Session, root: Path, track: StickTrack) -> bool:
    """Whether a player changed something on a track that the library still could take."""
    row = by_hash(session, track.of)
    return row is not None and _pending(root, track, document_of(session, row)) is not None


def _files_of(manifest: StickManifest | None) -> set[str]:
    """All files that were put on a stick, within the folders that are Fernbrook's on it."""
    if manifest is None:
        return set()
    return {n for t in manifest.tracks for n in (t.file, t.markup)} | {x.file for x in manifest.lists}


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
