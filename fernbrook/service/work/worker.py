"""A worker process: it does one piece of work after another, tells how far it is, and ends with its parent."""

from __future__ import annotations

import _thread
import os
import signal
import sys
import time
from collections.abc import Callable
from ctypes import c_double
from multiprocessing import parent_process
from multiprocessing.connection import wait
from multiprocessing.sharedctypes import SynchronizedArray
from pathlib import Path
from threading import Thread
from typing import Any

from pydantic import BaseModel

from fernbrook.whole import work_for

Report = Callable[[float], None]
Result = dict[str, Any]
Run = Callable[[Any, Path, Report], Result]
"""Takes an order, the data folder, and what is told the share done; returns what came of it."""

LAST_WORDS_S = 2.0
"""How long an orphan may take to clear away its unfinished file."""

_board: Any = None


def begin(board: SynchronizedArray[c_double]) -> None:
    """Set up a worker: ``board`` is the shared memory on which progress is written, a place for each job."""
    global _board  # noqa: PLW0603  (a worker process has exactly one)
    _board = board
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(1))
    Thread(target=_end_with_parent, name="end-with-parent", daemon=True).start()


def do(run: Run, order: BaseModel, root: Path, slot: int, owner: str) -> Result:
    """Do one piece of work. When the process is told to end, unfinished files are cleared away on the way out."""
    work_for(owner)

    def report(share: float) -> None:
        _board[slot] = share

    try:
        return run(order, root, report)
    except SystemExit:
        os._exit(1)


def _end_with_parent() -> None:
    """Wait for the server to end, in whichever way, and end as well: nobody is left to take what would come."""
    parent = parent_process()
    if parent is None:
        return
    wait([parent.sentinel])
    _thread.interrupt_main(signal.SIGTERM)
    time.sleep(LAST_WORDS_S)
    os._exit(1)
