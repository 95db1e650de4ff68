"""Which desk a command works at: the data folder itself, or the server that has the folder."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from fernbrook.cli.desk import LOOK_EVERY_S, Desk
from fernbrook.cli.screen import say
from fernbrook.store.folders import Folders
from fernbrook.store.ownership import FolderInUseError


@contextmanager
def desk(data: Path | None, what: str) -> Iterator[Desk]:
    """A place to work on a data folder: its server's where one runs, the folder itself where nobody has it.

    Where another command has the folder, its end is waited for.
    """
    from fernbrook.cli.local import local_desk

    folders = folders_of(data)
    while True:
        try:
            with local_desk(folders, what) as own:
                yield own
            return
        except FolderInUseError as error:
            if error.owner is not None and error.owner.port is not None:
                from fernbrook.cli.remote import RemoteDesk

                with RemoteDesk(error.owner) as remote:
                    yield remote
                return
            wait_for_end(folders, error)


def folders_of(data: Path | None) -> Folders:
    """The data folder that is asked for, else the user's own."""
    return Folders(data.resolve()) if data else Folders.default()


def wait_for_end(folders: Folders, error: FolderInUseError) -> None:
    """Wait until the command that has a folder is done with it."""
    from fernbrook.store.ownership import owner_of

    who = f"‘{error.owner.what}’ (process {error.owner.pid})" if error.owner else "another Fernbrook"
    say(f"Waiting for {who} to be done with {folders.root} …")
    while (owner := owner_of(folders.root)) is not None and owner.port is None:
        time.sleep(LOOK_EVERY_S)
