"""A plan as an audio file."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.output import OutputFormat
from fernbrook.audio.writer import write_audio
from fernbrook.core.mix.entry import CEILING_DBTP
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.rate import RATE
from fernbrook.render.renderer import render


def render_to_file(
    plan: Plan,
    paths: Mapping[str, Path],
    target: Path,
    output: OutputFormat,
    report: Callable[[float], None],
    ceiling_dbtp: float = CEILING_DBTP,
) -> int:
    """Render a plan to a file, which appears when it is complete, and return how many samples it holds.

    ``report`` is told the share done, 0..1. Raises as ``render`` and ``write_audio`` do.
    """

    def watched() -> Iterator[NDArray[np.float32]]:
        done = 0
        for block in render(plan, paths, ceiling_dbtp=ceiling_dbtp):
            yield block
            done += len(block)
            report(done / plan.frames)

    return write_audio(target, watched(), plan.frames, RATE, output)
