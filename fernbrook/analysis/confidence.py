"""What is doubtful about an analysis, in plain words: the 'look at this' list."""

from __future__ import annotations

import numpy as np

from fernbrook.analysis.beat.grid_search import Found, Kind
from fernbrook.analysis.tone.key import KeyFound
from fernbrook.core.track.facts import Doubt, DoubtKind

CLOSE_RATIO = 0.5
"""A reading of the tempo is doubtful whose runner-up has more than this share of its probability."""
SURE_BAR = 0.6
WANDER_MS = 6.0
LATE_MS = 8.0
GAP_S = 20.0
SURE_KEY = 0.4


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
    best = found.readings[0]
    shares: dict[float, float] = {}
    for reading in found.readings:
        shares[reading.bpm] = shares.get(reading.bpm, 0.0) + reading.share
    first = shares.pop(best.bpm)
    if not shares:
        return None
    bpm = max(shares, key=lambda b: shares[b])
    return bpm, shares[bpm] / max(first + shares[bpm], 1e-9)


def _tempo(found: Found) -> list[Doubt]:
    other = runner_up(found)
    best = found.readings[0]
    if other is not None and other[1] > CLOSE_RATIO / (1.0 + CLOSE_RATIO):
        text = f"Two tempi fit about equally: {best.bpm:.4g} and {other[0]:.4g} BPM."
        return [Doubt(kind=DoubtKind.OCTAVE, text=text, bpm=other[0])]
    rival = next((r for r in found.readings[1:] if r.bpm == best.bpm), None)
    if rival is not None and rival.share > CLOSE_RATIO * best.share:
        return [
            Doubt(kind=DoubtKind.PHASE, text="The beat may fall half a beat off: what sounds between fits as well.")
        ]
    return []


def _bar(found: Found) -> list[Doubt]:
    if found.bar.share >= SURE_BAR:
        return []
    return [Doubt(kind=DoubtKind.BAR, text="Which beat is the first of the bar is not clear.")]


def _fit(found: Found) -> list[Doubt]:
    listed = []
    if found.kind is not Kind.CONSTANT:
        what = "changes" if found.kind is Kind.STRETCHES else "wanders"
        tempi = found.grid.stretch_tempi
        text = f"The tempo {what} between {min(tempi):.1f} and {max(tempi):.1f} BPM."
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
