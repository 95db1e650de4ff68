"""Any number of channels to stereo."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

SURROUND = float(np.sqrt(0.5))
"""Centre and surrounds enter at -3 dB (ITU-R BS.775-3, table 2)."""


def to_stereo(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """Stereo from samples of shape (n, channels): mono goes to both sides, surround is folded in.

    Channels past the second are taken in the usual order of files: centre, low-frequency effects (left out), then
    left and right in turn. Stereo is returned as it is.
    """
    channels = samples.shape[1]
    if channels == 2:
        return samples
    if channels == 1:
        return np.repeat(samples, 2, axis=1)
    stereo = samples[:, :2].copy()
    stereo += np.float32(SURROUND) * samples[:, 2:3]
    for c in range(4, channels):
        stereo[:, c % 2] += np.float32(SURROUND) * samples[:, c]
    return stereo
