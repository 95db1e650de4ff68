"""The swept filter: a low-pass and a high-pass of 24 dB an octave whose cut-off may move with every sample.

Each is two state variable filters in a row, in the topology-preserving form, whose states stay what they are while the
coefficients move, so that a sweep makes no noise of its own (V. Zavalishin, "The Art of VA Filter Design", 2012, ch. 4;
A. Simper, "Linear Trapezoidal State Variable Filter", 2013). At rest the two have the quality factors of a fourth-order
Butterworth filter; resonance raises that of the second.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

BUTTERWORTH_Q = (1.0 / (2.0 * np.cos(np.pi / 8.0)), 1.0 / (2.0 * np.cos(3.0 * np.pi / 8.0)))
"""Of the two sections of a fourth-order Butterworth filter: 0.54 and 1.31."""
HIGHEST_Q = 9.0
"""With all of the resonance that there is: 17 dB at the cut-off."""
SLOWEST_DECAY = 55.0
"""Nepers a second by which a resonance dies away at least; one so low that it would ring for longer is damped."""


def swept(
    signal: NDArray[np.float64],
    cutoff_hz: NDArray[np.float64],
    share: NDArray[np.float64],
    resonance: float,
    passes_high: bool,
    rate: int,
) -> NDArray[np.float64]:
    """A signal through a filter, from silence on.

    Parameters
    ----------
    signal : shape (n, channels)
    cutoff_hz : where it cuts off at each sample, shape (n,)
    share : how much of the sound goes through it at each sample, 0 to 1; the rest passes by. Shape (n,)
    resonance : 0 for none, 1 for all
    passes_high : whether it is a high-pass

    Returns
    -------
    as the signal; the very samples of it where ``share`` is 0
    """
    first, second = BUTTERWORTH_Q
    return _swept(signal, cutoff_hz, share, first, second * (HIGHEST_Q / second) ** resonance, passes_high, float(rate))


@njit(cache=True, nogil=True)
def _swept(
    signal: NDArray[np.float64],
    cutoff_hz: NDArray[np.float64],
    share: NDArray[np.float64],
    first_q: float,
    second_q: float,
    passes_high: bool,
    rate: float,
) -> NDArray[np.float64]:
    out = np.empty_like(signal)
    channels = signal.shape[1]
    state = np.zeros((2, channels, 2))
    for n in range(len(signal)):
        hz = min(cutoff_hz[n], 0.49 * rate)
        g = np.tan(np.pi * hz / rate)
        most = np.pi * hz / SLOWEST_DECAY
        for channel in range(channels):
            dry = signal[n, channel]
            x = dry
            for section in range(2):
                q = min(first_q if section == 0 else second_q, max(most, BUTTERWORTH_Q[section]))
                k = 1.0 / q
                a = 1.0 / (1.0 + g * (g + k))
                low, band = state[section, channel, 1], state[section, channel, 0]
                v3 = x - low
                v1 = a * band + g * a * v3
                v2 = low + g * v1
                state[section, channel, 0] = 2.0 * v1 - band
                state[section, channel, 1] = 2.0 * v2 - low
                x = x - k * v1 - v2 if passes_high else v2
            out[n, channel] = dry + share[n] * (x - dry) if share[n] != 0.0 else dry
    return out
