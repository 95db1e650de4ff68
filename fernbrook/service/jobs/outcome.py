"""What a job came to, and how a failure is told."""

from __future__ import annotations

import logging
from concurrent.futures import CancelledError, Future
from dataclasses import dataclass
from pathlib import Path

from pebble import ProcessExpired

from fernbrook.errors import FernbrookError
from fernbrook.service.work.worker import Result
from fernbrook.store.jobs import JobState

WAITS = "The disk is full: the result waits in memory. Make room on it."
FAULT = (
    "A fault in Fernbrook ended this. What was there before is untouched, and what happened is told in the terminal "
    "that Fernbrook runs in. Try again."
)

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Outcome:
    """What a job came to, until it is noted; ``held_up`` where that was tried and the disk was full."""

    state: JobState
    error: str | None = None
    result: Result | None = None
    held_up: bool = False


def outcome_of(future: Future[Result]) -> Outcome:
    """What work in a worker came to."""
    try:
        return Outcome(JobState.DONE, result=future.result())
    except CancelledError:
        return Outcome(JobState.CANCELLED)
    except Exception as error:  # the worker's failure is the job's result, whatever it was
        return failure(error)


def failure(error: Exception) -> Outcome:
    """A failure in words."""
    if isinstance(error, FernbrookError):
        words = str(error)
    elif isinstance(error, ProcessExpired):
        words = "The worker process ended unexpectedly. Try again; if it happens again, memory may be short."
    elif isinstance(error, OSError):
        name = f"‘{Path(str(error.filename)).name}’" if error.filename else "A file"
        words = f"{name} could not be read or written: {error.strerror or 'the disk does not answer'}. Try again."
    elif isinstance(error, MemoryError):
        words = "There was not enough memory for it. Close other programs, then try again."
    else:
        log.error("a job failed", exc_info=error)
        words = FAULT
    return Outcome(JobState.FAILED, error=words)
