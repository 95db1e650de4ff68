"""A backup of a whole data folder as one ZIP, made while it is in use; and bringing one back.

The database is copied by SQLite's own backup, so that it is of one moment. ``manifest.json`` says what is in the ZIP,
with the size and SHA-256 of each file. Nothing of a backup is used before all of it has been found whole; then the
folder's old content is put aside and the new put in its place, which goes on at the next start if it was cut off.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import sqlite3
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath

from fernbrook.disk import full, writing
from fernbrook.errors import FernbrookError
from fernbrook.store.folders import DATABASE, Folders

FORMAT, VERSION = "fernbrook-backup", 1
MANIFEST = "manifest.json"
KEPT = ("audio", "peaks", "stems")
"""Folders that are part of a backup. Renders can be made again."""
LARGEST_MANIFEST = 64 << 20
PART = 1 << 20
STAGE, READY, BEFORE = ".restoring", "ready", ".before-restore"

Report = Callable[[float], None]


class BackupError(FernbrookError):
    """A backup that cannot be used; nothing was touched. The message says what is wrong with it."""


@dataclass(frozen=True)
class Backup:
    """What a backup says of itself."""

    made_at: str
    with_audio: bool
    files: dict[str, tuple[int, str]]

    @property
    def bytes(self) -> int:
        """How much it holds."""
        return sum(size for size, _ in self.files.values())


def write_backup(folders: Folders, target: Path, *, with_audio: bool, report: Report = lambda _: None) -> Backup:
    """Write a backup of a data folder to a file, which appears when it is complete.

    Raises
    ------
    DiskFullError
        When there is no room for it.
    """
    partial = target.with_name(f".{target.name}.part")
    copied = target.with_name(f".{target.name}.db.part")
    said: dict[str, tuple[int, str]] = {}
    try:
        with writing(f"the backup ‘{target.name}’ was not written", target):
            _copy_database(folders.database, copied)
            files = [(folders.database.name, copied), *_files(folders, with_audio)]
            total, done = sum(p.stat().st_size for _, p in files if p.is_file()) or 1, 0
            with zipfile.ZipFile(partial, "w", allowZip64=True) as archive:
                for name, path in files:
                    if not path.is_file():
                        continue  # what was removed meanwhile is part of no backup
                    said[name] = _add(archive, name, path, _of_whole(report, done, total))
                    done += said[name][0]
                made = Backup(datetime.now(UTC).isoformat(timespec="seconds"), with_audio, said)
                archive.writestr(MANIFEST, json.dumps(_as_json(made)), zipfile.ZIP_DEFLATED)
            with partial.open("rb+") as whole:
                os.fsync(whole.fileno())
            partial.replace(target)
    finally:
        partial.unlink(missing_ok=True)
        copied.unlink(missing_ok=True)
    return made


def read_backup(path: Path) -> Backup:
    """What a backup says of itself, its names and sizes checked.

    Raises
    ------
    BackupError
        When it is no backup, is of a newer version, or names what lies outside a data folder.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            info = archive.getinfo(MANIFEST)
            if info.file_size > LARGEST_MANIFEST:
                raise BackupError(f"‘{path.name}’ has an impossibly large manifest. It is damaged, or no backup.")
            said = json.loads(archive.read(MANIFEST))
            sizes = {i.filename: i.file_size for i in archive.infolist()}
    except FileNotFoundError:
        raise BackupError(f"There is no file at {path}.") from None
    except (zipfile.BadZipFile, KeyError, ValueError, OSError, EOFError) as error:
        raise BackupError(f"‘{path.name}’ is no whole backup: {error}. Use another one.") from error
    return _checked(path.name, said, sizes)


def restore(path: Path, folders: Folders, report: Report = lambda _: None) -> Backup:
    """Bring a backup back into a data folder that nobody uses; what was there before is put aside.

    Raises
    ------
    BackupError
        When anything in it is not as it says. Nothing was touched.
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
        with writing("nothing was restored", root), zipfile.ZipFile(path) as archive:
            stage.mkdir(parents=True)
            done, total = 0, said.bytes or 1
            for name, (size, digest) in said.files.items():
                _take_out(archive, name, stage / name, size, digest)
                done += size
                report(done / total)
    except (zipfile.BadZipFile, EOFError, NotImplementedError) as error:
        shutil.rmtree(stage, ignore_errors=True)
        raise BackupError(f"‘{path.name}’ is damaged: {error}. Nothing was touched.") from error
    except BaseException:
        shutil.rmtree(stage, ignore_errors=True)
        raise
    (stage / READY).write_text(said.made_at)
    go_on(folders)
    return said


def go_on(folders: Folders) -> bool:
    """Finish a restore that was cut off, or throw away one that had not got so far; whether there was one to finish.

    What has been checked wholly is put in its place, name by name; each step can be done again.
    """
    stage, before = folders.root / STAGE, folders.root / BEFORE
    if not stage.is_dir():
        return False
    if not (stage / READY).is_file():
        shutil.rmtree(stage, ignore_errors=True)
        return False
    before.mkdir(exist_ok=True)
    database = folders.database.name
    for name in (f"{database}-wal", f"{database}-shm", database, *KEPT):
        new, here, old = stage / name, folders.root / name, before / name
        is_new = new.exists()
        if here.exists() and (is_new or name.startswith(f"{database}-")):
            if old.is_dir():
                shutil.rmtree(old)
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


def _add(archive: zipfile.ZipFile, name: str, path: Path, report: Callable[[int], None]) -> tuple[int, str]:
    """Put a file into an archive: its size and SHA-256. Sound is as small as it gets; the rest is deflated."""
    digest, size = hashlib.sha256(), 0
    info = zipfile.ZipInfo(name)
    is_sound = name.startswith(("audio/", "stems/"))
    info.compress_type = zipfile.ZIP_STORED if is_sound else zipfile.ZIP_DEFLATED
    with path.open("rb") as source, archive.open(info, "w", force_zip64=True) as target:
        while part := source.read(PART):
            target.write(part)
            digest.update(part)
            size += len(part)
            report(size)
    return size, digest.hexdigest()


def _take_out(archive: zipfile.ZipFile, name: str, target: Path, size: int, digest: str) -> None:
    """Write a file of an archive, and see that it is the one that is meant."""
    target.parent.mkdir(parents=True, exist_ok=True)
    found, left = hashlib.sha256(), size
    with archive.open(name) as source, target.open("wb") as file:
        while part := source.read(PART):
            left -= len(part)
            if left < 0:
                break
            found.update(part)
            file.write(part)
    if left != 0 or found.hexdigest() != digest:
        raise BackupError(f"‘{name}’ in the backup is damaged. Nothing was touched; use another backup.")


def _as_json(backup: Backup) -> dict[str, object]:
    return {
        "format": FORMAT,
        "version": VERSION,
        "made_at": backup.made_at,
        "with_audio": backup.with_audio,
        "files": {name: {"bytes": size, "sha256": digest} for name, (size, digest) in backup.files.items()},
    }


def _checked(file_name: str, said: object, sizes: dict[str, int]) -> Backup:
    if not isinstance(said, dict) or said.get("format") != FORMAT:
        raise BackupError(f"‘{file_name}’ is no backup of Fernbrook.")
    if said.get("version") != VERSION:
        raise BackupError(
            f"‘{file_name}’ was made by a newer Fernbrook (backup {said.get('version')}, this one reads {VERSION})."
        )
    try:
        files = {str(n): (int(f["bytes"]), str(f["sha256"])) for n, f in said["files"].items()}
        made = Backup(str(said["made_at"]), bool(said["with_audio"]), files)
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise BackupError(f"The manifest of ‘{file_name}’ is damaged: {error}.") from error
    for name, (size, _) in files.items():
        if not _is_inside(name):
            raise BackupError(f"‘{file_name}’ names ‘{name[:80]}’, which is no part of a data folder. It was not read.")
        if sizes.get(name) != size:
            raise BackupError(f"‘{name}’ in ‘{file_name}’ is missing or cut off. Use another backup.")
    if DATABASE not in files:
        raise BackupError(f"‘{file_name}’ holds no library. Use another backup.")
    return made


def _is_inside(name: str) -> bool:
    """Whether a name is the database's, or lies in one of the folders that are kept."""
    path = PurePosixPath(name)
    if name == DATABASE:
        return True
    plain = "\\" not in name and ":" not in name and "\0" not in name
    return plain and len(path.parts) > 1 and path.parts[0] in KEPT and ".." not in path.parts and not path.is_absolute()
