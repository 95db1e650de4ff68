"""Memory of long renders and long analyses, each in a process of its own."""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

from bench.rows import Row

RENDERED_MINUTES = (30, 180)
ANALYSED_MINUTES = (4, 120)


def rows() -> Iterator[Row]:
    short, long = (_peak("render", minutes) for minutes in RENDERED_MINUTES)
    yield Row(
        "memory of a 3-hour render",
        f"{long} MB",
        f"a 30-minute one: {short} MB; ratio {long / short:.2f}",
        "< 600 MB, ≤ 1.10",
    )
    short, long = (_peak("analyse", minutes) for minutes in ANALYSED_MINUTES)
    yield Row(
        "memory of the analysis of a 2-hour file",
        f"{long} MB",
        f"a 4-minute one: {short} MB; ratio {long / short:.2f}",
        "< 1500 MB",
    )


def _peak(work: str, minutes: int) -> int:
    out = subprocess.run(
        [sys.executable, "-m", "bench.memory", work, str(minutes)], check=True, capture_output=True, text=True
    )
    return int(out.stdout)


def _render(minutes: int) -> None:
    from bench.material import mix_of, paths
    from fernbrook.core.plan import RATE
    from fernbrook.render.renderer import render

    resolved = mix_of(*([2, 3, 5, 7] * 20))
    for _ in render(resolved, paths(), 0, minutes * 60 * RATE):
        pass


def _analyse(minutes: int) -> None:
    """Analyse a demo track that is played over and over."""
    import soundfile

    from bench.material import tracks
    from fernbrook.analysis.analyse import analyse

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.wav"
        sound, rate = soundfile.read(tracks()[4].path, dtype="int16", always_2d=True)
        with soundfile.SoundFile(path, "w", rate, 2, "PCM_16") as file:
            for _ in range(-(-minutes * 60 * rate // len(sound))):
                file.write(sound)
        del sound
        analyse(path)


WORK: dict[str, Callable[[int], None]] = {"render": _render, "analyse": _analyse}

if __name__ == "__main__":
    WORK[sys.argv[1]](int(sys.argv[2]))
    status = Path("/proc/self/status").read_text()
    # getrusage would count the parent's peak too.
    print(int(re.findall(r"VmHWM:\s+(\d+) kB", status)[0]) // 1024)
