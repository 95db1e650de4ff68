"""A file as those who play it hear it: decoded again after it was written."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np

from fernbrook.audio.measures import Loudness, LoudnessMeter


def loudness_of(path: Path) -> Loudness:
    """Loudness and true peak of a file of any kind that was written here, decoded as a player does it."""
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        meter = LoudnessMeter(stream.rate)
        resampler = av.AudioResampler(format="flt", layout="stereo", rate=stream.rate)
        for frame in container.decode(stream):
            for piece in resampler.resample(frame):
                meter.add(np.asarray(piece.to_ndarray(), dtype=np.float32).reshape(-1, 2))
    return meter.result()
