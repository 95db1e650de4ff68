"""The beats of a mix at its samples."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.plan import RATE
from fernbrook.core.tempo_map import TempoMap
from fernbrook.render.control_rate import steps_of


def beats_at_steps(tempo: TempoMap, start: int, end: int) -> NDArray[np.float64]:
    """The beat at each step of a span at which controls are worked out, and at its end."""
    return np.asarray(tempo.beat_at(steps_of(start, end) / RATE))


@lru_cache(maxsize=12)
def beats_at(tempo: TempoMap, start: int, end: int) -> NDArray[np.float64]:
    """The beat at each sample of a span: the same for all that sound in it, so it is kept for the next one."""
    beats = tempo.beat_at(np.arange(start, end) / RATE)
    beats.flags.writeable = False
    return beats
