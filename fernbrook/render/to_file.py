"""A plan, or a part of it, as an audio file."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.at_rate import at_rate, frames_at
from fernbrook.audio.encoder import Chapter
from fernbrook.audio.loudness import LoudnessMeter
from fernbrook.audio.output import OutputFormat
from fernbrook.audio.writer import write_audio
from fernbrook.core.mix.entry import CEILING_DBTP
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.rate import RATE
from fernbrook.render.renderer import EVERYTHING, Listen, render

Report = Callable[[float], None]
MOST_MASTER_DB = 20.0
OPEN_DBTP = 60.0
"""A ceiling that nothing reaches: what is measured is measured before the limiter."""


@dataclass(frozen=True)
class Rendering:
    """What is rendered of a plan, and how: samples [start, end) at ``rate``, which parts, up to which true peak, and
    brought to which loudness, if to any."""

    start: int = 0
    end: int | None = None
    rate: int = RATE
    ceiling_dbtp: float = CEILING_DBTP
    loudness_lufs: float | None = None
    listen: Listen = EVERYTHING

    def frames(self, plan: Plan) -> int:
        """How many samples of the mix it takes."""
        end = plan.frames if self.end is None else min(self.end, plan.frames)
        return max(0, end - max(self.start, 0))


def render_to_file(
    plan: Plan,
    paths: Mapping[str, Path],
    target: Path,
    output: OutputFormat,
    report: Report,
    how: Rendering | None = None,
    chapters: Sequence[Chapter] = (),
    finish: Callable[[Path], None] | None = None,
) -> float:
    """Render a plan to a file, which appears when it is complete, and return how many seconds it lasts.

    ``report`` is told the share done, 0..1. ``finish`` adds to the file before it appears. Raises as ``render`` and
    ``write_audio`` do.
    """
    how = how or Rendering()
    frames = how.frames(plan)
    passes = 1 if how.loudness_lufs is None else 2
    master_db = 0.0
    if how.loudness_lufs is not None:
        master_db = _master_db(how.loudness_lufs, _blocks(plan, paths, how, OPEN_DBTP, 0.0, report, (0.0, 0.5)))
    share = (0.0, 1.0) if passes == 1 else (0.5, 1.0)
    blocks = _blocks(plan, paths, how, how.ceiling_dbtp, master_db, report, share)
    rate = output.spec.rate_for(how.rate)
    made = frames_at(frames, RATE, rate)
    write_audio(target, at_rate(blocks, frames, RATE, rate), made, rate, output, chapters, finish)
    return frames / RATE


def _blocks(
    plan: Plan,
    paths: Mapping[str, Path],
    how: Rendering,
    ceiling_dbtp: float,
    master_db: float,
    report: Report,
    within: tuple[float, float],
) -> Iterator[NDArray[np.float32]]:
    """The rendered blocks, whose progress is told as going from one share to another."""
    done, frames = 0, max(1, how.frames(plan))
    for block in render(plan, paths, how.start, how.end, how.listen, ceiling_dbtp, master_db=master_db):
        yield block
        done += len(block)
        report(within[0] + (within[1] - within[0]) * done / frames)


def _master_db(target_lufs: float, blocks: Iterator[NDArray[np.float32]]) -> float:
    """The gain that brings a sound to a loudness; none for silence."""
    meter = LoudnessMeter(RATE)
    for block in blocks:
        meter.add(block)
    loud = meter.result().integrated_lufs
    return 0.0 if loud is None else float(np.clip(target_lufs - loud, -MOST_MASTER_DB, MOST_MASTER_DB))
