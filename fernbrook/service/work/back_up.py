"""Making a backup."""

from __future__ import annotations

from pathlib import Path

from fernbrook.core.value import Value
from fernbrook.service.work.backup import write_backup
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders


class BackupOrder(Value):
    """Where the backup goes, relative to the data folder, and whether the audio files are part of it."""

    target: str
    with_audio: bool


def back_up(order: BackupOrder, root: Path, report: Report) -> Result:
    """Write a backup and return what it is."""
    folders = Folders(root)
    target = folders.ours(order.target, folders.backups)
    made = write_backup(folders, target, with_audio=order.with_audio, report=report)
    return {"bytes": target.stat().st_size, "files": len(made.files), "with_audio": order.with_audio}
