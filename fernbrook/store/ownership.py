"""One process at a time owns a data folder. Others can read who it is, to say so or to hand it their work."""

from __future__ import annotations

import json
import os
import secrets
from dataclasses import asdict, dataclass, replace
from pathlib import Path

from filelock import FileLock, Timeout

from fernbrook.errors import FernbrookError
from fernbrook.whole import appearing


@dataclass(frozen=True)
class Owner:
    """The process that has a folder: ``port`` is where it serves, ``token`` what only readers of the folder know."""

    pid: int
    what: str
    port: int | None = None
    token: str = ""


class FolderInUseError(FernbrookError):
    """Another process has the data folder."""

    def __init__(self, root: Path, owner: Owner | None) -> None:
        self.owner = owner
        if owner is None:
            who = "another Fernbrook"
        elif owner.port is None:
            who = f"‘{owner.what}’ (process {owner.pid})"
        else:
            who = f"the Fernbrook at http://127.0.0.1:{owner.port}/ (process {owner.pid})"
        super().__init__(
            f"The data folder {root} is in use by {who}. "
            "Use that one, end it first, or choose another folder with --data."
        )


class Ownership:
    """Holds a folder until it is released or the process ends, however it ends."""

    def __init__(self, root: Path, what: str) -> None:
        """Take the folder.

        Raises
        ------
        FolderInUseError
            When another process has it.
        """
        root.mkdir(parents=True, exist_ok=True)
        self._root = root
        self._lock = FileLock(_lock_file(root))
        try:
            self._lock.acquire(timeout=0)
        except Timeout:
            raise FolderInUseError(root, owner_of(root)) from None
        self.owner = Owner(os.getpid(), what, token=secrets.token_urlsafe(24))
        self._write()

    def serves_at(self, port: int) -> None:
        """Let others know where the owner listens."""
        self.owner = replace(self.owner, port=port)
        self._write()

    def release(self) -> None:
        """Leave the folder to others."""
        if self._lock.is_locked:
            _owner_file(self._root).unlink(missing_ok=True)
            self._lock.release()

    def _write(self) -> None:
        """Note the owner, for the eyes of this user only: the token opens more than a page may do."""
        with appearing(_owner_file(self._root), mode=0o600) as partial:
            partial.write_text(json.dumps(asdict(self.owner)))


def owner_of(root: Path) -> Owner | None:
    """Who has a folder, as far as it can be told; None where nobody has."""
    if not _lock_file(root).exists():
        return None
    probe = FileLock(_lock_file(root))
    try:
        probe.acquire(timeout=0)
    except Timeout:
        try:
            return Owner(**json.loads(_owner_file(root).read_text()))
        except (OSError, ValueError, TypeError):
            return Owner(0, "another Fernbrook")
    probe.release()
    return None


def _lock_file(root: Path) -> Path:
    return root / "fernbrook.lock"


def _owner_file(root: Path) -> Path:
    return root / "owner.json"
