"""A source with its stems turned: the track, less what is turned down of each.

What is read is the track itself, from which the parts of its stems that are not heard are taken away. So a track with
all stems on is the track to the bit, and what is stretched is what is heard.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.sources import Readable
from fernbrook.core.mix.curves import Control
from fernbrook.core.plan import Part, TimeMap
from fernbrook.core.track import KEPT, STEMS, Stem

STEP = 32
"""Levels are looked up at every so many samples of the source, and lie on a line between."""
EDGE_S = 0.004

Sound = NDArray[np.float32]
Floats = NDArray[np.float64]


class StemMix:
    """Reads a source as a segment of a part hears it."""

    def __init__(self, source: Readable, stems: Mapping[Stem, Readable], part: Part, time_map: TimeMap) -> None:
        self._source = source
        self._stems = stems
        self._part = part
        self._map = time_map
        self.rate = source.rate

    def read(self, start: int, frames: int) -> Sound:
        """Samples from ``start`` on; shape (frames, 2)."""
        sound = self._source.read(start, frames)
        levels = self._levels(start, frames)
        if not levels:
            return sound
        music = levels.get(Stem.MUSIC)
        heard = sound.astype(np.float64)
        if music is not None:
            heard *= music[:, None]
        full = np.ones(frames)
        for stem in KEPT:
            own = levels.get(stem)
            if own is None and music is None:
                continue
            # Of what is not music, the music's level has been taken already.
            share = (full if own is None else own) - (full if music is None else music)
            heard += share[:, None] * self._stems[stem].read(start, frames)
        return heard.astype(np.float32)

    def _levels(self, start: int, frames: int) -> dict[Stem, Floats]:
        """The gain of each sample for the stems that are turned somewhere in a span; each of shape (frames,)."""
        first, last = start // STEP, -(-(start + frames) // STEP)
        knots = np.arange(first, last + 1) * STEP
        times = self._map.mix_at(knots / self.rate)
        at = np.arange(start, start + frames)
        found = {}
        for stem in STEMS:
            level = stem_level(self._part, stem, times)
            if not np.all(level == 1.0):
                found[stem] = np.interp(at, knots, level)
        return found


def stem_level(part: Part, stem: Stem, times: Floats) -> Floats:
    """The gain of a stem of a part at moments of the mix, which rise; same shape."""
    level = np.ones(len(times))
    control = Control(stem.value)
    for automation in part.automations:
        if automation.moves(control):
            places = np.clip(automation.places(part.tempo.beat_at(times)), 0.0, 1.0)
            level *= automation.gains(control, places)
    for one in part.dropped_stems:
        if stem in one.stems:
            outside = np.maximum(one.start_s - times, times - one.end_s + EDGE_S)
            level *= np.clip(outside / EDGE_S, 0.0, 1.0)
    return level
