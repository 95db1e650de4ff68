"""A plan, or a part of it, as an audio file."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from fernbrook.audio.at_rate import at_rate, frames_at
from fernbrook.audio.joining import Block, joined
from fernbrook.audio.loudness import LoudnessMeter
from fernbrook.audio.output import OutputFormat
from fernbrook.audio.writer import Dressing, write_audio
from fernbrook.core.mix.entry import CEILING_DBTP
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.rate import RATE
from fernbrook.render.renderer import EVERYTHING, Listen, render

Report = Callable[[float], None]
MOST_MASTER_DB = 20.0
OPEN_DBTP = 60.0
"""A ceiling that nothing reaches: what is measured is measured before the limiter."""
JOIN = RATE
"""Pieces of a mix are faded into each other over a second."""


@dataclass(frozen=True)
class Rendering:
    """What is rendered of a plan, and how: spans of samples [start, end), to the end where that is None, after one
    another; at ``rate``, which parts, up to which true peak, and brought to which loudness, if to any.

    Where there are several spans, or they are ``soft``, each is faded into the next over a second, and all of it in
    and out.
    """

    spans: tuple[tuple[int, int | None], ...] = ((0, None),)
    soft: bool = False
    rate: int = RATE
    ceiling_dbtp: float = CEILING_DBTP
    loudness_lufs: float | None = None
    listen: Listen = EVERYTHING

    @property
    def is_joined(self) -> bool:
        """Whether anything is faded."""
        return self.soft or len(self.spans) > 1

    @property
    def passes(self) -> int:
        """How often the mix is rendered for it: once more to measure it."""
        return 1 if self.loudness_lufs is None else 2

    def within(self, plan: Plan) -> list[tuple[int, int]]:
        """The spans, as far as they lie in the mix and hold something."""
        ends = [(max(start, 0), plan.frames if end is None else min(end, plan.frames)) for start, end in self.spans]
        return [(start, end) for start, end in ends if end > start]

    def frames(self, plan: Plan) -> int:
        """How many samples of the mix it takes."""
        spans = self.within(plan)
        return sum(end - start for start, end in spans) - (JOIN * max(len(spans) - 1, 0) if self.is_joined else 0)

    def starts_s(self, plan: Plan) -> list[float]:
        """Where each span begins in the file, in seconds."""
        lengths = [end - start - (JOIN if self.is_joined else 0) for start, end in self.within(plan)]
        return [sum(lengths[:n]) / RATE for n in range(len(lengths))]

    def place_s(self, plan: Plan, at_s: float) -> float:
        """Which second of the mix is heard at a second of the file."""
        starts = self.starts_s(plan)
        n = max(bisect_right(starts, at_s) - 1, 0)
        return self.within(plan)[n][0] / RATE + at_s - starts[n]


def render_to_file(
    plan: Plan,
    paths: Mapping[str, Path],
    target: Path,
    output: OutputFormat,
    report: Report,
    how: Rendering | None = None,
    sleeve: Dressing | None = None,
) -> float:
    """Render a plan to a file, which appears when it is complete, and return how many seconds it lasts.

    ``report`` is told the share done, 0..1. Raises as ``render`` and ``write_audio`` do.
    """
    how = how or Rendering()
    rate = output.spec.rate_for(how.rate)
    frames = how.frames(plan)
    write_audio(target, sound(plan, paths, rate, report, how), frames_at(frames, RATE, rate), rate, output, sleeve)
    return frames / RATE


def sound(plan: Plan, paths: Mapping[str, Path], rate: int, report: Report, how: Rendering) -> Iterator[Block]:
    """What a file is made of: blocks of shape (n, 2) at a rate. Raises as ``render`` does."""
    master_db = 0.0
    if how.loudness_lufs is not None:
        master_db = _master_db(how.loudness_lufs, _blocks(plan, paths, how, OPEN_DBTP, 0.0, report, (0.0, 0.5)))
    share = (1.0 - 1.0 / how.passes, 1.0)
    blocks = _blocks(plan, paths, how, how.ceiling_dbtp, master_db, report, share)
    yield from at_rate(blocks, how.frames(plan), RATE, rate)


def _blocks(
    plan: Plan,
    paths: Mapping[str, Path],
    how: Rendering,
    ceiling_dbtp: float,
    master_db: float,
    report: Report,
    within: tuple[float, float],
) -> Iterator[Block]:
    """The rendered blocks, whose progress is told as going from one share to another."""
    done, frames = 0, max(1, how.frames(plan))
    pieces: list[Iterable[Block]] = [
        render(plan, paths, start, end, how.listen, ceiling_dbtp, master_db=master_db)
        for start, end in how.within(plan)
    ]
    if how.is_joined:
        silence = np.zeros((JOIN, 2), dtype=np.float32)
        pieces = [[silence], *pieces, [silence]]
    for block in joined(pieces, JOIN):
        yield block
        done += len(block)
        report(within[0] + (within[1] - within[0]) * done / frames)


def _master_db(target_lufs: float, blocks: Iterator[Block]) -> float:
    """The gain that brings a sound to a loudness; none for silence."""
    meter = LoudnessMeter(RATE)
    for block in blocks:
        meter.add(block)
    loud = meter.result().integrated_lufs
    return 0.0 if loud is None else float(np.clip(target_lufs - loud, -MOST_MASTER_DB, MOST_MASTER_DB))
