"""Where a track changes, and what is heard between the changes.

Changes are peaks of the novelty of bar-wise features (J. Foote, "Automatic audio segmentation using a measure of audio
novelty", ICME 2000), taken where they are largest within a few bars. Kinds follow from what sounds: the bass drum, a
bass that lasts between its beats, and pitched sound.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat.onsets import LOW_BANDS, Onsets
from fernbrook.analysis.tone.harmony import Harmony
from fernbrook.core.track import Grid, Section, SectionKind

WIDTH_BARS = 4
SHORTEST_BARS = 2
CHANGE = 0.55
"""How large a change must be to begin a section, where 1 is the usual spread of the features."""
NEAR_S = 0.02

Array = NDArray[np.float64]


@dataclass(frozen=True)
class BarFeatures:
    """What sounds in each bar; all of shape (bars,), from ``first`` on.

    ``kick`` and ``drums`` are onset strengths on beats and sixteenths, ``bass`` and ``body`` log10 of the power that
    lasts through the bar (its lower quartile); ``level`` is the mean of all bands, ``bright`` that of the highest.
    """

    first: int
    kick: Array
    drums: Array
    bass: Array
    body: Array
    level: Array
    bright: Array
    chroma: Array

    @property
    def bars(self) -> int:
        """How many bars there are."""
        return len(self.kick)


def bar_features(onsets: Onsets, harmony: Harmony, grid: Grid) -> BarFeatures:
    """Features of all bars that begin within a track."""
    begin, end = (float(b) / grid.beats_per_bar for b in grid.beat_at([0.0, onsets.duration_s]))
    first, last = int(np.ceil(begin - 0.02)), int(np.floor(end + 0.02))
    bars = np.arange(first, last)
    edges = grid.time_at(np.arange(first, last + 1) * grid.beats_per_bar)
    frame_edges = np.clip(np.rint(edges * harmony.rate).astype(int), 0, len(harmony.level))
    level = harmony.level.astype(np.float64)
    quiet = np.full((1, level.shape[1]), level.min(initial=-9.0))
    lasting, mean, chroma = [], [], []
    for a, b in pairwise(frame_edges):
        rows = level[a:b] if b > a else quiet
        lasting.append(np.percentile(rows, 25, axis=0))
        mean.append(rows.mean(axis=0))
        chroma.append(harmony.chroma[a:b].mean(axis=0) if b > a else np.zeros(12))
    steady, average = np.array(lasting).reshape(-1, level.shape[1]), np.array(mean).reshape(-1, level.shape[1])
    return BarFeatures(
        first=first,
        kick=_hits(onsets.bands[LOW_BANDS].sum(axis=0), onsets.rate, grid, bars, 1),
        drums=_hits(onsets.bands[LOW_BANDS.stop + 1 :].sum(axis=0), onsets.rate, grid, bars, 4),
        bass=steady[:, 0],
        body=steady[:, 1:3].mean(axis=1),
        level=average.mean(axis=1),
        bright=average[:, 3:].mean(axis=1),
        chroma=np.array(chroma).reshape(-1, 12),
    )


def _hits(strength: NDArray[np.float32], rate: float, grid: Grid, bars: NDArray[np.int64], per_beat: int) -> Array:
    """Mean strength near the given subdivisions of each bar, above what lies between them."""
    steps = grid.beats_per_bar * per_beat
    places = (bars[:, None] + np.arange(steps) / steps) * grid.beats_per_bar
    at = np.rint(grid.time_at(places) * rate).astype(int)
    reach = int(NEAR_S * rate)
    around = np.clip(at[..., None] + np.arange(-reach, reach + 1), 0, len(strength) - 1)
    return np.asarray(strength[around].max(axis=2).astype(np.float64).mean(axis=1))


def find_sections(features: BarFeatures, grid: Grid) -> tuple[Section, ...]:
    """Sections of whole bars over the whole track."""
    if features.bars < 2 * SHORTEST_BARS:
        return ()
    has = _what_sounds(features)
    borders = _borders(features, has)
    kinds = [_kind(features, has, a, b) for a, b in pairwise(borders)]
    per_bar, first = grid.beats_per_bar, features.first
    return tuple(
        Section(kind=kind, start=float((first + a) * per_bar), end=float((first + b) * per_bar))
        for kind, a, b in zip(kinds, borders[:-1], borders[1:], strict=True)
    )


@dataclass(frozen=True)
class _Sounding:
    kick: NDArray[np.bool_]
    drums: NDArray[np.bool_]
    bass: NDArray[np.bool_]
    body: NDArray[np.bool_]


def _what_sounds(features: BarFeatures) -> _Sounding:
    """Bass and body are told apart among bars with a bass drum, whose own sound they stand out from or not."""
    kick = _upper_of_two(features.kick, 0.25)
    bass, body = _upper_of_two(features.bass, 0.3), _upper_of_two(features.body, 0.3)
    if kick.sum() >= 4:
        bass[kick], body[kick] = _upper_of_two(features.bass[kick], 0.3), _upper_of_two(features.body[kick], 0.3)
    return _Sounding(kick=kick, drums=_upper_of_two(features.drums, 0.25), bass=bass, body=body)


def _upper_of_two(values: Array, apart: float) -> NDArray[np.bool_]:
    """Which values belong to the upper of two groups (N. Otsu, IEEE Trans. SMC 9, 1979); all, where there is one group.

    ``apart`` is the least distance of the groups' means: as a share of the upper for strengths, plain for logarithms.
    """
    order = np.sort(values)
    n = len(order)
    sums = np.cumsum(order)
    k = np.arange(1, n)
    below, above = sums[:-1] / k, (sums[-1] - sums[:-1]) / (n - k)
    best = int(np.argmax(k * (n - k) * (above - below) ** 2))
    gap = float(above[best] - below[best])
    needed = apart * float(above[best]) if order[0] >= 0.0 else apart
    if gap < needed:
        return np.ones(n, dtype=bool)
    return np.asarray(values > (above[best] + below[best]) / 2.0)


def _borders(features: BarFeatures, has: _Sounding) -> list[int]:
    """Bars at which sections begin, and the end."""
    rows = np.stack(
        (features.kick, features.drums, features.bass, features.body, features.level, features.bright), axis=1
    )
    rows = (rows - rows.mean(axis=0)) / np.maximum(rows.std(axis=0), 1e-6)
    told = np.stack((has.kick, has.drums, has.bass, has.body), axis=1) * 2.0
    rows = np.concatenate((rows, told, 0.5 * features.chroma / max(float(features.chroma.std()), 1e-6)), axis=1)
    n = features.bars
    change = np.zeros(n)
    for bar in range(1, n):
        width = min(WIDTH_BARS, bar, n - bar)
        difference = rows[bar : bar + width].mean(axis=0) - rows[bar - width : bar].mean(axis=0)
        change[bar] = float(np.sqrt((difference**2).mean())) * np.sqrt(width / WIDTH_BARS)
    borders = [0]
    for bar in np.argsort(-change):
        if change[bar] < CHANGE:
            break
        if all(abs(int(bar) - other) >= SHORTEST_BARS for other in (*borders, n)) and change[bar] >= _beaten(
            change, int(bar)
        ):
            borders.append(int(bar))
    return [*sorted(borders), n]


def _beaten(change: Array, bar: int) -> float:
    """The largest change nearby, which a border must reach."""
    return float(change[max(0, bar - SHORTEST_BARS) : bar + SHORTEST_BARS + 1].max())


def _kind(features: BarFeatures, has: _Sounding, a: int, b: int) -> SectionKind:
    """What is heard in most bars of a section."""
    kick, drums, bass, body = (float(x[a:b].mean()) > 0.5 for x in (has.kick, has.drums, has.bass, has.body))
    if kick:
        if body:
            return SectionKind.FULL
        return SectionKind.BASS if bass else SectionKind.BEAT
    half = max(1, (b - a) // 2)
    rising = features.bright[b - half : b].mean() - features.bright[a : a + half].mean()
    if drums and rising > 0.1 and b - a <= 16:
        return SectionKind.RISE
    if drums and not (bass or body):
        return SectionKind.BEAT
    return SectionKind.BREAK if drums or (a > 0 and b < features.bars) else SectionKind.BEATLESS
