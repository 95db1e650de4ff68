"""The rate at which controls are worked out.

Where a control stands is worked out once in ``STEP`` samples (0.36 ms), and it goes straight from one of these to the
next. What that differs from its curve by is below what is heard: the fastest fader moves by a tenth of its way in that
time. Blocks hold a whole number of steps, so what comes out is the same wherever a render begins.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

STEP = 16
_SHARES = np.arange(STEP) / STEP


def steps_of(start: int, end: int) -> NDArray[np.int64]:
    """The samples of a span at which controls are worked out, its end with them; the span holds whole steps."""
    return np.arange(start, end + 1, STEP)


def straight(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values at the steps of a span, shape (n + 1,), at each of its samples; shape (n * STEP,). One that stays the same
    does so exactly."""
    return np.asarray(values[:-1, None] + np.diff(values)[:, None] * _SHARES).ravel()
