"""The response of a room that is made up: noise that dies away, its highs sooner than its lows.

Late reverberation is Gaussian noise under an exponential (J. A. Moorer, "About this reverberation business", Computer
Music Journal 3(2), 1979; J.-D. Polack, "La transmission de l'énergie sonore dans les salles", 1988). Both channels have
noise of their own, so the room is as wide as it can be.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import scipy.fft
from numpy.typing import NDArray

EDGES_HZ = (120.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16_000.0)
"""Of the bands in which it dies away; below the first there is none, for a bass that rings is mud."""
DARKEST, BRIGHTEST = 0.12, 1.0
"""For how much of the whole length the highest band rings, by the colour."""
ONSET_S = 0.02
"""Over which the room comes in, so that an attack stays one."""
FADED_SHARE = 0.1
"""The last of the response, over which it comes to an end."""


@lru_cache(maxsize=8)
def room(length_s: float, colour: float, rate: int) -> NDArray[np.float64]:
    """An impulse response that falls by 60 dB in ``length_s`` and then ends; shape (n, 2).

    ``colour`` is from dark (0) to bright (1). Its energy is 1 in each channel: noise comes out as loud as it went in.
    """
    frames = max(1, round(length_s * rate))
    noise = np.random.default_rng(1979).standard_normal((frames, 2))
    spectrum = scipy.fft.rfft(noise, axis=0)
    hz = scipy.fft.rfftfreq(frames, 1.0 / rate)
    t = np.arange(frames) / rate
    out = np.zeros((frames, 2))
    highest = DARKEST * (BRIGHTEST / DARKEST) ** colour
    for n, (low, high) in enumerate(zip(EDGES_HZ, (*EDGES_HZ[1:], rate / 2.0), strict=True)):
        share = highest ** (n / (len(EDGES_HZ) - 1))
        band = scipy.fft.irfft(spectrum * ((hz >= low) & (hz < high))[:, None], frames, axis=0)
        out += band * np.exp(-np.log(1000.0) * t / (length_s * share))[:, None]
    out *= np.minimum(t / ONSET_S, 1.0)[:, None]
    last = max(1, round(FADED_SHARE * frames))
    out[-last:] *= (0.5 + 0.5 * np.cos(np.pi * (np.arange(last) + 1.0) / last))[:, None]
    return np.asarray(out / np.sqrt(np.sum(out**2, axis=0)))
