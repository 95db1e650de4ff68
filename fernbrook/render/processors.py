"""What turns the controls of a part into sound, and how far around a sample each of them hears."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.eq import equalise
from fernbrook.audio.zero_phase import CONTEXT
from fernbrook.core.mix.control import Control, Processor, controls_of
from fernbrook.core.plan.part import Automation
from fernbrook.core.plan.plan import RATE


@dataclass(frozen=True)
class Reach:
    """Samples on both sides of a sample that decide what comes of it, and for how many it rings on afterwards."""

    context: int
    tail: int


REACH = {Processor.LEVEL: Reach(context=0, tail=0), Processor.EQUALISER: Reach(context=CONTEXT, tail=0)}
AROUND = max(reach.context for reach in REACH.values())
"""Samples that a channel plays before and after a span, so that every processor hears as far as it needs."""


def equalised(
    around: NDArray[np.float64], automations: Sequence[Automation], beats: NDArray[np.float64]
) -> NDArray[np.float64]:
    """A span of sound with its bands turned.

    Parameters
    ----------
    around : shape (n + 2 * AROUND, 2), the span and its surroundings
    automations : those that reach into the span
    beats : the mix's beat at each sample of the span, shape (n,)

    Returns
    -------
    shape (n, 2); the very samples of the span where no band is moved
    """
    bands = controls_of(Processor.EQUALISER)
    moved = [a for a in automations if any(c in a.curves.moving for c in bands)]
    if not moved:
        return around[AROUND:-AROUND]
    gains = {control: np.ones(len(beats)) for control in bands}
    for automation in moved:
        places = automation.places(beats)
        for control in bands:
            gains[control] *= automation.curves.curve(control).gain_at(places)
    spare = AROUND - CONTEXT
    heard = around[spare : len(around) - spare]
    return equalise(heard, gains[Control.LOW], gains[Control.MID], gains[Control.HIGH], RATE)


def levelled(level: NDArray[np.float64], automation: Automation, places: NDArray[np.float64] | float) -> None:
    """Turn the level of each sample, in place, by the faders of an automation; shape (n,)."""
    for control in controls_of(Processor.LEVEL):
        level *= automation.curves.curve(control).gain_at(places)
