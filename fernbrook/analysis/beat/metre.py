"""Which pulse is the beat: its octave, and where in the pulse it falls.

Every candidate (each octave, third and three-halves of the pulse, at each quarter and third of the beat) lays the
track out in twelfths of a beat; what is heard there is compared with what beats do: bass drums fall on beats, snares
between them, bars repeat, chords change on beats. A small network weighs it all (``network.py``), so that the shares
are probabilities (a conditional choice, D. McFadden, 1974). ``bench/fitting.py`` trains it on pieces composed for it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from fernbrook.analysis.beat.listener import FRAMES_PER_S, Heard
from fernbrook.analysis.beat.network import network, probabilities
from fernbrook.analysis.beat.onsets import Bands, Onsets
from fernbrook.analysis.tone.harmony import Harmony, novelty
from fernbrook.core.track import Grid

CENTRE_BPM = 122.0
STEPS = 12
"""Steps a beat: sixteenths are three of them, triplets four. Two bars of four, 96 steps, are looked at together."""
RATIOS = (0.25, 1 / 3, 0.5, 2 / 3, 0.75, 1.0, 4 / 3, 1.5, 2.0, 3.0, 4.0)
"""Beats a pulse may be."""
PLACES = (0, 3, 4, 6, 8, 9)
"""Where in the beat the pulse may fall, in steps."""
ROWS = 15
"""What is folded: six bands evened, the change of harmony, six bands plain, bass drums and snares."""
NEAR_S = 0.009
CHORD_S = 0.5
CONTRAST = 0.8
"""A drum pattern counts for half when its contrast is this."""
USUALLY_FASTER = 0.3
"""What sounds between sixteenths, as a share of what sounds on them, where they are the fastest. Where there are none,
as much sounds between them as on them."""
HALF_TIME = 0.15
"""What a pattern with one snare a bar loses against the others."""

LISTENED = (
    "heard as a whole",
    "heard on the beat",
    "heard on halves",
    "heard on thirds",
    "heard on every other beat",
    "heard as first beats",
)
"""What is asked of the trained listener."""
LEAST, ELSEWHERE = 0.02, 0.6
"""The least probability that its word is taken for, and how much a frame without a beat counts."""

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


def readings(
    onsets: Onsets, harmony: Harmony, pulse: Grid, tempo_range: tuple[float, float], heard: Heard | None = None
) -> list[Metre]:
    """All readings of a pulse, the most probable first; a tempo out of the range is none, unless all are.

    Parameters
    ----------
    pulse : a grid whose beats are some pulse of the music
    tempo_range : the slowest and the fastest tempo to be considered, in BPM
    """
    ways, evidence = hypotheses(onsets, harmony, pulse, tempo_range, heard)
    share = probabilities(network("metre").scores(evidence))
    mean = pulse.mean_bpm(0.0, max(onsets.duration_s, 1.0))
    return [
        Metre(ways[i][0], ways[i][1], mean * ways[i][0], float(share[i])) for i in np.argsort(-share, kind="stable")
    ]


def hypotheses(
    onsets: Onsets,
    harmony: Harmony,
    pulse: Grid,
    tempo_range: tuple[float, float],
    listened: Heard | None = None,
) -> tuple[list[tuple[float, float]], Array]:
    """All ways to count a pulse, and what speaks for each.

    Returns
    -------
    beats a pulse and the phase of the beat in pulses, for each way; the evidence, shape (ways, len(EVIDENCE))
    """
    mean = pulse.mean_bpm(0.0, max(onsets.duration_s, 1.0))
    ratios = [r for r in RATIOS if tempo_range[0] - 0.5 <= mean * r <= tempo_range[1] + 0.5]
    if not ratios:
        middle = np.sqrt(tempo_range[0] * tempo_range[1])
        ratios = [float(2.0 ** np.round(np.log2(middle / mean)))]
    change = novelty(harmony.chroma, max(1, round(CHORD_S * harmony.rate)))
    heard = _heard(onsets, harmony, change)
    ways: list[tuple[float, float]] = []
    rows: list[list[float]] = []
    for ratio in ratios:
        steps = _folded(heard, onsets.rate, pulse, ratio)
        short = _chords_are_short(change, harmony.rate, pulse, ratio)
        for place in PLACES:
            evidence = _evidence(np.roll(steps, -place, axis=1), mean * ratio)
            evidence["chords last two bars at most"] = short
            evidence |= _listened(listened, pulse.counted(ratio, place / STEPS / ratio), onsets.duration_s)
            rows.append([evidence[name] for name in EVIDENCE])
            ways.append((ratio, place / STEPS / ratio))
    return ways, np.array(rows)


def _heard(onsets: Onsets, harmony: Harmony, change: Array) -> Bands:
    """What is folded, each with mean 1; shape (ROWS, frames).

    Evened strengths, change of harmony, plain strengths, and two things that begin in several bands at once: bass
    drums, which bass notes are not, and snares.
    """
    wide = 2 * int(NEAR_S * onsets.rate) + 1
    even = onsets.evened
    frames = np.arange(even.shape[1]) / onsets.rate * harmony.rate
    chords = np.interp(frames, np.arange(len(change)), change) if len(change) else np.zeros(len(frames))
    drums = np.stack((np.sqrt(even[0] * even[3]), np.sqrt(onsets.bands[1] * onsets.bands[4])))
    rows = np.concatenate((even, chords[None, :].astype(np.float32), onsets.bands, drums))
    level = np.maximum(rows.mean(axis=1, keepdims=True), 1e-9)
    rows[:6] = maximum_filter1d(even, wide, axis=1)
    rows[7:13] = maximum_filter1d(onsets.bands, wide, axis=1)
    rows[13:] = maximum_filter1d(drums, wide, axis=1)
    rows /= level
    return rows


def _folded(heard: Bands, rate: float, pulse: Grid, ratio: float) -> Array:
    """Means over all pairs of bars at each step; shape (ROWS, 96). Step 0 is pulse 0."""
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
    """What speaks for a reading; shape of ``steps`` (ROWS, 96)."""
    by_beat = steps.reshape(ROWS, 8, STEPS)
    groups = {
        "low": by_beat[0],
        "body": by_beat[1],
        "middle": (by_beat[2] + by_beat[3]) / 2.0,
        "high": (by_beat[4] + by_beat[5]) / 2.0,
        "all": by_beat[:6].mean(axis=0),
        "loud low": by_beat[7],
        "loud middle": (by_beat[9] + by_beat[10]) / 2.0,
        "bass drum": by_beat[13],
        "snare": by_beat[14],
    }
    octaves = float(np.log2(bpm / CENTRE_BPM))
    evidence = {"usual tempo": -0.5 * octaves**2, "fast": octaves}
    for name, beats in groups.items():
        step = beats.mean(axis=0)
        half, sixteenth = float(step[6]), float(step[3] + step[9]) / 2.0
        first, last = float(step[4]), float(step[8])
        on = float(step[0])
        evidence |= {
            f"{name} on the beat": _more(on, max(half, last)),
            f"{name} rather than halves": _more(on, half),
            f"{name} rather than thirds": _more(on, (first + last) / 2.0),
            f"{name} rather than sixteenths": _more(on, sixteenth),
            f"{name} halves over sixteenths": _more(half, sixteenth),
            f"{name} last third over first": _more(last, first),
        }
        evidence[f"{name} on every other beat"] = abs(_leans(beats))
    every = groups["all"].mean(axis=0)
    straight, thirds, rest = every[[0, 3, 6, 9]].mean(), every[[0, 4, 8]].mean(), every[[1, 2, 5, 7, 10, 11]].mean()
    triplets = thirds > straight
    evidence["low and middle take turns"] = max(0.0, -_leans(groups["low"]) * _leans(groups["middle"]))
    evidence["bass drum and snare take turns"] = max(0.0, -_leans(groups["bass drum"]) * _leans(groups["snare"]))
    evidence["all within the beat's parts"] = _more(float(max(straight, thirds)), float(rest))
    evidence["counted in thirds"] = float(triplets)
    # A bar of sixteen that a drum pattern can be laid on: a swung eighth counts as an eighth.
    swung = by_beat[:, :, [0, 4, 8, 8]] * np.array([1.0, 0.5, 1.0, 0.0]) if triplets else by_beat[:, :, [0, 3, 6, 9]]
    bars = swung[:13].reshape(13, 2, 16)
    bar = bars.mean(axis=1)
    contrast = np.abs(bar[:4] - bar[:4].mean(axis=1, keepdims=True)).mean(axis=1) + 0.1
    half_bars = bar[:4].reshape(4, 2, 8)
    beats = bar[:4].reshape(4, 4, 4)
    evidence |= {
        "drum pattern": float(drum_patterns(bar).max()),
        "chords change on the beat": min(1.0, float(bar[6][0::4].max() - bar[6].mean())),
        "bars repeat": -float((np.abs(bars[:4, 0] - bars[:4, 1]).mean(axis=1) / contrast).mean()),
        "half bars repeat": -float((np.abs(half_bars[:, 0] - half_bars[:, 1]).mean(axis=1) / contrast).mean()),
        "beats repeat": -float((np.abs(beats - beats.mean(axis=1, keepdims=True)).mean(axis=(1, 2)) / contrast).mean()),
        "between the parts": -float(
            np.clip(rest / max(float(max(straight, thirds)), 1e-9) - USUALLY_FASTER, 0.0, 1.0 - USUALLY_FASTER)
        ),
        "parts a beat": -float(every.sum() ** 2 / max(float((every**2).sum()), 1e-9)) / STEPS,
    }
    return evidence


def _listened(heard: Heard | None, beats: Grid, duration_s: float) -> dict[str, float]:
    """What a trained listener says of a reading; not a number where there is none.

    How it judges the whole is the mean log likelihood of its probabilities, a beat within a frame where the reading has
    one, none elsewhere.
    """
    if heard is None or not len(heard.beat):
        return dict.fromkeys(LISTENED, np.nan)
    first, last = (float(b) for b in beats.beat_at([0.0, duration_s]))
    numbers = np.arange(np.ceil(first), np.floor(last))
    if len(numbers) < 4:
        return dict.fromkeys(LISTENED, np.nan)
    on, one = heard.near(beats.time_at(numbers))
    between, _ = heard.near(beats.time_at(numbers + 0.5))
    thirds, _ = heard.near(beats.time_at(numbers[:, None] + np.array([1.0, 2.0]) / 3.0))
    every = np.clip(heard.any_beat, LEAST, 1.0 - LEAST)
    free = np.ones(len(every), dtype=bool)
    at = np.clip(np.rint(beats.time_at(numbers) * FRAMES_PER_S).astype(int), 0, len(every) - 1)
    free[np.clip(at[:, None] + np.arange(-1, 2), 0, len(every) - 1)] = False
    likelihood = float(np.log(np.clip(on, LEAST, 1.0)).sum()) + ELSEWHERE * float(np.log1p(-every[free]).sum())
    return dict(
        zip(
            LISTENED,
            (
                likelihood / len(every),
                float(on.mean()),
                float(between.mean()),
                float(thirds.mean()),
                abs(float(on[0::2].mean()) - float(on[1::2].mean())),
                float(one.mean()),
            ),
            strict=True,
        )
    )


def _leans(beats: Array) -> float:
    """How much more there is on even beats than on odd ones, from -1 to 1; shape of ``beats`` (8, STEPS)."""
    return _more(float(beats[0::2, 0].mean()), float(beats[1::2, 0].mean()))


def _more(a: float, b: float) -> float:
    """How much stronger one is than another, from -1 to 1."""
    return (a - b) / max(a + b, 1e-9)


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


EVIDENCE: tuple[str, ...] = (
    *_evidence(np.ones((ROWS, 8 * STEPS)), CENTRE_BPM),
    "chords last two bars at most",
    *LISTENED,
)
"""The names of all evidence, in order."""
