"""What a sample may be.

A file with samples that are no numbers, or that lie absurdly far beyond full scale, is damaged: it is refused wherever
it is read, for a single such sample silences or deafens all that it meets.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fernbrook.errors import AudioFileError

MOST_DB = 60.0
MOST = 10.0 ** (MOST_DB / 20.0)


def check_samples(samples: NDArray[np.float32], name: str, at_s: float, rate: int) -> None:
    """Raise AudioFileError where samples of shape (n, channels), the first at ``at_s`` seconds, cannot be sound."""
    if not samples.size or np.abs(samples).max() <= MOST:
        return
    bad = ~(np.abs(samples).max(axis=1) <= MOST)
    where = at_s + int(np.argmax(bad)) / rate
    what = (
        f"samples more than {MOST_DB:g} dB beyond full scale"
        if np.isfinite(samples).all()
        else "samples that are no numbers"
    )
    raise AudioFileError(
        f"‘{name}’ holds {what}, the first at {where:.2f} s: it is damaged. Export it again where it was made."
    )
