"""Showing where a file lies, in whatever the machine shows folders with."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

from fernbrook.errors import RefusedError
from fernbrook.machine import folder_command


def show_in_folder(path: Path) -> None:
    """Open the folder of a file, the file marked where the machine can do that.

    Raises
    ------
    RefusedError
        When there is nothing to show folders with; the message tells where the file lies.
    """
    command = folder_command(path)
    if shutil.which(command[0]) is None:
        raise RefusedError(f"This machine has nothing to show folders with. The file is {path}.")
    subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)
