"""Archives that leave or come in: ZIP files with a manifest of what is in them, with the size and SHA-256 of each file.

An archive appears when it is complete. Nothing of one is used before its manifest has been found right, and nothing is
taken out that is not as the manifest says: cut off, damaged, larger than it claims, or named so as to lie elsewhere.
"""

from __future__ import annotations

import hashlib
import json
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from fernbrook.disk import is_full
from fernbrook.enclosed import is_plain
from fernbrook.errors import RefusedError
from fernbrook.whole import appearing

MANIFEST = "manifest.json"
LARGEST_MANIFEST = 64 << 20
ALWAYS_READ, MOST_PACKED = 16 << 20, 60
"""A text of so many bytes is read whatever it came from; a larger one may be so many times as large as it was packed,
which is several times what texts of ours are. More is a trap."""
PART = 1 << 20
FAST = 1
"""How hard what is packed is: silence gets small all the same, and music never does."""

UNREADABLE = (
    zipfile.BadZipFile,
    zlib.error,
    EOFError,
    KeyError,
    ValueError,
    NotImplementedError,
    RecursionError,
    RuntimeError,
    OverflowError,
    struct.error,
)
"""What reading a damaged archive may end in."""

Files = dict[str, tuple[int, str]]
"""Of each file in an archive: its size in bytes and its SHA-256."""


class ArchiveError(RefusedError):
    """An archive that cannot be used; nothing was touched. The message says what is wrong with it."""


@dataclass(frozen=True)
class ArchiveKind:
    """A kind of archive: its name in the manifest and in words, the newest version that is read, and which names may be
    in one."""

    name: str
    word: str
    version: int
    holds: Callable[[str], bool]


@dataclass(frozen=True)
class Archive:
    """What an archive says of itself: what its kind has to say beside the files."""

    version: int
    said: Mapping[str, Any]
    files: Files

    @property
    def bytes(self) -> int:
        """How much it holds."""
        return sum(size for size, _ in self.files.values())


class ArchiveWriter:
    """Puts files into an archive under way."""

    def __init__(self, archive: zipfile.ZipFile) -> None:
        self._archive = archive
        self.files: Files = {}

    def add(
        self, name: str, path: Path, *, pack: bool = False, report: Callable[[int], None] = lambda _: None
    ) -> tuple[int, str]:
        """Put a file in; its size and SHA-256. Sound is as small as it gets: only what is worth it is ``pack``ed.
        ``report`` is told how many bytes of it are done."""
        digest, size = hashlib.sha256(), 0
        self._archive.compression = zipfile.ZIP_DEFLATED if pack else zipfile.ZIP_STORED
        with path.open("rb") as source, self._archive.open(name, "w", force_zip64=True) as target:
            while part := source.read(PART):
                target.write(part)
                digest.update(part)
                size += len(part)
                report(size)
        self.files[name] = (size, digest.hexdigest())
        return self.files[name]

    def add_bytes(self, name: str, content: bytes) -> None:
        """Put something in that is at hand."""
        self._archive.writestr(zipfile.ZipInfo(name), content, zipfile.ZIP_DEFLATED)
        self.files[name] = (len(content), hashlib.sha256(content).hexdigest())

    def finish(self, kind: ArchiveKind, said: Mapping[str, Any]) -> Archive:
        """Write the manifest, after all that is in it."""
        files = {name: {"bytes": size, "sha256": digest} for name, (size, digest) in self.files.items()}
        content = {"format": kind.name, "version": kind.version, **said, "files": files}
        self._archive.writestr(MANIFEST, json.dumps(content, ensure_ascii=False), zipfile.ZIP_DEFLATED)
        return Archive(kind.version, said, dict(self.files))


@contextmanager
def archive_at(target: Path) -> Iterator[ArchiveWriter]:
    """An archive to be filled, which appears at ``target`` when the context is left well.

    Raises
    ------
    DiskFullError
        When there is no room for it; nothing of it is left.
    """
    with (
        appearing(target) as partial,
        zipfile.ZipFile(partial, "w", allowZip64=True, compresslevel=FAST) as archive,
    ):
        yield ArchiveWriter(archive)


def read_archive(path: Path, kind: ArchiveKind) -> Archive:
    """What an archive says of itself, its names and sizes checked.

    Raises
    ------
    ArchiveError
        When it is no such archive, is of a newer version, names what does not belong into it, or is cut off.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            said = json.loads(read_text(archive, path, MANIFEST, LARGEST_MANIFEST))
            sizes = {i.filename: i.file_size for i in archive.infolist()}
    except FileNotFoundError:
        raise ArchiveError(f"There is no file at {path}.") from None
    except (*UNREADABLE, OSError) as error:
        raise ArchiveError(
            f"‘{path.name}’ is no whole {kind.word}: it is damaged, or cut off. Use another one."
        ) from error
    return _checked(path.name, kind, said, sizes)


def read_text(opened: zipfile.ZipFile, path: Path, name: str, most: int) -> bytes:
    """A text of an archive.

    Raises
    ------
    ArchiveError
        When it would be larger unpacked than ``most``, or than what it is packed in lets one expect.
    """
    info = opened.getinfo(name)
    packed = min(info.compress_size, path.stat().st_size)
    if info.file_size > most or info.file_size > max(ALWAYS_READ, MOST_PACKED * packed):
        raise ArchiveError(f"‘{name}’ in ‘{path.name}’ is impossibly large. Nothing was touched; use another one.")
    return opened.read(name)


def take_out(path: Path, archive: Archive, names: Mapping[str, Path], report: Callable[[float], None]) -> None:
    """Write files of an archive to places, each seen to be the one that is meant; ``report`` is told the share done.

    Raises
    ------
    ArchiveError
        When one is not as the manifest says. What was written before it stays: take out to where nobody looks.
    """
    total = sum(archive.files[name][0] for name in names) or 1
    done = 0
    try:
        with zipfile.ZipFile(path) as opened:
            for name, target in names.items():
                target.parent.mkdir(parents=True, exist_ok=True)
                _take_one(opened, path.name, name, target, archive.files[name])
                done += archive.files[name][0]
                report(done / total)
    except UNREADABLE as error:
        raise ArchiveError(f"‘{path.name}’ is damaged. Nothing was touched; use another one.") from error
    except OSError as error:
        if is_full(error, path) or any(is_full(error, target.parent) for target in names.values()):
            raise
        raise ArchiveError(f"‘{path.name}’ cannot be read. Nothing was touched; use another one.") from error


def _take_one(opened: zipfile.ZipFile, file_name: str, name: str, target: Path, meant: tuple[int, str]) -> None:
    found, left = hashlib.sha256(), meant[0]
    with opened.open(name) as source, target.open("wb") as file:
        while part := source.read(PART):
            left -= len(part)
            found.update(part)
            file.write(part)
    if left != 0 or found.hexdigest() != meant[1]:
        raise ArchiveError(f"‘{name}’ in ‘{file_name}’ is damaged. Nothing was touched; use another one.")


def _checked(file_name: str, kind: ArchiveKind, said: object, sizes: dict[str, int]) -> Archive:
    if not isinstance(said, dict) or said.get("format") != kind.name:
        raise ArchiveError(f"‘{file_name}’ is no {kind.word} of Fernbrook.")
    version = said.get("version")
    if not isinstance(version, int) or version > kind.version:
        raise ArchiveError(
            f"‘{file_name}’ was made by a newer Fernbrook ({kind.word} {version}, this one reads {kind.version}). "
            "Bring this one up to date, then open it again."
        )
    try:
        files = {str(n): (int(f["bytes"]), str(f["sha256"])) for n, f in said["files"].items()}
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise ArchiveError(f"The manifest of ‘{file_name}’ is damaged. Use another one.") from error
    for name, (size, _) in files.items():
        if not (is_plain(name) and kind.holds(name)):
            raise ArchiveError(
                f"‘{file_name}’ names ‘{name[:80]}’, which is no part of a {kind.word}. It was not read."
            )
        if sizes.get(name) != size:
            raise ArchiveError(f"‘{name}’ in ‘{file_name}’ is missing or cut off. Use another one.")
    return Archive(version, {k: v for k, v in said.items() if k not in ("format", "version", "files")}, files)
