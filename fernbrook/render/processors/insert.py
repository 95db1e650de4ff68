"""What an insert is: it turns the sound of a part by some of its controls, in the row with others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.mix.curves import Control, Processor
from fernbrook.core.plan import Automation

Sound = NDArray[np.float64]


@dataclass(frozen=True)
class Turned:
    """An automation over a span of samples: the places in it at which they lie, shape (n,)."""

    automation: Automation
    places: NDArray[np.float64]

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
        turned : the automations that reach into the span and turn it, their places over ``warm_up + n`` samples

        Returns
        -------
        shape (n, 2); the very samples of the span where its controls are neutral
        """
        ...
