"""The three-band equaliser of a transition.

The bands are those of an eighth-order Linkwitz-Riley crossover without its phase shift. So a band that is left alone
stays as it is in time as well as in level, neutral settings give back the input to the bit, and beats do not move when
the equaliser works.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fernbrook.audio.effects.zero_phase import CONTEXT, band_beyond


def equalise(
    signal: NDArray[np.float64],
    low: NDArray[np.float64],
    mid: NDArray[np.float64],
    high: NDArray[np.float64],
    edges_hz: tuple[float, float],
    rate: int,
) -> NDArray[np.float64]:
    """Apply a gain to each band of a stereo signal.

    Parameters
    ----------
    signal : shape (n + 2 * CONTEXT, 2), the span to equalise with its surroundings
    low, mid, high : linear gains per sample, shape (n,)
    edges_hz : where low and mid, and mid and high, meet

    Returns
    -------
    shape (n, 2)
    """
    middle = signal[CONTEXT:-CONTEXT]
    out = middle * mid[:, None]
    bands: tuple[tuple[NDArray[np.float64], Literal["lowpass", "highpass"], float], ...] = (
        (low, "lowpass", edges_hz[0]),
        (high, "highpass", edges_hz[1]),
    )
    for gain, side, hz in bands:
        if np.any(gain != mid):
            _add(out, band_beyond(signal, side, hz, rate)[CONTEXT:-CONTEXT], gain, mid)
    return out


@njit(cache=True, nogil=True)
def _add(
    out: NDArray[np.float64], band: NDArray[np.float64], gain: NDArray[np.float64], mid: NDArray[np.float64]
) -> None:
    """Add what a band has more than the middle, in place."""
    for n in range(len(out)):
        extra = gain[n] - mid[n]
        out[n, 0] += extra * band[n, 0]
        out[n, 1] += extra * band[n, 1]
