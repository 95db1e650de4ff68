"""A plan, or a part of it, as an audio file."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from fernbrook.audio.files import Dressing, OutputFormat, loudness_of, write_audio
from fernbrook.audio.measures import LoudnessMeter
from fernbrook.audio.pace import at_rate, frames_at
from fernbrook.audio.sources import Block, joined
from fernbrook.core.mix.entries import CEILING_DBTP
from fernbrook.core.plan import RATE, Plan
from fernbrook.render.renderer import EVERYTHING, Listen, limited, render
from fernbrook.render.spool import Spool, spooled
from fernbrook.whole import appearing, under_way

Report = Callable[[float], None]
MOST_MASTER_DB = 20.0
OPEN_DBTP = 60.0
"""A ceiling that nothing reaches: what is measured is measured before the limiter."""
RENDERED = 0.7
"""The share of the work that is done once the mix is rendered, where more follows."""
TRIES, ATTEMPTS = 12, 5
"""So often a gain is tried, and a file written."""
LOUDNESS_OFF_LU, PEAK_OFF_DB = 0.08, 0.05
"""By so much what is heard of a file may be off."""
MOST_MORE_DB = 20.0
"""By so much more a mix is raised than its loudness asks for, to make up for what the limiter takes."""
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
        """About how often as much is done as for one rendering: a loudness is found in tries."""
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


@dataclass(frozen=True)
class Master:
    """What is done to all of a mix: its gain before the limiter, and the true peak that this lets through."""

    gain_db: float
    ceiling_dbtp: float


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

    A wished loudness is that of the file as it is played: after the limiter, and of a kind that loses something as it
    is decoded again. The ceiling holds for what is decoded, too. ``report`` is told the share done, 0..1. Raises as
    ``render`` and ``write_audio`` do.
    """
    how = how or Rendering()
    rate = output.spec.rate_for(how.rate)
    frames = how.frames(plan)
    if how.loudness_lufs is None and output.spec.is_lossless:
        write_audio(target, sound(plan, paths, rate, report, how), frames_at(frames, RATE, rate), rate, output, sleeve)
        return frames / RATE
    with spooled(plan, paths, how.within(plan), how.listen, target, lambda s: report(RENDERED * s)) as spool:
        _write_settled(plan, spool, target, output, how, sleeve or Dressing(), report)
    return frames / RATE


def sound(plan: Plan, paths: Mapping[str, Path], rate: int, report: Report, how: Rendering) -> Iterator[Block]:
    """What a file is made of, as loud as the mix has it: blocks of shape (n, 2) at a rate. Raises as ``render``
    does."""
    frames, done = max(1, how.frames(plan)), 0

    def told() -> Iterator[Block]:
        nonlocal done
        pieces = [render(plan, paths, start, end, how.listen, how.ceiling_dbtp) for start, end in how.within(plan)]
        for block in _together(pieces, how):
            yield block
            done += len(block)
            report(done / frames)

    yield from at_rate(told(), how.frames(plan), RATE, rate)


@contextmanager
def settled_sound(
    plan: Plan, paths: Mapping[str, Path], rate: int, report: Report, how: Rendering, beside: Path
) -> Iterator[Iterator[Block]]:
    """What a file is made of, at the loudness that is wished; what that takes is kept beside a file meanwhile."""
    if how.loudness_lufs is None:
        yield sound(plan, paths, rate, report, how)
        return
    with spooled(plan, paths, how.within(plan), how.listen, beside, lambda s: report(RENDERED * s)) as spool:
        master = _settled(plan, spool, how, how.loudness_lufs, how.ceiling_dbtp)
        yield at_rate(_mastered(plan, spool, how, master), how.frames(plan), RATE, rate)


def _write_settled(
    plan: Plan, spool: Spool, target: Path, output: OutputFormat, how: Rendering, sleeve: Dressing, report: Report
) -> None:
    """Write a file, hear it, and write it again until its loudness and its peaks are those that are wished."""
    rate = output.spec.rate_for(how.rate)
    frames = frames_at(how.frames(plan), RATE, rate)
    wished, ceiling = how.loudness_lufs, how.ceiling_dbtp
    with under_way(target) as folder:
        trial = folder / f"trial{target.suffix}"
        master, over = Master(0.0, ceiling), 0.0
        for attempt in range(ATTEMPTS):
            if attempt + 1 == ATTEMPTS:  # it cannot be so loud below the ceiling: that comes first
                lower = max(0.0, over + PEAK_OFF_DB)
                master = Master(master.gain_db - lower, master.ceiling_dbtp - lower)
            else:
                master = Master(0.0, ceiling) if wished is None else _settled(plan, spool, how, wished, ceiling)
            blocks = at_rate(_mastered(plan, spool, how, master), how.frames(plan), RATE, rate)
            write_audio(trial, blocks, frames, rate, output, Dressing(chapters=sleeve.chapters))
            report(RENDERED + (1.0 - RENDERED) * (attempt + 1) / (ATTEMPTS + 1))
            heard = loudness_of(trial)
            over = (heard.true_peak_dbtp if heard.true_peak_dbtp is not None else ceiling) - how.ceiling_dbtp
            off = 0.0
            if wished is not None and how.loudness_lufs is not None and heard.integrated_lufs is not None:
                off = heard.integrated_lufs - how.loudness_lufs
            if over <= PEAK_OFF_DB and abs(off) <= LOUDNESS_OFF_LU:
                break
            ceiling -= max(0.0, over + PEAK_OFF_DB)
            wished = None if wished is None else wished - off
        if sleeve.pictures is not None:  # they take long: what is right of the sound is found without them
            blocks = at_rate(_mastered(plan, spool, how, master), how.frames(plan), RATE, rate)
            write_audio(target, blocks, frames, rate, output, sleeve)
        else:
            with appearing(target) as partial:
                trial.replace(partial)
                if sleeve.finish is not None:
                    sleeve.finish(partial)
    report(1.0)


def _settled(plan: Plan, spool: Spool, how: Rendering, wished_lufs: float, ceiling_dbtp: float) -> Master:
    """The gain at which a mix has a loudness after its limiter, which takes the more the louder it is."""
    heard = _loudness(_mastered(plan, spool, how, Master(0.0, OPEN_DBTP)))
    if heard is None:
        return Master(0.0, ceiling_dbtp)
    first = gain = float(np.clip(wished_lufs - heard, -MOST_MASTER_DB, MOST_MASTER_DB))
    most = min(first + MOST_MORE_DB, MOST_MASTER_DB)
    low: tuple[float, float] | None = None
    high: tuple[float, float] | None = None
    for attempt in range(TRIES):
        heard = _loudness(_mastered(plan, spool, how, Master(gain, ceiling_dbtp)))
        if heard is None or abs(wished_lufs - heard) <= LOUDNESS_OFF_LU / 2.0:
            break
        if heard < wished_lufs:
            low = (gain, heard)
        else:
            high = (gain, heard)
        if low is None or high is None:
            further = gain + 1.5**attempt * (wished_lufs - heard)
        else:  # between the two, where a line from one to the other would have it, but not at either of them
            share = float(np.clip((wished_lufs - low[1]) / max(high[1] - low[1], 1e-9), 0.1, 0.9))
            further = low[0] + share * (high[0] - low[0])
        further = float(np.clip(further, -MOST_MASTER_DB, most))
        if further == gain:
            break
        gain = further
    return Master(gain, ceiling_dbtp)


def _mastered(plan: Plan, spool: Spool, how: Rendering, master: Master) -> Iterator[Block]:
    pieces = [limited(spool, start, end, master.ceiling_dbtp, master.gain_db) for start, end in how.within(plan)]
    return _together(pieces, how)


def _together(pieces: Sequence[Iterable[Block]], how: Rendering) -> Iterator[Block]:
    """Pieces of a mix after one another, faded into each other where they are."""
    if not how.is_joined:
        return joined(pieces, JOIN)
    silence = np.zeros((JOIN, 2), dtype=np.float32)
    return joined([[silence], *pieces, [silence]], JOIN)


def _loudness(blocks: Iterator[Block]) -> float | None:
    meter = LoudnessMeter(RATE)
    for block in blocks:
        meter.add(block)
    return meter.result().integrated_lufs
