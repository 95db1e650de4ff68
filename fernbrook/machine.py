"""What differs from system to system, in one place: how a file takes another's place while somebody reads that, where
drives are mounted, what shows a folder."""

from __future__ import annotations

import os
import string
import sys
import time
from pathlib import Path

from fernbrook.errors import RefusedError

WAITS_S = (0.02, 0.05, 0.1, 0.2, 0.4, 0.8)
"""How long a file that is being read is waited for, try after try; a virus scanner has looked by then."""

MOUNTS = {
    "linux": ("/media/*/*", "/media/*", "/run/media/*/*", "/mnt/*"),
    "darwin": ("/Volumes/*",),
}


class FileInUseError(RefusedError):
    """A file cannot be replaced, for another program has it open."""


def put_in_place(partial: Path, target: Path) -> None:
    """Let a file take the place of another, at once.

    Where files that are open cannot be replaced (Windows), whoever reads it is waited for a moment.

    Raises
    ------
    FileInUseError
        When it stays open. Both files are as they were.
    """
    for wait_s in (*WAITS_S, None):
        try:
            partial.replace(target)
        except PermissionError as error:
            if sys.platform != "win32":
                raise
            if wait_s is None:
                raise FileInUseError(
                    f"‘{target.name}’ is open in another program. Close it there, then try again."
                ) from error
            time.sleep(wait_s)
        else:
            return


def drives() -> list[Path]:
    """Where sticks and other drives are mounted, in order."""
    if sys.platform == "win32":
        letters = [Path(f"{letter}:\\") for letter in string.ascii_uppercase[3:]]
        return [drive for drive in letters if os.path.ismount(drive)]
    patterns = MOUNTS.get(sys.platform, MOUNTS["linux"])
    return [path for pattern in patterns for path in sorted(Path("/").glob(pattern[1:])) if os.path.ismount(path)]


def folder_command(path: Path) -> list[str]:
    """What shows the folder of a file, the file marked where the system can do that."""
    if sys.platform == "darwin":
        return ["open", "-R", str(path)]
    if sys.platform == "win32":
        return ["explorer", f"/select,{path}"]
    return ["xdg-open", str(path.parent)]
