from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from sqlalchemy import delete

from fernbrook.service.services import Services
from fernbrook.service.tracks.library import ANALYSE, Library
from fernbrook.store.folders import Folders
from fernbrook.store.tables import JobRow


@pytest.fixture
def folders(tmp_path: Path) -> Folders:
    return Folders(tmp_path / "data")


@pytest.fixture
def services(folders: Folders) -> Iterator[Services]:
    """All services, with one worker. Nothing is worked on until a test starts it."""
    services = Services(folders, workers=1)
    yield services
    services.stop()


def until(condition: Callable[[], bool], seconds: float = 120.0) -> None:
    """Wait for something to come true; fail when it does not."""
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it never came true"
        time.sleep(0.05)


def killed(script: Path, *arguments: str, after_s: float) -> None:
    """Run a script that says ``begun``, and kill it and all that it started so long after that."""
    command = [sys.executable, str(script), *arguments]
    with subprocess.Popen(command, stdout=subprocess.PIPE, start_new_session=True) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == b"begun\n"
        time.sleep(after_s)
        os.killpg(process.pid, signal.SIGKILL)


def analysed(services: Services) -> bool:
    return not any(t.is_waiting for t in services.catalogue.tracks())


@pytest.fixture
def no_analyses(monkeypatch: pytest.MonkeyPatch) -> None:
    """What comes in is not analysed beside the test, which takes seconds of every core."""
    monkeypatch.setattr(Library, "_queue_analysis", lambda *_: None)


def without_analyses(services: Services) -> None:
    """Forget the analyses that wait: what is not about them need not wait for them."""
    with services.jobs._database.write() as session:
        session.execute(delete(JobRow).where(JobRow.kind == ANALYSE))
