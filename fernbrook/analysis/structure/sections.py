"""Where a track changes, and what is heard between the changes.

Changes are peaks of the novelty of bar-wise features (J. Foote, "Automatic audio segmentation using a measure of audio
novelty", ICME 2000), taken where they are largest within a few bars. Kinds follow from what sounds: the bass drum, a
bass that lasts between its beats, and pitched sound.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
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
KICK = 0.2
"""From this share of what it is in the bars in which it is strong, a bass drum plays."""
DRUMS, EDGE_DRUMS = 0.3, 0.6
"""Drums play from such a share on of what they are where they are strong; at the ends of a track plucked chords, which
begin as sharply, are told from them by the larger one."""
BRIGHTER, DENSER = 0.1, 1.2
"""By how much, in log10 of power and as a ratio, the second half of a rise is above its first."""
BASS_APART = 0.8
"""Bars with a bass and bars without one differ by so much at least, in log10 of power."""
BODY_APART = 0.2
"""And bars with chords and bars with a bass alone by so much."""
OF_THE_WAY = 0.1
"""and by such a share at least of how far both lie above drums alone: where a lead comes and goes over chords, less."""
FAR_BELOW = 2.3
"""Where no bass drum plays, what is pitched may be so much quieter than in the loudest bars, and is there still."""
APART_SPREADS = 2.0
"""Two groups lie so many times the spread within them apart."""
PHRASE, LONG_PHRASE = 4, 8
RISES = (8, 4)
"""Bars that a rise lasts."""
STEP, STEP_SPREADS = 0.2, 2.5
"""A step within a section is so large in log10 of power, and so many times the spread around it."""
NEAR_S = 0.02

Array = NDArray[np.float64]


@dataclass(frozen=True)
class BarFeatures:
    """What sounds in each bar; all of shape (bars,), from ``first`` on.

    ``kick`` is by how much the amplitude below 180 Hz rises on the beats, ``drums`` the strength of onsets above on
    sixteenths, ``bass`` log10 of the power below 120 Hz that lasts through the bar (its lower quartile), ``body`` that
    of 500 to 2,500 Hz (its median); ``level`` is the mean of all bands, ``bright`` that of the highest.
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
    begin, end = grid.bar_lines.at(grid.beat_at([0.0, onsets.duration_s]))
    first, last = int(np.ceil(begin - 0.02)), int(np.floor(end + 0.02))
    bars = np.arange(first, last)
    edges = grid.time_at(grid.bar_lines.beat_of(np.arange(first, last + 1)))
    frame_edges = np.clip(np.rint(edges * harmony.rate).astype(int), 0, len(harmony.level))
    level = harmony.level.astype(np.float64)
    quiet = np.full((1, level.shape[1]), level.min(initial=-9.0))
    lasting, middle, loud, mean, chroma = [], [], [], [], []
    for a, b in pairwise(frame_edges):
        rows = level[a:b] if b > a else quiet
        lasting.append(np.percentile(rows, 25, axis=0))
        middle.append(float(np.median(rows[:, 2])))
        loud.append(float(np.percentile(rows[:, 0], 90)))
        mean.append(rows.mean(axis=0))
        chroma.append(harmony.chroma[a:b].mean(axis=0) if b > a else np.zeros(12))
    steady, average = np.array(lasting).reshape(-1, level.shape[1]), np.array(mean).reshape(-1, level.shape[1])
    return BarFeatures(
        first=first,
        kick=_risen(_hits(onsets.bands[0], onsets.rate, grid, bars, 1), np.array(loud)),
        drums=_hits(onsets.bands[LOW_BANDS.stop + 1 :].sum(axis=0), onsets.rate, grid, bars, 4),
        bass=steady[:, 0],
        body=np.array(middle),
        level=average.mean(axis=1),
        bright=average[:, 3:].mean(axis=1),
        chroma=np.array(chroma).reshape(-1, 12),
    )


def _hits(strength: NDArray[np.float32], rate: float, grid: Grid, bars: NDArray[np.int64], per_beat: int) -> Array:
    """Mean strength near the given subdivisions of each bar, above what lies between them."""
    steps = grid.beats_per_bar * per_beat
    places = grid.bar_lines.beat_of(bars[:, None] + np.arange(steps) / steps)
    at = np.rint(grid.time_at(places) * rate).astype(int)
    reach = int(NEAR_S * rate)
    around = np.clip(at[..., None] + np.arange(-reach, reach + 1), 0, len(strength) - 1)
    return np.asarray(strength[around].max(axis=2).astype(np.float64).mean(axis=1))


def _risen(rise: Array, loud: Array) -> Array:
    """The amplitude by which the bass rises, from the rise of its logarithm and log10 of the power that it reaches.

    A logarithm rises by far more from silence than over a bass that goes on: the same bass drum would count three
    times as much alone as under everything else.
    """
    return np.asarray(-np.expm1(-rise) * 10.0 ** (0.5 * loud))


def find_sections(features: BarFeatures, grid: Grid) -> tuple[Section, ...]:
    """Sections of whole bars over the whole track."""
    if features.bars < 2 * SHORTEST_BARS:
        return ()
    borders = _borders(features, _what_sounds(features))
    borders = _with_rises(features, borders, _what_sounds(_levelled(features, borders)))
    has = _what_sounds(_levelled(features, borders))
    kinds = [_kind(features, has, a, b) for a, b in pairwise(borders)]
    borders, kinds = _joined(borders, kinds)
    beats = grid.bar_lines.beat_of(features.first + np.array(borders)).tolist()
    return tuple(Section(kind=kind, start=a, end=b) for kind, a, b in zip(kinds, beats[:-1], beats[1:], strict=True))


def _levelled(features: BarFeatures, borders: list[int]) -> BarFeatures:
    """Features with each bar as its section is on the whole: a lead that comes and goes makes no section another."""
    level = {name: getattr(features, name).copy() for name in ("kick", "drums", "bass", "body")}
    for a, b in pairwise(borders):
        for values in level.values():
            values[a:b] = values[a:b].mean()
    return replace(features, **level)


@dataclass(frozen=True)
class _Sounding:
    kick: NDArray[np.bool_]
    drums: NDArray[np.bool_]
    bass: NDArray[np.bool_]
    body: NDArray[np.bool_]


def _what_sounds(features: BarFeatures) -> _Sounding:
    """What sounds in each bar, each told apart only among bars that are alike in what is louder: the bass among bars
    with the same drums, what is pitched above it among those with the same bass."""
    kick = features.kick > KICK * np.percentile(features.kick, 90)
    drums = features.drums > DRUMS * np.percentile(features.drums, 90)
    bass = np.zeros_like(kick)
    for some in (kick, ~kick):
        bass[some] = _upper_of_two(features.bass[some], BASS_APART)
    alone = kick & ~bass
    apart = BODY_APART
    if alone.any() and (kick & bass).any():
        above = float(np.median(features.body[kick & bass]) - np.median(features.body[alone]))
        apart = max(apart, OF_THE_WAY * above)
    body = features.body > _lowest(features.body, kick & bass, apart)
    if (kick & bass).any():
        body[alone] &= features.body[alone] > np.median(features.body[kick & bass & body]) - BODY_APART
    body[~kick] = features.body[~kick] > np.percentile(features.body, 90) - FAR_BELOW
    return _Sounding(kick=kick, drums=drums, bass=bass, body=body)


def _lowest(values: Array, some: NDArray[np.bool_], apart: float) -> float:
    """Above what a value belongs to the upper group among some; where those are one group, not far below them all."""
    if not some.any():
        return float(values.max(initial=0.0))
    upper = values[some][_upper_of_two(values[some], apart)]
    lower = values[some][values[some] < upper.min()]
    return float(upper.min() + (lower.max() if len(lower) else upper.min() - 2.0 * apart)) / 2.0


def _upper_of_two(values: Array, apart: float) -> NDArray[np.bool_]:
    """Which values belong to the upper of two groups (N. Otsu, IEEE Trans. SMC 9, 1979); all, where there is one group.

    Two groups are at least ``apart``, and wider apart than the values within each are spread.
    """
    if np.ptp(values) < apart if len(values) else True:
        return np.ones(len(values), dtype=bool)
    order = np.sort(values)
    n = len(order)
    sums = np.cumsum(order)
    k = np.arange(1, n)
    below, above = sums[:-1] / k, (sums[-1] - sums[:-1]) / (n - k)
    best = int(np.argmax(k * (n - k) * (above - below) ** 2))
    gap = float(above[best] - below[best])
    border = (above[best] + below[best]) / 2.0
    upper = np.asarray(values > border)
    spread = np.sqrt((values[upper].var() * upper.sum() + values[~upper].var() * (~upper).sum()) / n)
    if gap < max(apart, APART_SPREADS * spread):
        return np.ones(n, dtype=bool)
    return upper


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
    return _divided(features, [*sorted(borders), n])


def _divided(features: BarFeatures, borders: list[int]) -> list[int]:
    """Borders, and those between them at which one thing comes or goes while all else goes on: against the whole track
    that is little, against the bars around it much."""
    told = np.stack((features.bass, features.body, features.level), axis=1)
    found = [0]
    for a, b in pairwise(borders):
        begin = a
        while (at := _step(told[begin:b])) is not None:
            begin += at
            found.append(begin)
        found.append(b)
    return sorted(set(found))


def _step(rows: Array) -> int | None:
    """The row from which one of the features is plainly another, None where none is."""
    best, at = 1.0, None
    for row in range(PHRASE, len(rows) - PHRASE + 1, PHRASE):
        before, after = rows[max(0, row - 2 * PHRASE) : row], rows[row : row + 2 * PHRASE]
        apart = np.abs(after.mean(axis=0) - before.mean(axis=0))
        spread = np.sqrt((before.var(axis=0) + after.var(axis=0)) / 2.0)
        clear = float((apart / np.maximum(STEP, STEP_SPREADS * spread)).max())
        if clear > best:
            best, at = clear, row
    return at


def _beaten(change: Array, bar: int) -> float:
    """The largest change nearby, which a border must reach."""
    return float(change[max(0, bar - SHORTEST_BARS) : bar + SHORTEST_BARS + 1].max())


def _with_rises(features: BarFeatures, borders: list[int], has: _Sounding) -> list[int]:
    """Borders, and one where a rise begins before the bass drum comes back."""
    found, begin = list(borders), None
    for a, b in pairwise(borders):
        if not has.kick[a]:
            begin = a if begin is None else begin
            if b < features.bars and has.kick[b]:
                length = _rise_before(features, begin, b)
                found = [x for x in found if not b - length < x < b] + [b - length]
        else:
            begin = None
    return sorted(set(found))


def _rise_before(features: BarFeatures, begin: int, end: int) -> int:
    """How many bars before ``end`` belong to a rise that begins after ``begin``; 0 where there is none.

    All of it has denser drums than what goes before, and it grows.
    """
    for length in RISES:
        start = end - length
        if start < begin or not _grows(features, start, end):
            continue
        if start == begin:
            return length
        before = features.drums[begin:start].mean()
        if features.drums[start:end].mean() > DENSER * before:
            return length
    return 0


def _joined(borders: list[int], kinds: list[SectionKind]) -> tuple[list[int], list[SectionKind]]:
    """Sections without the borders between two of one kind, but where each is a whole phrase of eight bars."""
    starts, kept, last = [borders[0]], [kinds[0]], kinds[0]
    for a, b, kind in zip(borders[1:], borders[2:], kinds[1:], strict=False):
        if kind is last and ((a - starts[-1]) % LONG_PHRASE or b - a < LONG_PHRASE):
            continue
        starts.append(a)
        kept.append(kind)
        last = kind
    return [*starts, borders[-1]], kept


def _grows(features: BarFeatures, a: int, b: int) -> bool:
    """Whether a section becomes brighter, and its drums denser or louder."""
    half = max(1, (b - a) // 2)
    early, late = slice(a, a + half), slice(b - half, b)
    brighter = float(features.bright[late].mean() - features.bright[early].mean())
    return brighter > BRIGHTER and bool(features.drums[late].mean() > DENSER * features.drums[early].mean())


def _kind(features: BarFeatures, has: _Sounding, a: int, b: int) -> SectionKind:
    """What is heard in most bars of a section."""
    kick, drums, bass, body = (float(x[a:b].mean()) > 0.5 for x in (has.kick, has.drums, has.bass, has.body))
    if kick:
        if body:
            return SectionKind.FULL
        return SectionKind.BASS if bass else SectionKind.BEAT
    if drums and b - a <= 2 * RISES[0] and _grows(features, a, b):
        return SectionKind.RISE
    if drums and not (bass or body):
        return SectionKind.BEAT
    if a > 0 and b < features.bars:
        return SectionKind.BREAK
    at_edge = float(features.drums[a:b].mean()) > EDGE_DRUMS * float(np.percentile(features.drums, 90))
    return SectionKind.BREAK if at_edge else SectionKind.BEATLESS
