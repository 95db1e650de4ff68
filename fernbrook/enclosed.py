"""Names and files that came from elsewhere: a name stays within its folder, and only what is a file is read."""

from __future__ import annotations

import errno
import os
import stat
from io import BufferedReader
from pathlib import Path, PurePosixPath

from fernbrook.errors import RefusedError


class OutsideError(RefusedError):
    """A name that leads out of the folder that it belongs to. Nothing was read or written there."""


def is_plain(name: str) -> bool:
    """Whether a name lies within a folder wherever it is put: relative, and by no way out of it.

    >>> is_plain("audio/a.flac"), is_plain("audio/../../a"), is_plain("/etc/a"), is_plain("c:a"), is_plain(".")
    (True, False, False, False, False)
    """
    path = PurePosixPath(name)
    odd = any(c in name for c in "\\:\0")
    return bool(path.parts) and not odd and ".." not in path.parts and not path.is_absolute()


def inside(root: Path, name: str) -> Path:
    """Where a name lies in a folder that is not ours, reached through no link.

    The last part may be a link itself: replacing or deleting that leaves alone what it leads to.

    Raises
    ------
    OutsideError
        When it lies elsewhere.
    """
    if not is_plain(name):
        raise OutsideError(f"‘{name[:80]}’ is no name of a file in {root}. It was left alone.")
    parts = PurePosixPath(name).parts
    if os.path.realpath(root.joinpath(*parts[:-1])) != str(Path(os.path.realpath(root)).joinpath(*parts[:-1])):
        raise OutsideError(f"‘{'/'.join(parts[:-1])}’ in {root} is a link that leads elsewhere. Delete the link first.")
    return root.joinpath(*parts)


def folder_inside(root: Path, name: str) -> Path:
    """A folder in one that is not ours, made where there is none; raises as ``inside`` does."""
    folder = inside(root, name)
    inside(root, f"{name}/in it")
    folder.mkdir(exist_ok=True)
    return folder


def open_regular(path: Path, *, follow: bool = True) -> BufferedReader:
    """A file to be read, which is one: a pipe would keep the reader waiting for ever, a device never end.

    Raises
    ------
    OSError
        When it is not there, cannot be read, is no regular file, or is a link where those are not followed.
    """
    ways = os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0)
    if not follow:
        ways |= getattr(os, "O_NOFOLLOW", 0)
        if path.is_symlink():
            raise OSError(errno.ELOOP, "it is a link", str(path))
    descriptor = os.open(path, ways)
    if not stat.S_ISREG(os.fstat(descriptor).st_mode):
        os.close(descriptor)
        raise OSError(errno.EINVAL, "it is no file", str(path))
    return os.fdopen(descriptor, "rb")


def read_inside(root: Path, name: str, most: int) -> bytes:
    """A file in a folder that is not ours, up to ``most`` bytes.

    Raises
    ------
    OutsideError
        When the name leads out of it.
    OSError
        When it is not there, is no regular file, or is larger.
    """
    with open_regular(inside(root, name), follow=False) as file:
        content = file.read(most + 1)
    if len(content) > most:
        raise OSError(errno.EFBIG, "it is impossibly large", name)
    return content
