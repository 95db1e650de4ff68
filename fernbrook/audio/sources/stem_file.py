"""Stems as files: FLAC of 24 bits, quieter than they sound, for a stem may be louder than the track that it is of."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from fernbrook.audio.sources.source import Source
from fernbrook.whole import appearing

QUIETER = 0.25
AT_ONCE = 1 << 16


def write_stem(path: Path, sound: NDArray[np.float32], rate: int) -> None:
    """Write a stem, shape (n, 2), all of it or nothing; raises DiskFullError where there is no room."""
    with (
        appearing(path) as partial,
        soundfile.SoundFile(partial, "w", rate, 2, "PCM_24", format="FLAC") as file,
    ):
        for begin in range(0, len(sound), AT_ONCE):
            file.write(sound[begin : begin + AT_ONCE] * np.float32(QUIETER))


class StemSource(Source):
    """A stem read as loud as it sounds."""

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Samples from ``start`` at the mix's rate; shape (frames, 2)."""
        return super().read(start, frames) * np.float32(1.0 / QUIETER)
