"""What an insert is: it turns the sound of a part by some of its controls, in the row with others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.mix.curves import Control, Processor
from fernbrook.core.plan import Automation
from fernbrook.core.tempo_map import TempoMap
from fernbrook.render.beats import beats_at_steps
from fernbrook.render.control_rate import straight

Sound = NDArray[np.float64]


@dataclass(frozen=True)
class Turned:
    """An automation over a span of n samples: the places in it at which its steps and its end lie, shape
    (n / STEP + 1,)."""

    automation: Automation
    places: NDArray[np.float64]

    @classmethod
    def over(cls, automation: Automation, tempo: TempoMap, start: int, end: int) -> Turned:
        """An automation over the samples from one up to another."""
        return cls(automation, automation.places(beats_at_steps(tempo, start, end)))

    def positions(self, control: Control) -> NDArray[np.float64]:
        """Where a control stands at the steps; shape (n / STEP + 1,)."""
        return self.automation.positions(control, self.places)

    def gains(self, control: Control) -> NDArray[np.float64]:
        """The linear gain of a fader at each sample; shape (n,)."""
        return straight(self.automation.gains(control, self.places))

    def moves(self, *controls: Control) -> bool:
        """Whether one of the controls has something to do in it."""
        return any(self.automation.moves(c) for c in controls)


class Insert(Protocol):
    """One kind of processor in the row, prepared for a part.

    ``context`` is how many samples it hears before and after those that it gives, ``warm_up`` how many more before
    them it runs through first, with its controls turned: what it remembers from before these is below 1e-7.
    """

    kind: Processor
    context: int
    warm_up: int

    def process(self, signal: Sound, turned: Sequence[Turned]) -> Sound:
        """A span of sound, turned. It is asked only where one of its controls has something to do.

        Parameters
        ----------
        signal : shape (context + warm_up + n + context, 2), the span and its surroundings
        turned : the automations that reach into the span and turn it, over ``warm_up + n`` samples

        Returns
        -------
        shape (n, 2); the very samples of the span where its controls are neutral
        """
        ...
