"""Files that appear whole or not at all: written beside their place under a name that nobody can guess, then put there
at once. What a killed process left of them is known by its name."""

from __future__ import annotations

import os
import secrets
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from fernbrook.disk import writing
from fernbrook.machine import put_in_place

MARK, PART = ".fernbrook-", ".part"
_owner = "main"


def work_for(owner: str) -> None:
    """Have all that this process begins carry a name, by which ``clear`` finds it: a worker's that of its task."""
    global _owner  # noqa: PLW0603  (a worker does one job at a time)
    _owner = owner


def beside(target: Path) -> Path:
    """A name for a file on its way to ``target``, of its kind."""
    return target.with_name(f"{MARK}{_owner}-{secrets.token_hex(6)}{PART}{target.suffix[:16]}")


@contextmanager
def appearing(target: Path, what: str = "", *, partial: Path | None = None, mode: int = 0o666) -> Iterator[Path]:
    """A new, empty file beside ``target``, which takes its place when the block is left well and goes when it is not.

    Parameters
    ----------
    what : what then was not done, as ``writing`` says it
    partial : its name meanwhile, where that is noted before; one of ``beside``
    mode : its permissions, less the umask

    Raises
    ------
    DiskFullError
        When there is no room for it.
    FileInUseError
        When another program has the file open, where the system forbids to replace it then.
    """
    partial = partial or beside(target)
    try:
        # Whether the disk is full is asked while the file still takes its room.
        with writing(what or f"‘{target.name}’ was not written", target):
            # No link that lies there already is followed, and no file of somebody else's is written over.
            os.close(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, mode))
            yield partial
            with partial.open("rb+") as whole:
                os.fsync(whole.fileno())
            put_in_place(partial, target)
    finally:
        with suppress(OSError):  # a disk that is gone, or broken, has its own error on the way already
            partial.unlink(missing_ok=True)


def write_whole(path: Path, content: bytes, what: str = "") -> None:
    """Write a file so that it is either all there or as it was; raises DiskFullError where there is no room."""
    with appearing(path, what) as partial:
        partial.write_bytes(content)


@contextmanager
def under_way(target: Path) -> Iterator[Path]:
    """A folder beside a file for what goes into it; it goes when the block is left."""
    with TemporaryDirectory(dir=target.parent, prefix=f"{MARK}{_owner}-", suffix=PART) as folder:
        yield Path(folder)


def is_unfinished(path: Path) -> bool:
    """Whether something is such a file or folder, by its name."""
    return path.name.startswith(MARK) and PART in path.name


def clear(folder: Path, owner: str = "") -> None:
    """Delete what was begun in a folder and never finished, by anybody or by one owner. Whoever calls this knows that
    nobody is at it any more."""
    for left in folder.glob(f"{MARK}{owner and owner + '-'}*{PART}*"):
        delete(left)


def delete(path: Path) -> None:
    """Delete a file, a folder with all that is in it, or a link and not what it leads to; as far as that can be."""
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path, ignore_errors=True)
    else:
        with suppress(OSError):
            path.unlink(missing_ok=True)
