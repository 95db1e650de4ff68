"""How unevenly a track divides its beats in two: straight eighths are 1 : 1, a shuffle 2 : 1, dotted ones 3 : 1."""

from __future__ import annotations

import numpy as np

from fernbrook.analysis.beat.drift import BINS, laid_out, whole_beats
from fernbrook.analysis.beat.onsets import Bands
from fernbrook.core.track import Grid

EARLIEST, LATEST = 0.44, 0.78
"""Where in the beat its second half may begin."""
HEARD = 0.12
"""What begins there, against the beat itself, from which there is a second half at all."""
ALONE = 1.6
"""By how much it must exceed what begins elsewhere within that span; sixteenths have as much at three quarters."""
_WIDE = 3


def swing_ratio(bands: Bands, rate: float, grid: Grid) -> float | None:
    """The first half of a beat against its second, over the whole track; None where no second half is clear.

    A shuffle's second note comes two thirds into the beat: (2 / 3) / (1 / 3) = 2.

    Parameters
    ----------
    bands : evened strengths, shape (bands, frames)
    """
    first, count = whole_beats(grid, bands.shape[1] / rate)
    if count < 2 * grid.beats_per_bar:
        return None
    folded = laid_out(bands, rate, grid, first, count).mean(axis=(0, 1))
    folded = np.roll(folded, -BINS // 2)
    smooth = np.convolve(np.concatenate((folded[-_WIDE:], folded, folded[:_WIDE])), np.ones(_WIDE) / _WIDE, "same")
    smooth = smooth[_WIDE:-_WIDE] - smooth.min()
    begin, end = round(EARLIEST * BINS), round(LATEST * BINS)
    span = smooth[begin:end]
    top = int(np.argmax(span))
    away = np.abs(np.arange(len(span)) - top) > BINS // 16
    if span[top] < HEARD * smooth.max() or span[top] < ALONE * span[away].max(initial=0.0):
        return None
    around = np.arange(max(0, top - _WIDE), min(len(span), top + _WIDE + 1))
    place = (begin + float((around * span[around]).sum() / span[around].sum())) / BINS
    return place / (1.0 - place)
