"""Writing audio files: whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Iterable
from enum import StrEnum
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

WAV_LIMIT = 4_000_000_000


class OutputFormat(StrEnum):
    """The files that a mix can be rendered to."""

    WAV_16 = "wav16"
    WAV_24 = "wav24"
    WAV_32_FLOAT = "wav32f"
    FLAC_16 = "flac16"
    FLAC_24 = "flac24"

    @property
    def container(self) -> str:
        return "FLAC" if self.value.startswith("flac") else "WAV"

    @property
    def suffix(self) -> str:
        return f".{self.container.lower()}"

    @property
    def subtype(self) -> str:
        """The coding, in libsndfile's words."""
        return {"16": "PCM_16", "24": "PCM_24", "2f": "FLOAT"}[self.value[-2:]]

    @property
    def bytes_per_value(self) -> int:
        return {"PCM_16": 2, "PCM_24": 3, "FLOAT": 4}[self.subtype]


def write_audio(path: Path, blocks: Iterable[NDArray[np.float32]], frames: int, rate: int, output: OutputFormat) -> int:
    """Write blocks of shape (n, 2), ``frames`` in all, to a file and return how many samples it holds.

    The file appears under its name only when it is complete. 16-bit output carries triangular dither of two steps
    (Lipshitz, Wannamaker and Vanderkooy, "Quantization and dither", JAES 40(5), 1992), the same each time.
    """
    partial = path.with_name(f".{path.name}.part")
    dither = np.random.default_rng(16)
    written = 0
    try:
        container = _container(output, frames)
        with soundfile.SoundFile(partial, "w", rate, 2, subtype=output.subtype, format=container) as file:
            for block in blocks:
                file.write(_dithered(block, dither) if output.subtype == "PCM_16" else block)
                written += len(block)
        with partial.open("rb+") as done:
            os.fsync(done.fileno())
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)
    return written


def _container(output: OutputFormat, frames: int) -> str:
    """The container, in libsndfile's words; a WAV too large for its 32-bit sizes becomes an RF64 (EBU Tech 3306)."""
    if output.container == "WAV" and frames * 2 * output.bytes_per_value > WAV_LIMIT:
        return "RF64"
    return output.container


def _dithered(block: NDArray[np.float32], noise: np.random.Generator) -> NDArray[np.int16]:
    step = noise.random(block.shape, dtype=np.float32) - noise.random(block.shape, dtype=np.float32)
    return np.clip(np.rint(block * np.float32(32768.0) + step), -32768, 32767).astype(np.int16)
