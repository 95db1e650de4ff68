"""A full disk, recognised in all the words in which it is reported, and told in one."""

from __future__ import annotations

import errno
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from fernbrook.errors import DiskFullError, FernbrookError

NO_ROOM = {errno.ENOSPC, errno.EDQUOT}
LITTLE = 1 << 16
"""With less than this free, a write that failed did so for want of room, whatever it says."""


@contextmanager
def writing(what: str, path: Path) -> Iterator[None]:
    """Raise DiskFullError where a write in the block fails because the disk that holds ``path`` is full.

    ``what`` says what then was not done: 'the render was not written'.
    """
    try:
        yield
    except FernbrookError:
        raise
    except Exception as error:
        if is_full(error, path):
            raise full(what) from error
        raise


def full(what: str) -> DiskFullError:
    """The one way in which it is said."""
    return DiskFullError(f"The disk is full: {what}. Make room on it, then try again; nothing else was lost.")


def is_full(error: Exception, path: Path) -> bool:
    """Whether an error comes from a full disk. libsndfile says only 'System error', SQLite several things."""
    if isinstance(error, OSError) and error.errno in NO_ROOM:
        return True
    if "disk is full" in str(error):
        return True
    there = next((p for p in (path, *path.parents) if p.exists()), None)
    return there is not None and shutil.disk_usage(there).free < LITTLE
