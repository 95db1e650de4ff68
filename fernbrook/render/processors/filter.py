"""The swept filter of a part: a low-pass on one side of its middle, a high-pass on the other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fernbrook.audio.effects import swept
from fernbrook.core.mix.curves import MIDDLE, Control, Processor, high_pass_hz, low_pass_hz, turned_share
from fernbrook.core.plan import RATE
from fernbrook.render.blocks import BLOCK
from fernbrook.render.control_rate import straight
from fernbrook.render.processors.insert import Sound, Turned


class Filter:
    """Sweeps the whole of the sound."""

    kind = Processor.FILTER
    context = 0
    warm_up = BLOCK

    def process(self, signal: Sound, turned: Sequence[Turned]) -> Sound:
        """As ``Insert.process``."""
        out = signal
        for t in turned:
            at, resonance = t.positions(Control.FILTER), t.automation.effects.resonance
            share = turned_share(at, MIDDLE)
            if at.min() < MIDDLE:
                low = straight(np.where(at < MIDDLE, share, 0.0))
                out = swept(out, straight(low_pass_hz(at)), low, resonance, False, RATE)
            if at.max() > MIDDLE:
                high = straight(np.where(at > MIDDLE, share, 0.0))
                out = swept(out, straight(high_pass_hz(at)), high, resonance, True, RATE)
        return out[self.warm_up :]
