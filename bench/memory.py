"""Memory of long renders, each in a process of its own."""

from __future__ import annotations

import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from bench.rows import Row

MINUTES = (30, 180)


def rows() -> Iterator[Row]:
    peaks = {}
    for minutes in MINUTES:
        out = subprocess.run(
            [sys.executable, "-m", "bench.memory", str(minutes)], check=True, capture_output=True, text=True
        )
        peaks[minutes] = int(out.stdout)
    short, long = (peaks[m] for m in MINUTES)
    yield Row(
        "memory of a 3-hour render",
        f"{long} MB",
        f"a 30-minute one: {short} MB; ratio {long / short:.2f}",
        "< 600 MB, ≤ 1.10",
    )


def _peak_megabytes(minutes: int) -> int:
    from bench.material import mix_of, paths
    from fernbrook.core.plan import RATE
    from fernbrook.render.renderer import render

    resolved = mix_of(*([2, 3, 5, 7] * 20))
    for _ in render(resolved, paths(), 0, minutes * 60 * RATE):
        pass
    status = Path("/proc/self/status").read_text()
    return int(re.search(r"VmHWM:\s+(\d+) kB", status)[1]) // 1024  # getrusage would count the parent's peak too


if __name__ == "__main__":
    print(_peak_megabytes(int(sys.argv[1])))
