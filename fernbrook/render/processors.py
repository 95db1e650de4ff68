"""What turns the controls of a part into sound, block by block, and how far around a sample each of them hears."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.eq import equalise
from fernbrook.audio.sweep import swept
from fernbrook.audio.zero_phase import CONTEXT
from fernbrook.core.mix.curves import MIDDLE, Control, Processor, controls_of, filtered_share, high_pass_hz, low_pass_hz
from fernbrook.core.mix.model import Crossovers
from fernbrook.core.plan import RATE, Automation
from fernbrook.render.blocks import BLOCK

AROUND = CONTEXT
"""Samples that a channel plays before and after a span, so that the equaliser hears as far as it needs."""
WARM_UP = BLOCK
"""Samples before a block through which the filter runs first: what was before them is below 1e-7 by then."""


@dataclass(frozen=True)
class Turned:
    """An automation over a span of samples: the places in it at which they lie, shape (n,)."""

    automation: Automation
    places: NDArray[np.float64]

    def moves(self, *controls: Control) -> bool:
        """Whether one of the controls has something to do in it."""
        return any(self.automation.moves(c) for c in controls)


def equalised(around: NDArray[np.float64], turned: Sequence[Turned], crossovers: Crossovers) -> NDArray[np.float64]:
    """A span of sound with its bands turned.

    Parameters
    ----------
    around : shape (n + 2 * AROUND, 2), the span and its surroundings
    turned : the automations that reach into the span

    Returns
    -------
    shape (n, 2); the very samples of the span where no band is moved
    """
    bands = controls_of(Processor.EQUALISER)
    moved = [t for t in turned if t.moves(*bands)]
    if not moved:
        return around[AROUND:-AROUND]
    gains = {control: np.ones(len(around) - 2 * AROUND) for control in bands}
    for t in moved:
        for control in bands:
            gains[control] *= t.automation.gains(control, t.places)
    low, mid, high = (gains[c] for c in (Control.LOW, Control.MID, Control.HIGH))
    return equalise(around, low, mid, high, (crossovers.low_hz, crossovers.high_hz), RATE)


def filtered(signal: NDArray[np.float64], turned: Sequence[Turned]) -> NDArray[np.float64]:
    """A span of sound swept by the filters of its automations.

    Parameters
    ----------
    signal : shape (WARM_UP + n, 2), the span and what was before it
    turned : automations with their places over all of the signal

    Returns
    -------
    shape (n, 2); the very samples of the span where the filter is neutral
    """
    out = signal
    for t in turned:
        if not t.moves(Control.FILTER):
            continue
        at = t.automation.positions(Control.FILTER, t.places)
        share, resonance = filtered_share(at), t.automation.effects.resonance
        if at.min() < MIDDLE:
            out = swept(out, low_pass_hz(at), np.where(at < MIDDLE, share, 0.0), resonance, False, RATE)
        if at.max() > MIDDLE:
            out = swept(out, high_pass_hz(at), np.where(at > MIDDLE, share, 0.0), resonance, True, RATE)
    return out[WARM_UP:]


def levelled(level: NDArray[np.float64], turned: Sequence[Turned]) -> None:
    """Turn the level of each sample of a span, in place, by the faders of its automations; shape (n,)."""
    for t in turned:
        for control in controls_of(Processor.LEVEL):
            level *= t.automation.gains(control, t.places)
