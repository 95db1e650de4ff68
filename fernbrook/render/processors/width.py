"""The stereo width of a part: below a frequency it is mono, above it as wide as it was."""

from __future__ import annotations

from collections.abc import Sequence

from fernbrook.audio.effects import swept
from fernbrook.core.mix.curves import Control, Processor, edge_hz, turned_share
from fernbrook.core.plan import RATE
from fernbrook.render.blocks import BLOCK
from fernbrook.render.control_rate import straight
from fernbrook.render.processors.insert import Sound, Turned


class Width:
    """Takes what differs between left and right through a high-pass.

    What both sides share is left alone, so that a mono sum of the part is the same however it is turned.
    """

    kind = Processor.WIDTH
    context = 0
    warm_up = BLOCK

    def process(self, signal: Sound, turned: Sequence[Turned]) -> Sound:
        """As ``Insert.process``."""
        out = signal[self.warm_up :].copy()
        side = 0.5 * (signal[:, :1] - signal[:, 1:])
        for t in turned:
            at = t.positions(Control.WIDTH)
            narrow = swept(side, straight(edge_hz(at)), straight(turned_share(at, 0.0)), 0.0, True, RATE)
            gone = (side - narrow)[self.warm_up :, 0]
            out[:, 0] -= gone
            out[:, 1] += gone
            side = narrow
        return out
