"""How right grids are on pieces that hurt (``bench/pieces.py``), those fitted to and those held back told apart."""

from __future__ import annotations

import time
import warnings
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np
from numpy.typing import NDArray

from bench import networks, pieces
from bench.fitting import beat_f
from bench.pieces import Piece
from bench.rows import Row
from fernbrook.analysis.analyse import analyse
from fernbrook.core.track import DoubtKind, Grid

TEMPO_BPM = 0.05
SAME = 0.9


@dataclass(frozen=True)
class Result:
    """What was measured on one piece, and the yardsticks' F-measures on it; NaN where one is not installed."""

    name: str
    held: bool
    written_f: float
    felt_f: float
    octave: bool
    felt_octave: bool
    tempo: bool
    downbeat: bool
    doubts: tuple[str, ...]
    librosa_written_f: float
    librosa_felt_f: float
    networks_written_f: float
    networks_felt_f: float
    speed: float

    @property
    def right(self) -> bool:
        """Beats and bars as written."""
        return self.written_f > SAME and self.downbeat


def rows() -> Iterator[Row]:
    """Prints what is wrong as it goes, and gives the figures over both halves."""
    made = pieces.made()
    if not made:
        yield Row("grids of pieces that hurt", "not measured", "fluidsynth and fluid-soundfont-gm are needed", "-")
        return
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        results = list(pool.map(_measured, made))
    for r in results:
        if not r.right:
            half = "held" if r.held else "fitted"
            print(f"<!-- {half} {r.name}: F {r.written_f:.2f} ({r.felt_f:.2f} as felt), {r.doubts} -->")
    for half, some in (
        ("fitted to", [r for r in results if not r.held]),
        ("held back", [r for r in results if r.held]),
    ):
        yield from _half(half, some)
    yield Row("whole analysis of the pieces, one core", f"{np.median([r.speed for r in results]):.0f} x", "-", "40 x")


def _half(half: str, some: list[Result]) -> Iterator[Row]:
    def mean(name: str) -> float:
        return float(np.mean([getattr(r, name) for r in some]))

    n = len(some)
    wrong, right = [r for r in some if not (r.felt_f > SAME and r.downbeat)], [r for r in some if r.right]

    def yardsticks(which: str) -> str:
        theirs = {"librosa": mean(f"librosa_{which}"), "networks": mean(f"networks_{which}")}
        return ", ".join(f"{name} {f:.3f}" for name, f in theirs.items() if not np.isnan(f))

    yield Row(f"beat F as felt, {n} {half}", f"{mean('felt_f'):.3f}", yardsticks("felt_f"), "0.95")
    yield Row(f"beat F as written, {half}", f"{mean('written_f'):.3f}", yardsticks("written_f"), "0.93")
    octaves = f"{sum(r.octave for r in some)} / {sum(r.felt_octave for r in some)}"
    yield Row(f"octave as written / as felt, of {n} {half}", octaves, "-", "92 / 97 %")
    yield Row(f"tempo within {TEMPO_BPM} BPM at its octave, {half}", f"{sum(r.tempo for r in some)} of {n}", "-", "all")
    yield Row(f"first beat of the bar right, {half}", f"{sum(r.downbeat for r in some)} of {n}", "-", "89 %")
    yield Row(
        f"wrong ones with a fitting doubt, {half}", f"{sum(bool(r.doubts) for r in wrong)} of {len(wrong)}", "-", "all"
    )
    yield Row(
        f"right ones with a needless doubt, {half}",
        f"{sum(bool(r.doubts) for r in right)} of {len(right)}",
        "-",
        "10 %",
    )


def _measured(piece: Piece) -> Result:
    import librosa
    import soundfile

    warnings.filterwarnings("ignore")
    sound, rate = soundfile.read(piece.path, always_2d=True)
    begun = time.perf_counter()
    found = analyse(piece.path)
    taken = time.perf_counter() - begun
    mono = librosa.resample(sound.mean(axis=1), orig_sr=rate, target_sr=22_050)
    their = librosa.frames_to_time(librosa.beat.beat_track(y=mono, sr=22_050)[1], sr=22_050)
    theirs = _through(their)
    nets = _through(networks.network_beats(sound.mean(axis=1), rate)) if networks.are_there() else None
    beats, grid = piece.beats_s, found.grid
    bpm = grid.mean_bpm(float(beats[0]), float(beats[-1])) if grid else 1.0
    octaves = np.log2(bpm / piece.bpm)
    return Result(
        name=piece.name,
        held=piece.number % 2 == 1,
        written_f=beat_f(beats, grid) if grid else 0.0,
        felt_f=beat_f(beats, grid, piece.felt) if grid else 0.0,
        octave=abs(octaves) < 0.1,
        felt_octave=min(abs(octaves - np.log2(f)) for f in piece.felt) < 0.1,
        tempo=abs(bpm / 2.0 ** np.rint(octaves) - piece.bpm) < TEMPO_BPM,
        downbeat=grid is not None and _same_downbeats(piece, grid, beats),
        doubts=tuple(d.kind.value for d in found.reading.doubts if d.kind is not DoubtKind.KEY),
        librosa_written_f=beat_f(beats, theirs),
        librosa_felt_f=beat_f(beats, theirs, piece.felt),
        networks_written_f=beat_f(beats, nets) if nets else np.nan,
        networks_felt_f=beat_f(beats, nets, piece.felt) if nets else np.nan,
        speed=len(sound) / rate / taken,
    )


def _through(beats_s: NDArray[np.float64]) -> Grid:
    return Grid.through(beats_s, np.arange(len(beats_s))) if len(beats_s) > 1 else Grid.constant(60.0, 0.0)


def _same_downbeats(piece: Piece, grid: Grid, beats: NDArray[np.float64]) -> bool:
    """Whether bars begin where they are written; two bars of two are a bar of four."""
    import mir_eval

    first, last = (float(b) for b in grid.beat_at([beats[0] - 0.3, beats[-1] + 0.3]))
    bar = grid.beats_per_bar
    ours = grid.time_at(np.arange(np.ceil(first / bar), np.floor(last / bar) + 1) * bar)
    written = [beats[:: piece.per_bar]] if piece.per_bar != 2 else [beats[::4], beats[2::4]]
    return max(float(mir_eval.beat.f_measure(w, np.asarray(ours))) for w in written) > SAME
