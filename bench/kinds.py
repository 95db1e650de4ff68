"""What is heard where in club tracks of which every section is known (``bench/arrangements.py``), by share of time.

Beside what one gets for calling all of it the main part, and the borders that librosa's clustering of as many segments
as there are gives. Those tuned on and those held back are told apart, and the ten demo tracks stand beside them.
"""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bench import arrangements, material
from bench.rows import Row
from fernbrook.analysis.analyse import analyse
from fernbrook.core.track import SectionKind
from fernbrook.demo.make import DemoTrack, read_truth

STEP_S, BORDER_S = 0.1, 0.5
OF_THE_DEMO = {"outro": "beat"}

Spans = tuple[tuple[str, float, float], ...]


@dataclass(frozen=True)
class Result:
    """One track: shares of its time, and borders found, wanted, right and given."""

    half: str
    right: float
    all_full: float
    borders: tuple[int, int, int, int]
    theirs: tuple[int, int, int, int]


def rows() -> Iterator[Row]:
    """The figures of each half."""
    cases = [("held back" if a.number % 2 else "tuned on", a.path, _timed(a)) for a in arrangements.made()]
    cases += [("demo", t.path, _of_the_demo(t)) for t in material.tracks()]
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        results = list(pool.map(_measured, cases))
    for half in ("tuned on", "held back", "demo"):
        some = [r for r in results if r.half == half]
        if some:
            yield from _half(half, some)


def _half(half: str, some: list[Result]) -> Iterator[Row]:
    shares = [r.right for r in some]
    yield Row(
        f"kinds, share of time, {len(some)} {half}: mean, worst",
        f"{np.mean(shares):.2f}, {min(shares):.2f}",
        f"all of it full: {np.mean([r.all_full for r in some]):.2f}",
        "0.90 on each",
    )
    yield Row(f"of them under 0.90, {half}", f"{sum(s < 0.9 for s in shares)}", "-", "0")
    ours, theirs = (np.sum([getattr(r, name) for r in some], axis=0) for name in ("borders", "theirs"))
    yield Row(
        f"borders within 0.5 s, {half}: recall, precision",
        f"{ours[0] / ours[1]:.2f}, {ours[2] / ours[3]:.2f}",
        f"librosa {theirs[0] / theirs[1]:.2f}, {theirs[2] / theirs[3]:.2f}",
        "0.95, 0.92",
    )


def _timed(track: arrangements.Arrangement) -> Spans:
    return tuple(
        (s.kind.value, float(track.grid.time_at(s.start)), float(track.grid.time_at(s.end))) for s in track.sections
    )


def _of_the_demo(track: DemoTrack) -> Spans:
    truth = read_truth(material.FOLDER, track.song)
    kinds = {kind.value for kind in SectionKind}
    named = ((OF_THE_DEMO.get(kind, kind), start, end) for kind, start, end in truth.sections)
    return tuple(span for span in named if span[0] in kinds and span[2] > span[1])


def _measured(case: tuple[str, Path, Spans]) -> Result:
    import librosa

    warnings.filterwarnings("ignore")
    half, path, truth = case
    found = analyse(path)
    grid = found.grid
    heard: Spans = ()
    if grid is not None:
        heard = tuple(
            (s.kind.value, float(grid.time_at(s.start)), float(grid.time_at(s.end))) for s in found.reading.sections
        )
    at = np.arange(truth[0][1], truth[-1][2], STEP_S)
    wanted = _kinds_at(truth, at)
    sound, rate = librosa.load(path, sr=22_050)
    cells = librosa.util.sync(librosa.feature.mfcc(y=sound, sr=rate), range(0, len(sound) // 512, 20))
    theirs = librosa.segment.agglomerative(cells, len(truth)) * 20 * 512 / rate
    return Result(
        half=half,
        right=float((_kinds_at(heard, at) == wanted).mean()),
        all_full=float((wanted == SectionKind.FULL.value).mean()),
        borders=_borders([s[1] for s in heard[1:]], [s[1] for s in truth[1:]]),
        theirs=_borders(list(theirs[1:]), [s[1] for s in truth[1:]]),
    )


def _kinds_at(spans: Spans, at: NDArray[np.float64]) -> NDArray[np.str_]:
    kinds = np.full(len(at), "", dtype="<U8")
    for kind, start, end in spans:
        kinds[(at >= start) & (at < end)] = kind
    return kinds


def _borders(found: list[float], truth: list[float]) -> tuple[int, int, int, int]:
    """How many of the true ones were found, of how many; how many of those found are true, of how many."""
    apart = np.abs(np.subtract.outer(truth, found)) if found and truth else np.full((len(truth), len(found)), np.inf)
    near = apart <= BORDER_S
    return int(near.any(axis=1).sum()), len(truth), int(near.any(axis=0).sum()), len(found)
