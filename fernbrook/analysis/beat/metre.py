"""Which pulse is the beat: its octave, and where in the pulse it falls.

Every candidate lays the track out in bars of sixteen steps; what is heard there is compared with what beats of dance
and rock music do: bass drums fall on beats, snares between them, bars repeat, chords change on beats. The weights were
fitted by maximum likelihood (a conditional logit, D. McFadden, 1974) on generated tracks and tried on recorded ones;
that of the chords' length was set by hand afterwards.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from fernbrook.analysis.beat.onsets import Bands, Onsets
from fernbrook.analysis.tone.harmony import Harmony, novelty
from fernbrook.core.track.grid import Grid

CENTRE_BPM = 122.0
STEPS = 8
"""Steps a beat; a bar of four has 32, and two bars are looked at together."""
NEAR_S = 0.009
CHORD_S = 0.5
WEIGHTS = {
    "usual tempo": 0.95,
    "low on the beat": 0.5,
    "body on the beat": 1.05,
    "middle on the beat": 0.45,
    "high on the beat": 0.8,
    "low not on sixteenths": 1.35,
    "all not on sixteenths": 1.0,
    "eighths over sixteenths": 1.15,
    "drum pattern": 1.75,
    "chords change on the beat": 1.5,
    "chords last two bars at most": 1.25,
    "bars repeat": 1.25,
    "nothing faster than sixteenths": 2.9,
}
CONTRAST = 0.8
"""A drum pattern counts for half when its contrast is this."""
USUALLY_FASTER = 0.3
"""What sounds between sixteenths, as a share of what sounds on them, where they are the fastest. Where there are none,
as much sounds between them as on them."""
HALF_TIME = 0.15
"""What a pattern with one snare a bar loses against the others."""

Array = NDArray[np.float64]


def _pattern(kicks: tuple[int, ...], snares: tuple[int, ...]) -> Array:
    """Standardised sixteenths of a bar, kicks and snares; shape (2, 16)."""
    marks = np.zeros((2, 16))
    marks[0, list(kicks)] = 1.0
    marks[1, list(snares)] = 1.0
    return _standard(marks)


def _standard(rows: Array) -> Array:
    """Rows with mean 0 and deviation 1."""
    middle = rows - rows.mean(axis=-1, keepdims=True)
    return np.asarray(middle / np.maximum(rows.std(axis=-1, keepdims=True), 1e-9))


BACKBEAT = (4, 12)
PATTERNS = np.stack(
    [
        _pattern(kicks, snares)
        for kicks, snares in (
            ((0, 4, 8, 12), BACKBEAT),
            ((0, 8), BACKBEAT),
            ((0, 8, 10), BACKBEAT),
            ((0, 10), BACKBEAT),
            ((0, 7, 10), BACKBEAT),
            ((0, 3, 6, 11), BACKBEAT),
            ((0, 4, 8, 12), (2, 6, 10, 14)),
            ((0,), (8,)),
            ((0, 6, 10), (8,)),
        )
    ]
)
HALF_TIMES = np.array([0.0] * 7 + [HALF_TIME] * 2)


@dataclass(frozen=True)
class Metre:
    """A reading of a pulse: how many beats each is, from where in it on, and how probable that is among all."""

    beats_per_pulse: float
    phase: float
    bpm: float
    share: float


def readings(onsets: Onsets, harmony: Harmony, pulse: Grid, tempo_range: tuple[float, float]) -> list[Metre]:
    """All readings of a pulse; a tempo out of the range is none, unless all are.

    The most probable tempo comes first, wherever its beat falls, and within it the most probable place of the beat.

    Parameters
    ----------
    pulse : a grid whose beats are some pulse of the music
    tempo_range : the slowest and the fastest tempo to be considered, in BPM
    """
    mean = pulse.mean_bpm(0.0, max(onsets.duration_s, 1.0))
    ratios = [r for r in (0.25, 0.5, 1.0, 2.0, 4.0) if tempo_range[0] - 0.5 <= mean * r <= tempo_range[1] + 0.5]
    if not ratios:
        middle = np.sqrt(tempo_range[0] * tempo_range[1])
        ratios = [float(2.0 ** np.round(np.log2(middle / mean)))]
    change = novelty(harmony.chroma, max(1, round(CHORD_S * harmony.rate)))
    heard = _heard(onsets, harmony, change)
    found: list[tuple[float, float, float]] = []
    for ratio in ratios:
        steps = _folded(heard, onsets.rate, pulse, ratio)
        short = _chords_are_short(change, harmony.rate, pulse, ratio)
        for quarter in range(4):
            evidence = _evidence(np.roll(steps, -quarter * STEPS // 4, axis=1), mean * ratio)
            evidence["chords last two bars at most"] = short
            found.append((sum(WEIGHTS[k] * v for k, v in evidence.items()), ratio, quarter / 4 / ratio))
    score = np.array([f[0] for f in found])
    share = np.exp(score - score.max())
    share /= share.sum()
    ratio_of = np.array([f[1] for f in found])
    whole = np.array([share[ratio_of == r].sum() for r in ratio_of])
    order = np.lexsort((-share, -whole))
    return [Metre(found[i][1], found[i][2], mean * found[i][1], float(share[i])) for i in order]


def _heard(onsets: Onsets, harmony: Harmony, change: Array) -> Bands:
    """What is folded: evened strengths, change of harmony, plain strengths, each with mean 1; shape (13, frames)."""
    wide = 2 * int(NEAR_S * onsets.rate) + 1
    even = onsets.evened
    frames = np.arange(even.shape[1]) / onsets.rate * harmony.rate
    chords = np.interp(frames, np.arange(len(change)), change) if len(change) else np.zeros(len(frames))
    rows = np.concatenate((even, chords[None, :].astype(np.float32), onsets.bands))
    level = np.maximum(rows.mean(axis=1, keepdims=True), 1e-9)
    rows[:6] = maximum_filter1d(even, wide, axis=1)
    rows[7:] = maximum_filter1d(onsets.bands, wide, axis=1)
    rows /= level
    return rows


def _folded(heard: Bands, rate: float, pulse: Grid, ratio: float) -> Array:
    """Means over all pairs of bars at each step; shape (13, 64). Step 0 is pulse 0."""
    begin, end = pulse.beat_at([0.0, heard.shape[1] / rate])
    steps = np.arange(int(np.ceil(begin * ratio * STEPS)), int(end * ratio * STEPS))
    at = np.clip(np.rint(pulse.time_at(steps / STEPS / ratio) * rate).astype(int), 0, heard.shape[1] - 1)
    place = steps % (8 * STEPS)
    count = np.maximum(np.bincount(place, minlength=8 * STEPS), 1)
    return np.stack([np.bincount(place, row[at], 8 * STEPS) / count for row in heard])


def _chords_are_short(change: Array, rate: float, pulse: Grid, ratio: float) -> float:
    """0 where the harmony comes around within two bars as much as within four, less the more four are needed."""
    begin, end = (float(b) * ratio for b in pulse.beat_at([0.0, len(change) / rate]))
    beats = np.arange(int(np.ceil(begin)), int(end))
    if len(beats) <= 32:
        return 0.0
    at = np.rint(pulse.time_at(beats / ratio) * rate).astype(int)
    around = change[np.clip(at[:, None] + np.arange(-2, 3), 0, len(change) - 1)].max(axis=1)
    rest = around - around.mean()
    one, two, four = (float(rest[:-lag] @ rest[lag:]) for lag in (4, 8, 16))
    return -max(0.0, four - max(one, two)) / max(float(rest @ rest), 1e-12)


def _evidence(steps: Array, bpm: float) -> dict[str, float]:
    """What speaks for a reading; see ``WEIGHTS``."""
    sixteenths = steps[:, ::2]
    first, second = sixteenths[:, :16], sixteenths[:, 16:]
    bar = (first + second) / 2.0
    low, body, middle, high = bar[0], bar[1], (bar[2] + bar[3]) / 2.0, (bar[4] + bar[5]) / 2.0
    every = bar[:6].mean(axis=0)
    contrast = np.abs(bar[:4] - bar[:4].mean(axis=1, keepdims=True)).mean(axis=1) + 0.1
    faster = steps[:6, 1::2].mean() / max(float(sixteenths[:6, 1::2].mean()), 1e-9) - USUALLY_FASTER
    return {
        "usual tempo": -0.5 * float(np.log2(bpm / CENTRE_BPM)) ** 2,
        "low on the beat": _over(low[0::4], low[2::4]),
        "body on the beat": _over(body[0::4], body[2::4]),
        "middle on the beat": _over(middle[0::4], middle[2::4]),
        "high on the beat": _over(high[0::4], high[2::4]),
        "low not on sixteenths": _over(low[0::4], low[1::2]),
        "all not on sixteenths": _over(every[0::4], every[1::2]),
        "eighths over sixteenths": _over(every[2::4], every[1::2]),
        "drum pattern": float(drum_patterns(bar).max()),
        "chords change on the beat": min(1.0, float(bar[6][0::4].max() - bar[6].mean())),
        "bars repeat": -float((np.abs(first[:4] - second[:4]).mean(axis=1) / contrast).mean()),
        "nothing faster than sixteenths": -float(np.clip(faster, 0.0, 1.0 - USUALLY_FASTER)),
    }


def drum_patterns(bar: Array) -> Array:
    """How well the best known drum pattern fits when each beat of the bar is the first; shape (4,).

    Parameters
    ----------
    bar : evened strengths of six bands, change of harmony, plain strengths of six bands; shape (13, 16)
    """
    kick = 0.75 * bar[0] + 0.25 * bar[1]
    plain = bar[7:]
    snare = plain[2] + plain[3]
    weight = [float(x.std() / max(x.mean(), 1e-9)) for x in (kick, snare)]
    trust = np.array([weight[0] / (weight[0] + CONTRAST), weight[1] / (weight[1] + CONTRAST / 2)])
    heard = _standard(np.stack((kick, snare - 0.5 * (plain[0] + plain[1])))) * trust[:, None]
    fits = [np.einsum("ij,pij->p", np.roll(heard, -4 * c, axis=1), PATTERNS) / 16.0 - HALF_TIMES for c in range(4)]
    return np.asarray(fits).max(axis=1)


def _over(some: Array, others: Array) -> float:
    """How much stronger some are than others, from -1 to 1."""
    a, b = float(some.mean()), float(others.mean())
    return (a - b) / max(a + b, 1e-9)
