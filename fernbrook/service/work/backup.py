"""A backup of a whole data folder as one ZIP, made while it is in use; and bringing one back.

The database is copied by SQLite's own backup, so that it is of one moment. ``manifest.json`` says what is in the ZIP,
with the size and SHA-256 of each file. Nothing of a backup is used before all of it has been found whole; then the
folder's old content is put aside and the new put in its place, which goes on at the next start if it was cut off.
"""

from __future__ import annotations

import secrets
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from fernbrook.disk import full, writing
from fernbrook.formats.archive import Archive, ArchiveError, ArchiveKind, archive_at, read_archive, take_out
from fernbrook.store.folders import DATABASE, Folders
from fernbrook.store.foreign import ForeignError, examine
from fernbrook.whole import under_way, write_whole

KEPT = ("audio", "peaks", "stems", "covers", "tags")
"""Folders that are part of a backup. Renders can be made again."""
STAGE, READY, BEFORE = ".restoring", "ready", ".before-restore"
"""Where a backup is taken out to, what says that it is whole and where the old goes, and how that place begins."""

Report = Callable[[float], None]


def _is_kept(name: str) -> bool:
    """Whether a name is the database's, or lies in one of the folders that are kept."""
    folder, _, rest = name.partition("/")
    return name == DATABASE or (folder in KEPT and bool(rest))


BACKUP = ArchiveKind("fernbrook-backup", "backup", 1, _is_kept)


def write_backup(folders: Folders, target: Path, *, with_audio: bool, report: Report = lambda _: None) -> Archive:
    """Write a backup of a data folder to a file, which appears when it is complete.

    Raises
    ------
    DiskFullError
        When there is no room for it.
    """
    with under_way(target) as folder:
        copied = folder / DATABASE
        with archive_at(target) as archive:
            _copy_database(folders.database, copied)
            files = [(folders.database.name, copied), *_files(folders, with_audio)]
            total, done = sum(p.stat().st_size for _, p in files if p.is_file()) or 1, 0
            for name, path in files:
                if not path.is_file():
                    continue  # what was removed meanwhile is part of no backup
                is_sound = name.startswith(("audio/", "stems/"))
                done += archive.add(name, path, pack=not is_sound, report=_of_whole(report, done, total))[0]
            made_at = datetime.now(UTC).isoformat(timespec="seconds")
            return archive.finish(BACKUP, {"made_at": made_at, "with_audio": with_audio})


def read_backup(path: Path) -> Archive:
    """What a backup says of itself, its names and sizes checked.

    Raises
    ------
    ArchiveError
        When it is no backup, is of a newer version, or names what lies outside a data folder.
    """
    said = read_archive(path, BACKUP)
    if DATABASE not in said.files:
        raise ArchiveError(f"‘{path.name}’ holds no library. Use another backup.")
    return said


@dataclass(frozen=True)
class Restored:
    """A backup that was brought back, and the folder in which lies what was there before."""

    archive: Archive
    before: Path


def restore(path: Path, folders: Folders, report: Report = lambda _: None) -> Restored:
    """Bring a backup back into a data folder that nobody uses; what was there before is put aside, each time in a
    folder of its own.

    Raises
    ------
    ArchiveError
        When anything in it is not as it says, or its database is no whole library. Nothing was touched.
    DiskFullError
        When there is no room beside what is there now. Nothing was touched.
    """
    said = read_backup(path)
    root, stage = folders.root, folders.root / STAGE
    shutil.rmtree(stage, ignore_errors=True)
    root.mkdir(parents=True, exist_ok=True)
    if shutil.disk_usage(root).free < said.bytes:
        raise full("nothing was restored, for it needs room beside what is there now")
    try:
        with writing("nothing was restored", root):
            stage.mkdir(parents=True)
            take_out(path, said, {name: stage / name for name in said.files}, report)
            examine(stage / DATABASE)
    except ForeignError as error:
        shutil.rmtree(stage, ignore_errors=True)
        raise ArchiveError(f"‘{path.name}’ cannot be brought back: {error}. Nothing was touched.") from error
    except BaseException:
        shutil.rmtree(stage, ignore_errors=True)
        raise
    before = root / f"{BEFORE}-{datetime.now(UTC):%Y-%m-%d-%H%M%S}-{secrets.token_hex(2)}"
    write_whole(stage / READY, before.name.encode())
    go_on(folders)
    return Restored(said, before)


def go_on(folders: Folders) -> bool:
    """Finish a restore that was cut off, or throw away one that had not got so far; whether there was one to finish.

    What has been checked is put in its place, name by name; each step can be done again.
    """
    stage = folders.root / STAGE
    if not stage.is_dir():
        return False
    if not (stage / READY).is_file():
        shutil.rmtree(stage, ignore_errors=True)
        return False
    before = folders.root / (stage / READY).read_text()
    before.mkdir(exist_ok=True)
    database = folders.database.name
    for name in (f"{database}-wal", f"{database}-shm", database, *KEPT):
        new, here, old = stage / name, folders.root / name, before / name
        is_new = new.exists()
        if here.exists() and (is_new or name.startswith(f"{database}-")):
            here.replace(old)
        if is_new:
            new.replace(here)
    shutil.rmtree(stage)
    return True


def _of_whole(report: Report, done: int, total: int) -> Callable[[int], None]:
    """What tells how far a part has come of a whole, of which so much was done before it."""
    return lambda n: report((done + n) / total)


def _copy_database(source: Path, target: Path) -> None:
    target.unlink(missing_ok=True)
    reading, copy = sqlite3.connect(source), sqlite3.connect(target)
    try:
        reading.backup(copy)
    finally:
        copy.close()
        reading.close()


def _files(folders: Folders, with_audio: bool) -> Iterator[tuple[str, Path]]:
    """What is in a backup beside the database: names within it, and where they lie."""
    for name in KEPT:
        if name == "audio" and not with_audio:
            continue
        for path in sorted((folders.root / name).rglob("*")):
            if path.is_file() and not path.name.startswith("."):
                yield path.relative_to(folders.root).as_posix(), path
