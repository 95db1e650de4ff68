"""Low, mid and high: the bands of a part, turned."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fernbrook.audio.effects import CONTEXT, equalise
from fernbrook.core.mix.curves import Control, Processor
from fernbrook.core.mix.model import Crossovers
from fernbrook.core.plan import RATE
from fernbrook.render.processors.insert import Sound, Turned

BANDS = (Control.LOW, Control.MID, Control.HIGH)


class Equaliser:
    """Turns three bands. It hears on both sides of a span, for it shifts nothing in time."""

    kind = Processor.EQUALISER
    context = CONTEXT
    warm_up = 0

    def __init__(self, crossovers: Crossovers) -> None:
        self._edges_hz = (crossovers.low_hz, crossovers.high_hz)

    def process(self, signal: Sound, turned: Sequence[Turned]) -> Sound:
        """As ``Insert.process``."""
        gains = np.ones((len(BANDS), len(signal) - 2 * CONTEXT))
        for t in turned:
            for band, control in enumerate(BANDS):
                gains[band] *= t.gains(control)
        low, mid, high = gains
        return equalise(signal, low, mid, high, self._edges_hz, RATE)
