"""How many dB the limiter will take, all along a mix: known before a sample of it is rendered.

Made from the true peaks of the tracks in each 100 ms, as loud as they play, and from what the curves leave of them.
Where two tracks sound at once, their peaks are taken to meet, which is the most that can come of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.sources import PEAK
from fernbrook.core.mix.curves import Control, Processor, controls_of
from fernbrook.core.mix.entries import CEILING_DBTP
from fernbrook.core.plan import RATE, Automation, MixWarning, Part, Plan, limiter_warnings, source_at
from fernbrook.core.remembered import remembered
from fernbrook.kept import KeptValues
from fernbrook.store.folders import Folders

STEP_S = 0.1
BUCKET = 4096
KEPT = 1200
"""Two files of each track of the longest mixes."""

Floats = NDArray[np.float64]
NOTHING: Floats = np.zeros(0)


@dataclass(frozen=True)
class Limiting:
    """The reduction in dB in each 100 ms of a mix, and where it is too much."""

    db: Floats
    warnings: tuple[MixWarning, ...]

    def by_columns(self, columns: int) -> Floats:
        """The largest reduction in each of so many columns of equal time."""
        if not len(self.db):
            return np.zeros(columns)
        edges = np.linspace(0, len(self.db), columns + 1).astype(int)
        return np.array([self.db[a : max(b, a + 1)].max(initial=0.0) for a, b in pairwise(edges)])


class Limits:
    """Foresees the limiter's work from what the analysis kept of the tracks."""

    def __init__(self, folders: Folders) -> None:
        self._folders = folders
        self._kept: KeptValues[Path, Floats] = KeptValues(KEPT)

    def foresee(self, plan: Plan, hashes: dict[str, str]) -> Limiting:
        """What the limiter will take in a plan; ``hashes`` are the contents of its tracks, by id."""
        steps = int(np.ceil(plan.duration_s / STEP_S))
        peaks = np.zeros(steps)
        for part in plan.parts:
            first, level = _peaks_of(part, *self._kept_of(hashes.get(part.source)))
            peaks[first : first + len(level)] += level[: max(steps - first, 0)]
        db = np.maximum(0.0, 20.0 * np.log10(np.maximum(peaks, 1e-9)) - CEILING_DBTP)
        return Limiting(db, tuple(limiter_warnings(plan, db, STEP_S)))

    def _kept_of(self, content: str | None) -> tuple[Floats, Floats]:
        """The true peaks of a track, shape (n,), and the heights of its bands, shape (n, 3)."""
        if content is None:
            return NOTHING, NOTHING
        peaks = self._read(self._folders.true_peaks_file(content), "<f2", 1)
        return peaks, self._read(self._folders.peaks_file(content, BUCKET), "u1", 3)

    def _read(self, file: Path, kind: str, columns: int) -> Floats:
        """A file of numbers; shape (n, columns), or (n,) of one column. Empty where an older analysis wrote none."""

        def read() -> Floats:
            numbers = np.frombuffer(file.read_bytes(), kind).astype(np.float64)
            return numbers.reshape(-1, columns) if columns > 1 else numbers

        try:
            return self._kept.value(file, read)
        except (OSError, ValueError):  # not made yet, or damaged
            return NOTHING


@remembered
def _peaks_of(part: Part, true_peaks: Floats, heights: Floats) -> tuple[int, Floats]:
    """The peaks of a part as it plays in the mix, from a step on; ``heights`` are those of its bands, shape (n, 3)."""
    first = max(int(part.start_s / STEP_S), 0)
    last = int(np.ceil(part.end_s / STEP_S))
    gain = 10.0 ** (part.gain_db / 20.0)
    if part.made is not None:
        return first, np.full(max(last - first, 0), PEAK * gain)
    if not len(true_peaks) or last <= first:
        return first, np.zeros(0)
    edges = np.clip(np.arange(first, last + 1) * STEP_S, part.start_s, part.end_s)
    source = source_at(part.segments, edges)
    begin = np.clip(np.floor(source[:-1] / STEP_S).astype(int), 0, len(true_peaks) - 1)
    stop = np.clip(np.ceil(source[1:] / STEP_S).astype(int), begin + 1, len(true_peaks))
    peaks = np.array([true_peaks[a:b].max() for a, b in zip(begin, stop, strict=True)])
    peaks[source[1:] <= 0.0] = 0.0
    beats = part.tempo.beat_at((edges[:-1] + edges[1:]) / 2.0)
    bands = _bands(heights, source)
    for automation in part.automations:
        peaks *= _turned(automation, beats, bands)
    return first, peaks * gain


def _bands(heights: Floats, source: Floats) -> Floats:
    """How much of the peaks each band has, low to high; shape (steps, 3)."""
    if not len(heights):
        return np.full((len(source) - 1, 3), 1.0 / 3.0)
    at = np.clip((source[:-1] * RATE / BUCKET).astype(int), 0, len(heights) - 1)
    return np.asarray(heights[at] / np.maximum(heights[at].sum(axis=1, keepdims=True), 1.0))


def _turned(automation: Automation, beats: Floats, bands: Floats) -> Floats:
    """What an automation's curves leave of the peaks at beats of the mix."""
    places = np.clip(automation.places(beats), 0.0, 1.0)
    faders = (*controls_of(Processor.LEVEL), *controls_of(Processor.EQUALISER))
    gains = {c: automation.gains(c, places) for c in faders}
    left = np.ones(len(places))
    for control in controls_of(Processor.LEVEL):
        left *= gains[control]
    turned = np.stack([gains[c] for c in (Control.LOW, Control.MID, Control.HIGH)], axis=1)
    return np.asarray(left * (bands * turned).sum(axis=1))
