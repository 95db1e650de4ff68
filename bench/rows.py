"""What a measurement prints."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """One measured thing: its figure, what it is held against, and what it should reach."""

    what: str
    figure: str
    yardstick: str
    aim: str

    def __str__(self) -> str:
        return f"| {self.what} | {self.figure} | {self.yardstick} | {self.aim} |"


def median_seconds(work: Callable[[], object], runs: int = 5) -> float:
    """The median time of a few runs, after one that does not count."""
    work()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)
