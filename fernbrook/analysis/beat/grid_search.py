"""From onsets and harmony to the grid of a track: the simplest that explains what is heard.

One constant tempo is tried first, refined on the whole track. Only where following the player explains clearly more are
few constant stretches tried, and only where these do not do, an anchor wherever the player turns.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.beat import fit
from fernbrook.analysis.beat.bar import Bar, find_bar
from fernbrook.analysis.beat.drift import BINS, Drift, drift, laid_out, whole_beats
from fernbrook.analysis.beat.follow import SPAN, WIDE, follow
from fernbrook.analysis.beat.listener import Heard
from fernbrook.analysis.beat.metre import Metre, readings
from fernbrook.analysis.beat.octaves import in_one_octave
from fernbrook.analysis.beat.onsets import LOW_BANDS, Bands, Onsets
from fernbrook.analysis.beat.ramps import with_ramps
from fernbrook.analysis.beat.swing import swing_ratio
from fernbrook.analysis.beat.tempo import coherence, preferring_whole, refined, rough_tempi
from fernbrook.analysis.tone.harmony import Harmony
from fernbrook.core.track import Grid, bars_from

SHORTEST_S = 6.0
FEWEST_BEATS = 8
FEWEST_FRAMES = 64
"""Onsets must fill so many frames, some eight of each hit."""
UNCLEAR, UNCLEAR_BUT_STEADY = 0.12, 0.05
"""Below this clarity there is no beat that a grid could follow; less will do where the pulse is coherent."""
COHERENT = 0.8
LONG_S = 60.0
"""In less sound than this some pulse fits by chance: the more clarity is needed, and coherence says nothing."""
FOLLOWED_GAIN, FOLLOWED_GAIN_IF_COHERENT = 0.04, 0.15
"""How much more of the onsets a followed pulse must explain than a steady one, over the whole track, the more where the
steady one is coherent, because following a noisy track explains noise;"""
STRETCH_GAIN = 0.2
"""or over at least this many seconds in a row:"""
STRETCH_S = 12.0
LEFT_OUT = 0.5
"""What is hardly explained, as a share of what is usual in the track."""
ROUGH = 4
"""Rough tempi that are tried as steady."""
BESIDE = 0.0015
"""How far from the pulse's tempo that of the beat may be, as a share, once it is known which is the beat."""
ON_PULSE_S = 0.020
DEFAULT_RANGE = (60.0, 200.0)

Array = NDArray[np.float64]


class Kind(StrEnum):
    """What kind of grid explains a track."""

    CONSTANT = "constant"
    STRETCHES = "stretches"
    FREE = "free"


@dataclass(frozen=True)
class Found:
    """A grid, and how it was come by.

    ``clarity`` is the share of the onsets that the grid explains, beyond chance; ``readings`` are all ways to count it,
    the most probable first; ``drift`` is what is left between the onsets and the grid; ``swing`` is the first half of
    a beat against its second, where a second half is heard.
    """

    grid: Grid
    kind: Kind
    clarity: float
    readings: tuple[Metre, ...]
    bar: Bar
    drift: Drift
    swing: float | None = None


def find_grid(
    onsets: Onsets,
    harmony: Harmony,
    tempo_range: tuple[float, float] = DEFAULT_RANGE,
    heard: Heard | None = None,
) -> tuple[Found | None, float]:
    """Find the grid of a track, or None where hardly any beat is heard; and the clarity of what there is.

    Parameters
    ----------
    tempo_range : the slowest and the fastest tempo that the beat may have, in BPM
    heard : what a trained listener makes of it, where that is known
    """
    bands = onsets.evened
    strength = np.sqrt(bands).mean(axis=0, dtype=np.float64)
    if onsets.duration_s < SHORTEST_S or _busy_frames(strength) < FEWEST_FRAMES:
        return None, 0.0
    pulse, kind, steadiness = find_pulse(bands, strength, onsets.rate)
    clarity = float(np.clip(_explained(strength, onsets.rate, pulse).mean(), 0.0, 1.0))
    if clarity < _least_clarity(onsets.duration_s, steadiness):
        return None, clarity
    ways = tuple(readings(onsets, harmony, pulse, tempo_range, heard))
    beats = pulse.counted(ways[0].beats_per_pulse, ways[0].phase)
    if kind is not Kind.CONSTANT:
        beats, kind = _simplest(bands, strength, onsets.rate, beats)
    else:
        bpm = refined(strength, onsets.rate, beats.bpm_after, BESIDE)
        bpm = preferring_whole(strength, onsets.rate, bpm)
        middle = onsets.duration_s / 2
        near = middle - (float(beats.beat_at(middle)) % 1.0) * 60.0 / beats.bpm_after
        beats = _phased(bands, onsets.rate, bpm, near)
    grid, bar = _barred(onsets, harmony, bands, beats, heard)
    left = drift(bands, onsets.rate, grid)
    if left.heard.sum() < FEWEST_BEATS:
        return None, clarity
    swing = swing_ratio(bands, onsets.rate, grid)
    return Found(grid, kind, clarity, ways, bar, left, swing), clarity


def _least_clarity(duration_s: float, steadiness: float) -> float:
    """The clarity that a pulse must have to be one; what fits by chance shrinks with the root of the length."""
    if duration_s < LONG_S:
        return UNCLEAR * float(np.sqrt(LONG_S / duration_s))
    return UNCLEAR if steadiness < COHERENT else UNCLEAR_BUT_STEADY


def _busy_frames(strength: Array) -> float:
    """In how many frames something begins: the participation ratio of the strengths, squared so that noise is none."""
    power = strength**4
    return float(power.sum()) ** 2 / max(float((power**2).sum()), 1e-12)


def find_pulse(bands: Bands, strength: Array, rate: float) -> tuple[Grid, Kind, float]:
    """A pulse of the music, steady where that explains it as well as a followed one; and how coherent it is.

    Which of the rough tempi is right shows only when it is refined: then one of them explains most.
    """
    rough = rough_tempi(strength, rate, ROUGH)
    steadies = [_phased(bands, rate, refined(strength, rate, bpm)) for bpm in rough]
    shares = [_explained(strength, rate, steady) for steady in steadies]
    first = max(range(len(rough)), key=lambda i: float(shares[i].mean()))
    steady, explained = steadies[first], shares[first]
    steadiness = coherence(strength, rate, steady.bpm_after)
    needed = FOLLOWED_GAIN_IF_COHERENT if steadiness > COHERENT else FOLLOWED_GAIN
    followed = _followed(bands, strength, rate, rough[first])
    if not _explains_more(followed, explained, strength, rate, needed):
        # It may go to a tempo that is too far away to be followed from here without being asked.
        followed = _followed(bands, strength, rate, rough[first], WIDE) if _leaves_out(explained) else None
        if not _explains_more(followed, explained, strength, rate, needed):
            return steady, Kind.CONSTANT, steadiness
    others = [_followed(bands, strength, rate, bpm) for i, bpm in enumerate(rough) if i != first]
    best = max((followed, *others), key=lambda g: float(_explained(strength, rate, g).mean()) if g else 0.0)
    if not _explains_more(best, explained, strength, rate, needed):
        return steady, Kind.CONSTANT, steadiness
    return best or steady, Kind.FREE, 1.0


def _leaves_out(explained: Array) -> bool:
    """Whether a lasting part of the onsets is hardly explained."""
    hardly = explained < LEFT_OUT * float(np.median(explained))
    lasting = np.convolve(hardly, np.ones(round(STRETCH_S)), mode="valid")
    return bool(len(lasting) and lasting.max() >= 0.9 * STRETCH_S)


def _followed(bands: Bands, strength: Array, rate: float, rough: float, span: float = SPAN) -> Grid | None:
    """A pulse near a rough tempo, followed from beat to beat."""
    times = follow(strength, rate, rough, span)
    if len(times) < 16:
        return None
    return _smoothed(bands, rate, Grid.through(_evened_out(times), np.arange(len(times))))


def _explains_more(followed: Grid | None, steady: Array, strength: Array, rate: float, needed: float) -> bool:
    """Whether a followed pulse explains clearly more of the onsets than a steady one, somewhere or everywhere."""
    if followed is None:
        return False
    gain = _explained(strength, rate, followed) - steady
    lasting = np.convolve(gain > STRETCH_GAIN, np.ones(round(STRETCH_S)), mode="valid")
    return bool(gain.mean() > needed or (len(lasting) and lasting.max() >= 0.9 * STRETCH_S))


def _phased(bands: Bands, rate: float, bpm: float, near_s: float | None = None) -> Grid:
    """A steady grid whose beat 0 lies where the onsets, folded at the beat, begin most strongly.

    With ``near_s`` the place is only made more precise.
    """
    period = 60.0 / bpm
    bins = round(period * rate)
    place = (np.arange(bands.shape[1]) / rate / period) % 1.0 * bins
    base = np.floor(place).astype(int)
    part = place - base
    strength = bands.sum(axis=0) + bands[LOW_BANDS].sum(axis=0)
    folded = np.bincount(base % bins, strength * (1.0 - part), bins)
    folded += np.bincount((base + 1) % bins, strength * part, bins)
    smooth = np.convolve(np.concatenate((folded[-3:], folded, folded[:3])), [0.25, 0.5, 0.25], mode="same")[3:-3]
    if near_s is None:
        best = int(np.argmax(smooth))
    else:
        around = round(near_s / period * bins) + np.arange(-bins // 12, bins // 12 + 1)
        best = int(around[np.argmax(smooth[around % bins])]) % bins
    left, middle, right = smooth[best - 1], smooth[best], smooth[(best + 1) % bins]
    bend = left - 2.0 * middle + right
    shift = 0.5 * (left - right) / bend if bend < 0 else 0.0
    return Grid.constant(bpm, float((best + np.clip(shift, -0.5, 0.5)) / bins * period))


def _explained(strength: Array, rate: float, pulse: Grid) -> Array:
    """For each second, the share of the onsets near a sixteenth or near a third of the pulse, beyond chance.

    Of the two, what explains more of the whole track. Seconds without onsets count little: the shares are weighted so
    that their mean is that of the track.
    """
    parts = [_on_parts(strength, rate, pulse, n) for n in (4, 3)]
    return max(parts, key=lambda share: float(share.mean()))


def _on_parts(strength: Array, rate: float, pulse: Grid, parts: int) -> Array:
    """The share of the onsets within 20 ms of the equal parts of a pulse."""
    times = np.arange(len(strength)) / rate
    places = pulse.beat_at(times) * parts
    off_s = (places - np.rint(places)) / parts * 60.0 / pulse.bpm_at(places / parts)
    near = np.abs(off_s) < ON_PULSE_S
    seconds = (times + 0.5).astype(int)
    total = np.bincount(seconds, strength)
    hit = np.bincount(seconds, strength * near)
    chance = np.bincount(seconds, near.astype(np.float64)) / np.maximum(np.bincount(seconds), 1)
    share = (hit / np.maximum(total, 1e-9) - chance) / np.maximum(1.0 - chance, 0.1)
    return np.asarray(share * total / max(float(total.mean()), 1e-9))


def _evened_out(times: Array, reach: int = 6) -> Array:
    """Beat times smoothed by a line through each and its neighbours, closer ones counting more."""
    return _local_lines(times, np.ones(len(times)), reach)


def _local_lines(times: Array, weight: Array, reach: int) -> Array:
    """The value, at each beat, of the weighted line through the beats around it (W. Cleveland, JASA 74, 1979)."""
    bell = np.hanning(2 * reach + 3)[1:-1]
    x = np.arange(len(times), dtype=np.float64)
    steady = np.polynomial.polynomial.polyfit(x, times, 1)
    rest = times - np.polynomial.polynomial.polyval(x, steady)
    offsets = np.arange(-reach, reach + 1, dtype=np.float64)

    def summed(values: Array, power: int) -> Array:
        return np.convolve(values, (bell * offsets**power)[::-1], mode="same")

    w, wx, wxx = (summed(weight, p) for p in range(3))
    wy, wxy = summed(weight * rest, 0), summed(weight * rest, 1)
    spread = w * wxx - wx**2
    fitted = np.where(spread > 1e-6, (wxx * wy - wx * wxy) / np.maximum(spread, 1e-6), rest)
    return np.asarray(fitted + np.polynomial.polynomial.polyval(x, steady))


def _smoothed(bands: Bands, rate: float, grid: Grid, rounds: int = 2, reach: int = 3) -> Grid:
    """A followed grid moved onto the onsets: measured, and smoothed over a few beats, clear beats counting most."""
    for _ in range(rounds):
        measured = drift(bands, rate, grid, around=2)
        times = grid.time_at(measured.beats) + np.where(measured.heard, measured.late_s, 0.0)
        smooth = _local_lines(times, np.where(measured.heard, measured.clear, 0.02), reach)
        rising = np.concatenate(([True], np.diff(smooth) > 0.05))
        if len(smooth) < 16 or not rising.all():
            return grid
        grid = Grid.through(smooth, measured.beats)
    return grid


def _simplest(bands: Bands, strength: Array, rate: float, beats: Grid) -> tuple[Grid, Kind]:
    """Few constant stretches through a followed grid where they do, else the grid with the anchors it needs; with a
    ramp between two of its steady runs where that fits."""
    followed = _smoothed(bands, rate, beats, reach=2)
    places, times, weight = _measured(bands, rate, followed)
    one = in_one_octave(followed, fit.runs(places, times, weight))
    if one is not followed:
        followed = _smoothed(bands, rate, one, reach=2)
        places, times, weight = _measured(bands, rate, followed)
    steady = fit.runs(places, times, weight)
    few = fit.stretches(places, times, weight)
    if few is not None:
        left = drift(bands, rate, few, around=4)
        shift = float(np.median(left.late_s[left.heard])) if left.heard.any() else 0.0
        if few.is_constant:
            return few.slid(shift), Kind.CONSTANT
        return with_ramps(few.slid(shift), steady, strength, rate), Kind.STRETCHES
    return with_ramps(fit.free(places, followed.time_at(places)), steady, strength, rate), Kind.FREE


def _measured(bands: Bands, rate: float, followed: Grid) -> tuple[Array, Array, Array]:
    """The beats of a followed grid, when they are heard, and how much each counts."""
    measured = drift(bands, rate, followed, around=2)
    places = measured.beats.astype(np.float64)
    times = followed.time_at(places) + np.where(measured.heard, measured.late_s, 0.0)
    return places, times, np.where(measured.heard, measured.clear**2, 1e-6)


def _barred(onsets: Onsets, harmony: Harmony, bands: Bands, beats: Grid, heard: Heard | None) -> tuple[Grid, Bar]:
    """The grid counted in bars, beat 0 the first downbeat from which a beat is heard."""
    first, count = whole_beats(beats, onsets.duration_s)
    bar = find_bar(onsets, harmony, beats, first, count - 1, heard)
    # The bars up to where they start again tell which is the first that is heard.
    bars = (min([first + count, *bar.starts_again]) - bar.first) // bar.beats
    downbeat = bar.first + bar.beats * _first_bar_heard(bands, onsets.rate, beats, bar, bars)
    grid = beats.counted(1.0, float(downbeat))
    grid = grid.model_copy(update={"beats_per_bar": bar.beats})
    for at in bar.starts_again:
        grid = bars_from(grid, float(at - downbeat), bar.beats)
    return grid, replace(bar, first=0, starts_again=tuple(at - downbeat for at in bar.starts_again))


def _first_bar_heard(bands: Bands, rate: float, grid: Grid, bar: Bar, bars: int) -> int:
    """The first bar that sounds like the bars of the track, and most of the next three with it.

    Bars before it whose onsets lie on the grid belong to it, when they are two or more: one may be a pick-up.
    """
    if bars < 4:
        return 0
    rows = laid_out(bands, rate, grid, bar.first, bars * bar.beats)
    rows = rows.reshape(len(rows), bars, -1).transpose(1, 0, 2).reshape(bars, -1)
    usual = rows.mean(axis=0) - rows.mean()
    likeness = (rows @ usual) / np.maximum(np.linalg.norm(rows, axis=1) * np.linalg.norm(usual), 1e-9)
    likeness[rows.mean(axis=1) < 0.2 * rows.mean()] = 0.0
    heard = likeness > 0.4 * float(np.median(likeness))
    steady = np.convolve(heard, np.ones(4), mode="full")[3:]
    begins = np.flatnonzero(heard & (steady >= 3))
    begin = int(begins[0]) if len(begins) else 0
    share = _on_grid_by_bar(bands, rate, grid, bar, bars)
    earlier = begin
    while earlier > 0 and share[earlier - 1] > 0.5 * float(np.median(share)):
        earlier -= 1
    return earlier if begin - earlier >= 2 else begin


def _on_grid_by_bar(bands: Bands, rate: float, grid: Grid, bar: Bar, bars: int) -> Array:
    """For each bar the share of its onsets near a sixteenth, beyond chance."""
    rows = laid_out(bands, rate, grid, bar.first, bars * bar.beats).sum(axis=0)
    place = np.arange(BINS) % (BINS // 4)
    near = np.minimum(place, BINS // 4 - place) <= BINS // 24
    chance = float(near.mean())
    total = rows.reshape(bars, -1).sum(axis=1)
    hit = rows[:, near].reshape(bars, -1).sum(axis=1)
    return np.asarray((hit / np.maximum(total, 1e-9) - chance) / (1.0 - chance))
