"""How much is going on in a track, bar by bar."""

from __future__ import annotations

import numpy as np

from fernbrook.core.track.grid import Grid
from fernbrook.core.value import Value


class Energy(Value):
    """How much is going on in each bar from ``first_bar`` on, from 0 to 1."""

    first_bar: int
    by_bar: tuple[float, ...]

    def recounted(self, before: Grid, now: Grid) -> Energy:
        """The same by the bars of another grid: what is in the bar that their middle lies in."""
        if before == now or not self.by_bar:
            return self
        ends = before.time_at(before.bar_lines.beat_of([self.first_bar, self.first_bar + len(self.by_bar)]))
        first, last = (round(float(bar)) for bar in now.bar_lines.at(now.beat_at(ends)))
        middles = now.time_at(now.bar_lines.beat_of(np.arange(first, max(last, first + 1)) + 0.5))
        places = before.bar_lines.bar_of(before.beat_at(middles)).astype(np.int64) - self.first_bar
        levels = np.array(self.by_bar)[np.clip(places, 0, len(self.by_bar) - 1)]
        return Energy(first_bar=first, by_bar=tuple(levels.tolist()))

    def between(self, start_bar: float, end_bar: float) -> float | None:
        """The mean over whole bars of a span; None where none of them is known."""
        first, last = (int(np.rint(bar)) - self.first_bar for bar in (start_bar, end_bar))
        known = self.by_bar[max(0, first) : max(0, last)]
        return float(np.mean(known)) if known else None
