"""What the renderer plays: a source, how it is read, and what is done to it. Where it came from does not matter."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fernbrook.core.mix.transition import SideCurves
from fernbrook.core.plan.time_map import Segment, TimeMap
from fernbrook.core.track.grid import FloatArray


@dataclass(frozen=True)
class Automation:
    """Curves over a span of the mix. Before the span their first value holds, after it their last."""

    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    curves: SideCurves

    def places(self, beats: FloatArray) -> FloatArray:
        """Places in the span, 0 at its start and 1 at its end, for beats of the mix; same shape."""
        return np.asarray((beats - self.start_beat) / (self.end_beat - self.start_beat))


@dataclass(frozen=True)
class Part:
    """A stretch of one source in the mix.

    ``owner`` is the id of the entry that it belongs to, ``source`` the id of the track whose audio it plays, ``name``
    what messages call it; ``pitch`` is the factor by which its frequencies are higher than the source's. Its edges are
    softened by a few milliseconds where it comes in or goes by itself.
    """

    owner: str
    source: str
    name: str
    start_s: float
    end_s: float
    time_map: TimeMap
    segments: tuple[Segment, ...]
    gain_db: float
    pitch: float
    automations: tuple[Automation, ...]
    comes_in: bool
    goes: bool
