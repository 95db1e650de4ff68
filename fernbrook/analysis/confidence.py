"""What is doubtful about an analysis, in plain words: the 'look at this' list."""

from __future__ import annotations

import numpy as np

from fernbrook.analysis.beat.grid_search import Found, Kind
from fernbrook.analysis.beat.metre import Metre
from fernbrook.analysis.tone.key import KeyFound
from fernbrook.core.track import Doubt, DoubtKind, Grid

SURE_BEAT, SURE_BAR = 0.6, 0.5
"""From this probability on, which pulse is the beat, and which beat is the first, is taken as sure. Probabilities in
earnest: of a hundred pieces held back for which 0.8 is said, some eighty are right (``bench/fitting.py``)."""
SAME_PLACE = 0.1
"""Readings whose beats lie nearer to each other, in beats, are one: the grid is moved onto the onsets afterwards."""
WANDER_MS = 14.0
LATE_MS = 12.0
GAP_S = 20.0
SURE_KEY = 0.5
"""Of two hundred tracks composed for it four of ten wrong keys are said with less, and one right one in ten."""


def doubts(found: Found | None, clarity: float, key: KeyFound | None, duration_s: float) -> tuple[Doubt, ...]:
    """All that the user should look at, what matters most first."""
    if found is None:
        text = "No beat is clear enough for a grid." if clarity < 0.05 else "The beat is too faint for a grid."
        return (Doubt(kind=DoubtKind.NO_BEAT, text=f"{text} Tap along, or set the tempo by hand."),)
    listed = [*_tempo(found), *_bar(found), *_fit(found), *_gaps(found, duration_s)]
    if key is not None and key.confidence < SURE_KEY:
        listed.append(
            Doubt(
                kind=DoubtKind.KEY, text=f"The key may be {key.key.name} or {key.second.name}: both fit about equally."
            )
        )
    return tuple(listed)


def runner_up(found: Found) -> tuple[float, float] | None:
    """The likeliest other tempo in BPM, and how probable it is against the first one (0..1)."""
    shares = _by_tempo(found.readings)
    first = shares.pop(found.readings[0].bpm)
    if not shares:
        return None
    bpm = max(shares, key=lambda b: shares[b])
    return bpm, shares[bpm] / max(first + shares[bpm], 1e-9)


def _by_tempo(readings: tuple[Metre, ...]) -> dict[float, float]:
    """How probable each tempo is, wherever its beat falls."""
    shares: dict[float, float] = {}
    for reading in readings:
        shares[reading.bpm] = shares.get(reading.bpm, 0.0) + reading.share
    return shares


def _tempo(found: Found) -> list[Doubt]:
    best = found.readings[0]
    others = [r for r in found.readings[1:] if not _is_same(r, best)]
    if 1.0 - sum(r.share for r in others) >= SURE_BEAT or not others:
        return []
    shares = _by_tempo(tuple(others))
    rival_bpm = max(shares, key=lambda bpm: shares[bpm])
    if rival_bpm != best.bpm:
        text = f"Two tempi fit nearly as well: {best.bpm:.4g} and {rival_bpm:.4g} BPM."
        return [Doubt(kind=DoubtKind.OCTAVE, text=text, bpm=rival_bpm)]
    rival = next(r for r in others if r.bpm == best.bpm)
    apart = abs(_places_apart(rival, best))
    part = "half a beat" if apart > 0.4 else "a third of a beat" if apart > 0.29 else "a quarter of a beat"
    return [Doubt(kind=DoubtKind.PHASE, text=f"The beat may fall {part} off: what sounds there fits nearly as well.")]


def _is_same(reading: Metre, best: Metre) -> bool:
    return reading.bpm == best.bpm and abs(_places_apart(reading, best)) < SAME_PLACE


def _places_apart(reading: Metre, best: Metre) -> float:
    """How far two readings of one tempo are apart, in beats, from -1/2 to 1/2."""
    beats = (reading.phase - best.phase) * best.beats_per_pulse
    return beats - round(beats)


def _bar(found: Found) -> list[Doubt]:
    if not found.bar.clear:
        other = "four" if found.bar.beats == 3 else "three"
        return [Doubt(kind=DoubtKind.BAR, text=f"Bars may have {other} beats: both repeat nearly as well.")]
    odd = [_odd(found.grid, at) for at in found.bar.starts_again]
    if found.bar.share >= SURE_BAR:
        return odd
    return [Doubt(kind=DoubtKind.BAR, text="Which beat is the first of the bar is not clear."), *odd]


def _odd(grid: Grid, at: int) -> Doubt:
    """An odd bar is said, so that somebody hears whether it is one."""
    bar = int(grid.bar_lines.bar_of(at - 0.5))
    beats = grid.bar_lines.length_at(at - 0.5)
    text = f"Bar {bar + 1} seems to have {beats:g} beats instead of {grid.beats_per_bar}."
    return Doubt(kind=DoubtKind.BAR, text=text, at_s=float(grid.time_at(at - beats)))


def _fit(found: Found) -> list[Doubt]:
    listed = []
    if found.kind is not Kind.CONSTANT:
        changes = found.kind is Kind.STRETCHES or found.grid.means_its_changes
        low, high = found.grid.extremes
        text = f"The tempo {'changes' if changes else 'wanders'} between {low:.1f} and {high:.1f} BPM."
        listed.append(Doubt(kind=DoubtKind.UNSTEADY, text=text))
    heard = found.drift.heard
    late = found.drift.late_s[heard] * 1000.0
    if not len(late):
        return listed
    spread = float(np.percentile(np.abs(late), 90))
    if spread > WANDER_MS:
        listed.append(Doubt(kind=DoubtKind.DRIFT, text=f"Onsets lie up to {spread:.0f} ms off the grid."))
    elif found.kind is Kind.CONSTANT and len(late) > 32:
        quarter = len(late) // 4
        lean = float(np.median(late[-quarter:]) - np.median(late[:quarter]))
        if abs(lean) > LATE_MS:
            text = f"The end lies {abs(lean):.0f} ms {'after' if lean > 0 else 'before'} the grid, set by the start."
            listed.append(Doubt(kind=DoubtKind.DRIFT, text=text))
    return listed


def _gaps(found: Found, duration_s: float) -> list[Doubt]:
    """Long stretches in which no beat is heard."""
    times = found.grid.time_at(found.drift.beats[found.drift.heard])
    edges = np.concatenate(([0.0], times, [duration_s]))
    gaps = np.diff(edges)
    if not len(gaps) or gaps.max() < GAP_S:
        return []
    worst = int(np.argmax(gaps))
    begin, end = float(edges[worst]), float(edges[worst + 1])
    if begin == 0.0:
        text = f"Almost no beat in the first {end:.0f} s."
    elif end == duration_s:
        text = f"Almost no beat in the last {end - begin:.0f} s."
    else:
        text = f"Almost no beat from {_clock(begin)} to {_clock(end)}."
    return [Doubt(kind=DoubtKind.GAP, text=text, at_s=begin)]


def _clock(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"
