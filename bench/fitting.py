"""Trains what weighs the evidence for beats and bars: ``python -m bench.fitting``.

Trained on crossed pieces, and on the pieces, arrangements and the battery's tracks with an even number; reported on the
others, which take no part. Both are conditional choices (D. McFadden, 1974) with a penalty on the squares of the
weights, so that the shares are probabilities, and a doubt may be stated as one: what was said is printed against how
often it was right. The network of ``analysis/beat/metre.py`` is written beside it; the table of
``analysis/beat/bar.py`` is printed as Python.
"""

from __future__ import annotations

import pprint
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from itertools import pairwise
from multiprocessing import get_context
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from bench import arrangements, battery, pieces
from fernbrook.analysis.analyse import analyse
from fernbrook.analysis.beat import bar, grid_search, metre
from fernbrook.analysis.beat.drift import whole_beats
from fernbrook.analysis.beat.network import Network, Stored, probabilities
from fernbrook.analysis.features import Features
from fernbrook.core.track import Grid

CROSSED = 240
FEATURES = pieces.FOLDER.parent / "features"
UNITS = 8
PENALTY, BAR_PENALTY = 0.008, 0.01
SAME = 0.9
"""Beats agree from this F-measure on."""
PLACE = 0.07
"""And the beats of a reading when they lie within this share of a beat."""
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Known:
    """A track whose beats are known: those, how many are a bar and which begins one, and whether it is held back."""

    name: str
    path: Path
    beats_s: Array
    per_bar: int
    first: int
    felt: tuple[float, ...]
    held: bool

    @property
    def features(self) -> Features:
        """What the analysis hears of it, kept from run to run."""
        kept = FEATURES / f"{self.name}.npz"
        if not kept.exists():
            FEATURES.mkdir(parents=True, exist_ok=True)
            kept.write_bytes(analyse(self.path).features.to_bytes())
        return Features.from_bytes(kept.read_bytes())


@dataclass(frozen=True)
class Choice:
    """Alternatives: what speaks for each, which are right."""

    name: str
    evidence: Array
    right: NDArray[np.bool_]
    held: bool


def known() -> list[Known]:
    """All tracks that are fitted to or held back."""
    every = [*pieces.made(), *pieces.made(pieces.crossed(CROSSED))]
    found = [
        Known(p.name, p.path, p.beats_s, p.per_bar, 0, p.felt, p.number < 100 and p.number % 2 == 1) for p in every
    ]
    for track in arrangements.made():
        beats = np.asarray(track.grid.time_at(np.arange(track.sections[-1].end)))
        found.append(Known(f"arranged {track.name}", track.path, beats, 4, 0, (1.0,), track.number % 2 == 1))
    for number, case in enumerate(battery.made()):
        truth = case.truth()
        beats = _whole(truth.grid, truth.duration_s)
        per_bar = truth.grid.beats_per_bar
        first = int(-beats[0] % per_bar)
        times = np.asarray(truth.grid.time_at(beats))
        found.append(Known(f"battery {case.kind}", case.path, times, per_bar, first, (1.0,), number % 2 == 1))
    return found


def _whole(grid: Grid, duration_s: float) -> Array:
    first, last = (float(b) for b in grid.beat_at([0.0, duration_s]))
    return np.arange(np.ceil(first), np.floor(last) + 1)


def beat_f(known_s: Array, grid: Grid, felt: tuple[float, ...] = (1.0,), within_s: float = 0.07) -> float:
    """The F-measure of a grid's beats within 70 ms where the track has beats; the best of all felt tempi."""
    import mir_eval

    first, last = known_s[0] - 0.3, known_s[-1] + 0.3
    numbers = np.arange(np.ceil(float(grid.beat_at(first))), np.floor(float(grid.beat_at(last))) + 1)
    if len(numbers) < 4:
        return 0.0
    ours = mir_eval.beat.trim_beats(np.asarray(grid.time_at(numbers)))
    scores = []
    for times in felt:
        for wanted in _counted(known_s, times):
            scores.append(float(mir_eval.beat.f_measure(mir_eval.beat.trim_beats(wanted), ours, within_s)))
    return max(scores)


def _counted(beats: Array, times: float) -> list[Array]:
    if times == 2.0:
        return [np.sort(np.concatenate((beats, (beats[1:] + beats[:-1]) / 2)))]
    return [beats] if times == 1.0 else [beats[0::2], beats[1::2]]


def _choices(track: Known) -> tuple[Choice, Choice | None]:
    """Which pulse is the beat, and which beat is the first."""
    heard = track.features
    bands = heard.onsets.evened
    strength = np.sqrt(bands).mean(axis=0, dtype=np.float64)
    pulse, _, _ = grid_search.find_pulse(bands, strength, heard.onsets.rate)
    ways, evidence = metre.hypotheses(heard.onsets, heard.harmony, pulse, grid_search.DEFAULT_RANGE, heard.heard)
    grids = [pulse.counted(*way) for way in ways]
    # Closer than anyone would judge a beat, or the next place in the beat would pass for it in fast music.
    near_s = PLACE * float(np.median(np.diff(track.beats_s)))
    right = np.array([beat_f(track.beats_s, g, within_s=near_s) > SAME for g in grids])
    if not right.any():
        right = np.array([beat_f(track.beats_s, g, track.felt, near_s) > SAME for g in grids])
    beat = Choice(track.name, evidence, right, track.held)
    if track.per_bar == 2:
        return beat, None
    grid = Grid.through(track.beats_s, np.arange(len(track.beats_s)))
    first, count = whole_beats(grid, heard.onsets.duration_s)
    places = bar.evidence_by_place(heard.onsets, heard.harmony, grid, first, count - 1, track.per_bar, heard.heard)
    return beat, Choice(
        track.name, places, np.arange(track.per_bar) == (track.first - first) % track.per_bar, track.held
    )


def _loss(scores: Array, ends: NDArray[np.int64], right: NDArray[np.bool_]) -> tuple[float, Array]:
    """Mean surprise at the right ones of each choice, and its slope by the scores."""
    total, slope = 0.0, np.zeros(len(scores))
    for a, b in pairwise(ends):
        share = probabilities(scores[a:b])
        likely = share * right[a:b]
        total -= float(np.log(max(likely.sum(), 1e-12)))
        slope[a:b] = share - likely / max(likely.sum(), 1e-12)
    n = len(ends) - 1
    return total / n, slope / n


def trained(choices: list[Choice], names: tuple[str, ...], units: int, penalty: float) -> Network:
    """The network of greatest likelihood, less a penalty; with no units a plain weighted sum."""
    rows = np.concatenate([c.evidence for c in choices])
    mean, scale = rows.mean(axis=0), np.maximum(rows.std(axis=0), 1e-6)
    z = (rows - mean) / scale
    ends = np.cumsum([0, *(len(c.evidence) for c in choices)])
    right = np.concatenate([c.right for c in choices])
    n = z.shape[1]
    cuts = np.cumsum([n * units, units, units])

    def parts(weights: Array) -> tuple[Array, Array, Array, Array]:
        hidden, bias, out, straight = np.split(weights, cuts)
        return hidden.reshape(n, units), bias, out, straight

    def loss(weights: Array) -> tuple[float, Array]:
        hidden, bias, out, straight = parts(weights)
        middle = np.tanh(z @ hidden + bias)
        total, slope = _loss(middle @ out + z @ straight, ends, right)
        back = np.outer(slope, out) * (1.0 - middle**2)
        by_weight = np.concatenate(((z.T @ back).ravel(), back.sum(axis=0), middle.T @ slope, z.T @ slope))
        return total + penalty * float(weights @ weights), by_weight + 2 * penalty * weights

    rng = np.random.default_rng(0)
    start = np.concatenate((rng.normal(0, 0.2, n * units), np.zeros(units), rng.normal(0, 0.2, units), np.zeros(n)))
    found = minimize(loss, start, jac=True, method="L-BFGS-B", options={"maxiter": 500}).x
    return Network(names, mean, scale, *parts(found))


def _unheard(choices: list[Choice], names: tuple[str, ...]) -> list[Choice]:
    """The same without the trained listener, as for features that were kept before there was one."""
    theirs = [i for i, name in enumerate(names) if name.startswith("heard")]
    rows = np.concatenate([c.evidence for c in choices])
    usual = rows[:, theirs].mean(axis=0)
    found = []
    for choice in choices:
        evidence = choice.evidence.copy()
        evidence[:, theirs] = usual
        found.append(replace(choice, evidence=evidence))
    return found


def _also_unheard(choices: list[Choice], names: tuple[str, ...]) -> list[Choice]:
    """Choices with the trained listener and without: either must do."""
    return [*choices, *_unheard(choices, names)]


def reported(what: str, choices: list[Choice], net: Network) -> None:
    """Right ones, and the reliability of the shares, in five classes of about equal size."""
    each = [(c, probabilities(net.scores(c.evidence))) for c in choices]
    best = [(float(share.max()), bool(c.right[int(np.argmax(share))])) for c, share in each]
    print(f"# {what}: {sum(ok for _, ok in best)} of {len(best)} right")
    for some in np.array_split(np.array(sorted(best)), 5):
        if len(some):
            said, right = some.mean(axis=0)
            print(f"#   said {said:.2f} ({some[0, 0]:.2f} to {some[-1, 0]:.2f}), right {right:.2f}")


def main() -> None:
    """Train both; write one, print the other."""
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        every = list(pool.map(_choices, known(), chunksize=4))
    beats, bars = [b for b, _ in every if b.right.any()], [b for _, b in every if b]
    plain = trained([c for c in beats if not c.held], metre.EVIDENCE, 0, PENALTY)
    reported("beats by a weighted sum, held back", [c for c in beats if c.held], plain)
    net = trained(_also_unheard([c for c in beats if not c.held], metre.EVIDENCE), metre.EVIDENCE, UNITS, PENALTY)
    reported("beats, trained on", [c for c in beats if not c.held], net)
    reported("beats, held back", [c for c in beats if c.held], net)
    reported("beats, held back, unheard", _unheard([c for c in beats if c.held], metre.EVIDENCE), net)
    Path(metre.__file__).with_name("metre.json").write_text(_written(net))
    places = tuple(bar.WEIGHTS)
    by_place = trained(_also_unheard([c for c in bars if not c.held], places), places, 0, BAR_PENALTY)
    reported("bars, trained on", [c for c in bars if not c.held], by_place)
    reported("bars, held back", [c for c in bars if c.held], by_place)
    reported("bars, held back, unheard", _unheard([c for c in bars if c.held], places), by_place)
    weights = by_place.straight / by_place.scale
    pprint.pp({n: round(float(w), 2) for n, w in zip(by_place.evidence, weights, strict=True)}, sort_dicts=False)


def _written(net: Network) -> str:
    arrays = {n: np.round(getattr(net, n), 4).tolist() for n in ("mean", "scale", "hidden", "bias", "out", "straight")}
    return Stored(evidence=list(net.evidence), **arrays).model_dump_json() + "\n"


if __name__ == "__main__":
    main()
