"""How much is going on in a track, bar by bar."""

from __future__ import annotations

import numpy as np

from fernbrook.core.value import Value


class Energy(Value):
    """How much is going on in each bar from ``first_bar`` on, from 0 to 1."""

    first_bar: int
    by_bar: tuple[float, ...]

    def between(self, start_bar: float, end_bar: float) -> float | None:
        """The mean over whole bars of a span; None where none of them is known."""
        first, last = (int(np.rint(bar)) - self.first_bar for bar in (start_bar, end_bar))
        known = self.by_bar[max(0, first) : max(0, last)]
        return float(np.mean(known)) if known else None
